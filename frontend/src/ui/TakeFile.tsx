import { useRef } from "react";
import { Button } from "./parts";

type TakeFileProps = {
  /** What the file is, for whoever does not see the button. */
  label: string;
  children: string;
  accept: string;
  /** A tablet opens its camera. */
  byCamera?: boolean;
  kind?: "quiet";
  onTaken: (file: File) => void;
};

/** A button that asks for a file; the same one may be given twice. */
export function TakeFile({ label, children, accept, byCamera = false, kind, onTaken }: TakeFileProps) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={picker}
        type="file"
        className="hidden"
        accept={accept}
        {...(byCamera ? { capture: "environment" as const } : {})}
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) onTaken(file);
        }}
      />
      <Button {...(kind ? { kind } : {})} onClick={() => picker.current?.click()}>
        {children}
      </Button>
    </>
  );
}
