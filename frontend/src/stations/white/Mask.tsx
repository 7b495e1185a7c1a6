import { useRef, useState } from "react";
import { ProblemError, sent } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { JobLine } from "../../line/useJobLine";
import { Button, Switch } from "../../ui/parts";

/** Where white lies by a picture of its own: a mask drawn for this artwork, as large as it. */
export function Mask({ jobLine }: { jobLine: JobLine }) {
  const outbox = useOutbox();
  const picker = useRef<HTMLInputElement>(null);
  const [isSending, setSending] = useState(false);
  const doc = jobLine.document("white");
  const take = async (file: File | undefined) => {
    if (!file) return;
    setSending(true);
    try {
      const got = await sent<{ file: string }>("/api/artworks", file);
      jobLine.done("white", { mask: got.file });
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setSending(false);
      if (picker.current) picker.current.value = "";
    }
  };
  return (
    <section aria-label="Where white comes from">
      <input
        ref={picker}
        type="file"
        className="hidden"
        accept=".png,.jpg,.jpeg,.tif,.tiff,.webp"
        aria-label="A picture for the white"
        onChange={(e) => void take(e.target.files?.[0])}
      />
      <div className="flex flex-wrap items-center gap-2">
        <span>
          White follows <span className="font-semibold">{doc.mask ? "a picture of its own" : "the artwork"}</span>
        </span>
        <Button kind="quiet" onClick={() => picker.current?.click()}>
          {isSending ? "Sending…" : doc.mask ? "Another picture" : "Take a picture of its own"}
        </Button>
        {doc.mask && (
          <Button kind="quiet" onClick={() => jobLine.done("white", { mask: null })}>
            Follow the artwork
          </Button>
        )}
      </div>
      {doc.mask && (
        <Switch
          label="White lies where it is dark"
          hint="off: where it is light"
          value={doc.mask_dark ?? false}
          onChange={(mask_dark) => jobLine.done("white", { mask_dark })}
        />
      )}
    </section>
  );
}
