import { type ReactNode, useRef } from "react";
import { Button } from "./parts";

type FileButtonProps = {
  children: ReactNode;
  /** What the file is, for whoever does not see the button. */
  label: string;
  accept: string;
  onFile: (file: File) => void;
  kind?: "go" | "plain";
  disabled?: boolean;
};

/** A button that asks for one file; the same file can be chosen again. */
export function FileButton({ children, label, accept, onFile, kind = "plain", disabled = false }: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) onFile(file);
        }}
      />
      <Button kind={kind} disabled={disabled} onClick={() => input.current?.click()}>
        {children}
      </Button>
    </>
  );
}
