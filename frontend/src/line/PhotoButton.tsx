import { useRef, useState } from "react";
import { newId, ProblemError, sent } from "../api/client";
import { useOutbox } from "../api/outbox";
import type { Job } from "../api/types";
import { say } from "../texts/say";
import { Button } from "../ui/parts";

/** A photograph kept with the job, or with one act of it; where it was taken is removed. */
export function PhotoButton({ job, of = "" }: { job: Job; of?: string }) {
  const outbox = useOutbox();
  const picker = useRef<HTMLInputElement>(null);
  const [isSending, setIsSending] = useState(false);
  const take = async (file: File | undefined) => {
    if (!file) return;
    setIsSending(true);
    try {
      outbox.accept(await sent<Job>(`/api/jobs/${job.id}/photos`, file, { act_id: newId(), of }));
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setIsSending(false);
      if (picker.current) picker.current.value = "";
    }
  };
  const photos = job.acts.flatMap((a) => (a.body.kind === "photographed" && a.body.of === of ? [a.body.file] : []));
  return (
    <div className="flex flex-wrap items-center gap-2">
      <input
        ref={picker}
        type="file"
        className="hidden"
        accept="image/jpeg,image/png,image/webp"
        capture="environment"
        aria-label={say("Photograph")}
        onChange={(e) => void take(e.target.files?.[0])}
      />
      <Button onClick={() => picker.current?.click()}>
        {isSending ? say("Attaching…") : say("Attach a photograph")}
      </Button>
      {photos.map((file, i) => (
        <a key={file} href={`/api/photos/${file}.jpg`} target="_blank" rel="noreferrer">
          <img
            src={`/api/photos/${file}.jpg`}
            alt={say("Attached {i}", { i: i + 1 })}
            className="h-12 rounded border border-hair2"
          />
        </a>
      ))}
    </div>
  );
}
