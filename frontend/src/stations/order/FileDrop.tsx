import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { api, ProblemError, problemOf, sent } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Begun, Progress } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { useHotkeys } from "../../ui/keys";
import { Button } from "../../ui/parts";

type Looking = { begun: Begun; progress: Progress | null; found: string[] };

/** Takes a picture file in: its header at once, then what is found in it one by one, then it is placed; or refused. */
export function useArtworkFile(jobLine: JobLine) {
  const outbox = useOutbox();
  const picker = useRef<HTMLInputElement>(null);
  const [isSending, setIsSending] = useState(false);
  const [looking, setLooking] = useState<Looking | null>(null);
  const latest = useRef({ jobLine, sayProblem: outbox.sayProblem });
  latest.current = { jobLine, sayProblem: outbox.sayProblem };
  const key = looking?.begun.key;
  const file = looking?.begun.file;
  useEffect(() => {
    if (!key || !file) return;
    const events = new EventSource(`/api/long-work/${key}/events`);
    const { jobLine: here } = latest.current;
    let isOver = false;
    const end = () => {
      isOver = true;
      events.close();
      setLooking(null);
    };
    const place = () => {
      end();
      here.done("place", { file, page: 1 });
    };
    events.onmessage = (message) => {
      const now = JSON.parse(message.data as string) as Progress;
      setLooking((was) => was && { ...was, progress: now, found: [...was.found, ...(now.said ?? [])] });
      if (now.stage === "done") place();
      else if (now.stage === "cancelled") end();
      else if (now.stage === "failed") {
        end();
        if (now.problem) latest.current.sayProblem(problemOf(now.problem));
      }
    };
    // Whoever goes on to another station meanwhile has not taken the file back.
    return () => {
      if (!isOver) place();
    };
  }, [key, file]);
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    setIsSending(true);
    try {
      const { job } = jobLine;
      const begun = await sent<Begun>(`/api/jobs/${job.id}/artworks?print=${encodeURIComponent(job.print)}`, chosen);
      if (begun.key) setLooking({ begun, progress: null, found: [] });
      else jobLine.done("place", { file: begun.file, page: 1 });
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setIsSending(false);
      if (picker.current) picker.current.value = "";
    }
  };
  const stop = () => {
    if (key) void api.DELETE("/api/long-work/{key}", { params: { path: { key } } });
  };
  const choose = () => picker.current?.click();
  const input = (
    <input
      ref={picker}
      type="file"
      className="hidden"
      aria-label={say("Artwork file")}
      accept=".png,.jpg,.jpeg,.tif,.tiff,.webp,.pdf,.svg"
      onChange={(e) => void take(e.target.files?.[0])}
    />
  );
  return { take, choose, input, isSending, looking, stop };
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
      {file.isSending && (
        <p
          role="status"
          className="absolute bottom-3 left-1/2 -translate-x-1/2 rounded-lg border border-hair2 bg-panel px-4 py-2"
        >
          {say("The file is being sent…")}
        </p>
      )}
      {file.looking && (
        <BeingLookedAt looking={file.looking} onStop={file.stop} place="absolute top-4 right-6 w-[380px]" />
      )}
    </div>
  );
}

/** What the header says, and what was found so far; the piece behind stays as it was until all is known. */
export function BeingLookedAt({ looking, onStop, place }: { looking: Looking; onStop: () => void; place: string }) {
  const units = useUnits();
  const { begun, progress, found } = looking;
  const { header: h } = begun;
  const size = h.pixels
    ? `${h.pixels[0]} x ${h.pixels[1]} px`
    : h.real_mm
      ? h.real_mm.map(units.length).join(" x ")
      : "";
  const kind = h.kind === "PDF" && (h.pages ?? 1) > 1 ? say("PDF, {pages} pages", { pages: h.pages }) : h.kind;
  return (
    <section
      aria-label={say("The file that came in")}
      className={`rounded-lg border border-hair2 bg-panel p-4 ${place}`}
    >
      <h2 className="font-bold">{begun.name}</h2>
      <p className="num">{[size, kind, h.mode].filter(Boolean).join(" · ")}</p>
      <p className="text-soft">
        {h.profile ?? (h.pixels ? say("no profile, read as sRGB") : say("a drawing: sharp at every size"))}
        {begun.ppi != null &&
          say(" · {ppi} ppi at {width_mm}", { ppi: begun.ppi.toFixed(0), width_mm: units.length(begun.width_mm) })}
      </p>
      <ul aria-live="polite" className="mt-2 flex flex-col gap-1">
        {found.map((f) => (
          <li key={f} className="border-l-4 border-hair2 pl-2">
            {f}
          </li>
        ))}
      </ul>
      <p role="status" className="mt-2 text-sm text-soft">
        {progress?.whole
          ? say("{done} of {whole} {unit}", { done: progress.done, whole: progress.whole, unit: progress.unit })
          : say("waits for the shop's computer")}
      </p>
      <div className="mt-2">
        <Button onClick={onStop}>{say("Leave it")}</Button>
      </div>
    </section>
  );
}
