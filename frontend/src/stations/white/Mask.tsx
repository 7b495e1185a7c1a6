import { useState } from "react";
import { ProblemError, sent } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { JobLine } from "../../line/useJobLine";
import { Button, Switch } from "../../ui/parts";
import { TakeFile } from "../../ui/TakeFile";

/** Where white lies by a picture of its own: a mask drawn for this artwork, as large as it. */
export function Mask({ jobLine }: { jobLine: JobLine }) {
  const outbox = useOutbox();
  const [isSending, setSending] = useState(false);
  const doc = jobLine.document("white");
  const take = async (file: File) => {
    setSending(true);
    try {
      const got = await sent<{ file: string }>("/api/artworks", file);
      jobLine.done("white", { mask: got.file });
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setSending(false);
    }
  };
  return (
    <section aria-label="Where white comes from">
      <div className="flex flex-wrap items-center gap-2">
        <span>
          White follows <span className="font-semibold">{doc.mask ? "a picture of its own" : "the artwork"}</span>
        </span>
        <TakeFile
          kind="quiet"
          label="A picture for the white"
          accept=".png,.jpg,.jpeg,.tif,.tiff,.webp"
          onTaken={(file) => void take(file)}
        >
          {isSending ? "Sending…" : doc.mask ? "Another picture" : "Take a picture of its own"}
        </TakeFile>
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
