import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, othersFirst, ProblemError, problemOf, told } from "../api/client";
import { useOutbox } from "../api/outbox";
import type { Decisions, Document, Finding, Job, Line, Reading, StationName } from "../api/types";

type Draft = { station: Document; body: Record<string, unknown>; isSaving: boolean; base: number };
type Changes = Record<string, unknown>;

export type JobLine = {
  job: Job;
  line: Line;
  before: Map<string, Reading>;
  /** A document as it stands on the screen, a change not yet saved included. */
  document: <D extends Document>(station: D) => NonNullable<Decisions[D]>;
  /** While a gesture goes on: the line is worked out, nothing is saved. */
  move: (station: Document, changes: Changes) => void;
  /** The gesture ended: one revision. */
  done: (station: Document, changes: Changes) => void;
  patch: (finding: Finding) => void;
  settle: (station: StationName) => void;
  undo: () => void;
  redo: () => void;
  fieldErrors: Record<string, string>;
};

export function useJobLine(
  id: string,
  print = "",
  kind = "",
): {
  line: JobLine | null;
  error: Error | null;
  isLoading: boolean;
} {
  const outbox = useOutbox();
  const queries = useQueryClient();
  const query = useQuery({
    queryKey: ["job", id, print, kind],
    queryFn: () =>
      told<Job>(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id }, query: { print, kind } } })),
  });
  const [draft, setDraft] = useState<Draft | null>(null);
  const [tried, setTried] = useState<Line | null>(null);
  const [before, setBefore] = useState<Map<string, Reading>>(new Map());
  const [fieldErrors, setFieldErrors] = useState<Record<string, string>>({});
  const job = query.data ?? null;
  const latest = useRef({ job, draft });
  latest.current = { job, draft };

  // An answer that comes after the draft was saved is about the past: the job itself says more. While the hand goes on
  // its figures are shown as they come; pictures are asked for where it rests.
  const showTried = useCallback((line: Line, isNewest: boolean) => {
    const { job: now, draft: open } = latest.current;
    if (!open || !now || (open.isSaving && !isNewest)) return;
    setTried((last) => (isNewest ? line : withPicturesOf(last ?? now.line, line)));
  }, []);
  const attempt = useAttempts(id, print, kind, showTried, setFieldErrors);

  // The server holds what was drafted: its line is the line.
  useEffect(() => {
    if (job && draft?.isSaving && (job.revisions[draft.station] ?? 0) > draft.base) {
      setDraft(null);
      setTried(null);
    }
  }, [job, draft]);
  // A refused save goes back to what is saved.
  useEffect(() => {
    if (outbox.problem) {
      setDraft(null);
      setTried(null);
    }
  }, [outbox.problem]);

  // A key can fall between a save's answer and the next picture of it: the answer is in the cache already.
  const revisionOf = useCallback(
    (station: Document): number => {
      const known = queries.getQueriesData<Job>({ queryKey: ["job", id] }).map(([, j]) => j);
      const here = [latest.current.job, ...known].filter((j) => j && j.print === latest.current.job?.print);
      return Math.max(0, ...here.map((j) => j?.revisions[station] ?? 0));
    },
    [queries, id],
  );

  const bodyOf = useCallback((station: Document): Record<string, unknown> => {
    const { job: now, draft: open } = latest.current;
    if (open?.station === station) return open.body;
    const saved = now?.line.decisions[station] ?? (station === "method" ? now?.line.way : null);
    return { ...(saved as Record<string, unknown>) };
  }, []);

  const move = useCallback(
    (station: Document, changes: Changes) => {
      const { job: now, draft: open } = latest.current;
      if (!now) return;
      if (!open) setBefore(new Map(now.line.readings.map((r) => [r.key, r])));
      const body = { ...bodyOf(station), ...changes };
      // Back where it was: nothing is drafted, and the job's own line shows again.
      if (!open?.isSaving && isSame(body, now.line.decisions[station] as Record<string, unknown> | null)) {
        setDraft(null);
        setTried(null);
        return;
      }
      setDraft({ station, body, isSaving: false, base: now.revisions[station] ?? 0 });
      attempt(station, body);
    },
    [attempt, bodyOf],
  );

  const done = useCallback(
    (station: Document, changes: Changes) => {
      const { job: now, draft: open } = latest.current;
      if (!now) return;
      if (!open) setBefore(new Map(now.line.readings.map((r) => [r.key, r])));
      const body = { ...bodyOf(station), ...changes };
      const base = revisionOf(station);
      setDraft({ station, body, isSaving: true, base });
      // What the last move asked already needs no second answer.
      if (open?.station !== station || JSON.stringify(open.body) !== JSON.stringify(body)) attempt(station, body);
      outbox.decide(now.id, print, station, base, body);
    },
    [attempt, bodyOf, outbox, print, revisionOf],
  );

  const settle = useCallback(
    (station: StationName) => {
      const now = latest.current.job;
      if (!now) return;
      const documents: Document[] = station === "order" ? ["order", "place"] : [station as Document];
      for (const document of documents) {
        const base = revisionOf(document);
        const body = { ...bodyOf(document), settled: true };
        // A gesture that ends a moment later goes on from here.
        if (latest.current.draft?.station === document) setDraft({ station: document, body, isSaving: true, base });
        outbox.decide(now.id, print, document, base, body);
      }
    },
    [bodyOf, outbox, print, revisionOf],
  );

  const step = useCallback(
    async (way: "undo" | "redo") => {
      const params = { path: { job_id: id } };
      try {
        // What was decided a moment ago is what is taken back, not the decision before it.
        await outbox.sent();
        const now = await told<Job>(
          way === "undo"
            ? api.POST("/api/jobs/{job_id}/undo", { params })
            : api.POST("/api/jobs/{job_id}/redo", { params }),
        );
        setDraft(null);
        setTried(null);
        outbox.accept(now);
      } catch (error) {
        outbox.sayProblem(error instanceof ProblemError ? error : problemOf(error));
      }
    },
    [id, outbox],
  );

  if (!job) return { line: null, error: query.error, isLoading: query.isLoading };
  const line: JobLine = {
    job,
    line: tried ?? job.line,
    before,
    document: (station) => bodyOf(station) as never,
    move,
    done,
    patch: (finding) => finding.patch && done(finding.patch.station as Document, finding.patch.changes),
    settle,
    undo: () => void step("undo"),
    redo: () => void step("redo"),
    fieldErrors,
  };
  return { line, error: null, isLoading: false };
}

/** Tries at the server, one at a time, the newest wanted one next: a fast hand never queues up old questions. */
function useAttempts(
  id: string,
  print: string,
  kind: string,
  onLine: (line: Line, isNewest: boolean) => void,
  onErrors: (errors: Record<string, string>) => void,
) {
  const wanted = useRef<{ station: Document; body: Record<string, unknown> } | null>(null);
  const isAsking = useRef(false);
  return useCallback(
    (station: Document, body: Record<string, unknown>) => {
      wanted.current = { station, body };
      if (isAsking.current) return;
      isAsking.current = true;
      void (async () => {
        while (wanted.current) {
          const asked = wanted.current;
          wanted.current = null;
          try {
            const params = { path: { job_id: id } };
            const line = await told<Line>(
              api.POST("/api/jobs/{job_id}/try", { params, body: { ...asked, print, kind } }),
            );
            onErrors({});
            onLine(line, !wanted.current);
          } catch (error) {
            const more = (error as { more?: Record<string, unknown> }).more ?? {};
            onErrors((more.fields as Record<string, string>) ?? {});
          }
          await othersFirst();
        }
        isAsking.current = false;
      })();
    },
    [id, print, kind, onLine, onErrors],
  );
}

function withPicturesOf(shown: Line, line: Line): Line {
  return { ...line, pictures: shown.pictures, run_pictures: shown.run_pictures };
}

function isSame(one: Record<string, unknown>, other: Record<string, unknown> | null | undefined): boolean {
  if (!other) return false;
  const keys = new Set([...Object.keys(one), ...Object.keys(other)]);
  return [...keys].every((k) => JSON.stringify(one[k]) === JSON.stringify(other[k]));
}
