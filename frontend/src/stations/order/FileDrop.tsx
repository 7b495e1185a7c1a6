import { type ReactNode, useMemo, useRef, useState } from "react";
import { ProblemError, sent } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import { useHotkeys } from "../../keys";
import type { JobLine } from "../../line/useJobLine";

/** Takes a picture file in: sent, measured in a process of its own, then placed; or refused. */
export function useArtworkFile(jobLine: JobLine) {
  const outbox = useOutbox();
  const picker = useRef<HTMLInputElement>(null);
  const [isReading, setIsReading] = useState(false);
  const take = async (file: File | undefined) => {
    if (!file) return;
    setIsReading(true);
    try {
      jobLine.done("place", { file: (await sent<{ file: string }>("/api/artworks", file)).file, page: 1 });
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setIsReading(false);
      if (picker.current) picker.current.value = "";
    }
  };
  const choose = () => picker.current?.click();
  const input = (
    <input
      ref={picker}
      type="file"
      className="hidden"
      aria-label="Artwork file"
      accept=".png,.jpg,.jpeg,.tif,.tiff,.webp,.pdf,.svg"
      onChange={(e) => void take(e.target.files?.[0])}
    />
  );
  return { take, choose, input, isReading };
}

type FileDropProps = { file: ReturnType<typeof useArtworkFile>; children: ReactNode };

export function FileDrop({ file, children }: FileDropProps) {
  const [isOver, setIsOver] = useState(false);
  const keys = useMemo(() => ({ u: file.choose }), [file.choose]);
  useHotkeys(keys);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: a drop target; the same is done by key U and the button
    <div
      className={`relative flex min-h-0 grow flex-col ${isOver ? "outline-3 -outline-offset-4 outline-act" : ""}`}
      onDragOver={(e) => {
        e.preventDefault();
        setIsOver(true);
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setIsOver(false);
        void file.take(e.dataTransfer.files[0]);
      }}
    >
      {file.input}
      {children}
      {file.isReading && (
        <p
          role="status"
          className="absolute bottom-3 left-1/2 -translate-x-1/2 rounded-lg border border-hair2 bg-panel px-4 py-2"
        >
          Reading and measuring the file…
        </p>
      )}
    </div>
  );
}
