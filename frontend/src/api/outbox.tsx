import { useQueryClient } from "@tanstack/react-query";
import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
} from "react";
import { api, newId, ProblemError, told } from "./client";
import type { Act, ActBody, Document, Job, Welcome } from "./types";

/** by: who did it. On a shared screen it waits for its own person, so that nobody's act is written to another. */
type Letter =
  | { id: string; kind: "act"; by?: string; job: string; print?: string; at: string; body: ActBody }
  | {
      id: string;
      kind: "decision";
      by?: string;
      job: string;
      print?: string;
      station: Document;
      base: number;
      body: Record<string, unknown>;
    };

type Outbox = {
  waiting: number;
  /** Others who did things here that wait until they sign in again. */
  others: string[];
  problem: ProblemError | null;
  /** Everything done here was sent, or the server is away. */
  sent: () => Promise<void>;
  clearProblem: () => void;
  sayProblem: (problem: ProblemError) => void;
  /** Take a job that the server answered with as the newest. */
  accept: (job: Job) => void;
  act: (job: string, body: ActBody, print?: string, id?: string) => string;
  /** Slots of pieces pressed here that the server has not been told of yet. */
  unsent: (job: string, print: string) => string[];
  /** Stages of preparing that the server has not been told of yet. */
  unsentPrepared: (job: string) => { run: string; stage: string; count: number }[];
  decide: (job: string, print: string, station: Document, base: number, body: Record<string, unknown>) => void;
};

const KEY = "offsetter.outbox";
const AGAIN_MS = 2_500;
const OutboxContext = createContext<Outbox | null>(null);

export function useOutbox(): Outbox {
  const outbox = useContext(OutboxContext);
  if (!outbox) throw new Error("useOutbox needs an OutboxProvider");
  return outbox;
}

/** What hands did and decided, in order, kept in the browser until the server has said it holds it. */
export function OutboxProvider({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const [letters, setLetters] = useState<Letter[]>(read);
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const sending = useRef<Promise<void> | null>(null);
  const kept = useRef(letters);

  const accept = useCallback(
    (job: Job) => {
      const isFirst = job.prints[0]?.id === job.print;
      for (const print of isFirst ? ["", job.print] : [job.print])
        queries.setQueryData(["job", job.id, print, ""], job);
      // The same job seen from elsewhere is asked for again when it is looked at.
      queries.invalidateQueries({
        queryKey: ["job", job.id],
        predicate: (q) => q.queryKey[3] !== "" || (q.queryKey[2] !== job.print && !(isFirst && q.queryKey[2] === "")),
      });
      queries.invalidateQueries({ queryKey: ["press-card", job.id] });
      queries.invalidateQueries({ queryKey: ["leftovers"] });
      queries.invalidateQueries({ queryKey: ["jobs"] });
      queries.invalidateQueries({ queryKey: ["logbook"] });
    },
    [queries],
  );

  const me = useCallback(() => queries.getQueryData<Welcome>(["welcome"])?.me?.name ?? "", [queries]);
  // Looked at, not asked for: the gate asks. Somebody else's name sets other letters free.
  const name = useSyncExternalStore(
    useCallback((changed) => queries.getQueryCache().subscribe(changed), [queries]),
    me,
  );

  const keep = useCallback((next: Letter[]) => {
    kept.current = next;
    localStorage.setItem(KEY, JSON.stringify(next));
    setLetters(next);
  }, []);

  const sendAll = useCallback(async () => {
    for (;;) {
      const letter = kept.current.find((l) => isBy(l, me()));
      if (!letter) return;
      try {
        accept(await post(letter));
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        if (error.isAway) return;
        // In another tab somebody else may have signed in meanwhile.
        if (error.code === "may-not") await queries.refetchQueries({ queryKey: ["welcome"] });
        if (!isBy(letter, me())) continue;
        setProblem(error.about(letter.job));
        queries.invalidateQueries({ queryKey: ["job", letter.job] });
      }
      keep(kept.current.filter((l) => l.id !== letter.id));
    }
  }, [accept, keep, queries, me]);

  /** One sending at a time: who asks while one goes on waits for that one. */
  const send = useCallback(() => {
    sending.current ??= sendAll().finally(() => {
      sending.current = null;
    });
    return sending.current;
  }, [sendAll]);

  useEffect(() => {
    void send();
    const again = setInterval(() => void send(), AGAIN_MS);
    const online = () => void send();
    window.addEventListener("online", online);
    return () => {
      clearInterval(again);
      window.removeEventListener("online", online);
    };
  }, [send]);

  const outbox = useMemo<Outbox>(
    () => ({
      waiting: letters.filter((l) => isBy(l, name)).length,
      others: [...new Set(letters.flatMap((l) => (l.by && l.by !== name ? [l.by] : [])))],
      problem,
      sent: send,
      clearProblem: () => setProblem(null),
      sayProblem: setProblem,
      accept,
      act: (job, body, print = "", id = newId()) => {
        keep([...kept.current, { id, kind: "act", by: me(), job, print, at: new Date().toISOString(), body }]);
        void send();
        return id;
      },
      unsent: (job, print) =>
        letters.flatMap((l) =>
          l.kind === "act" && l.job === job && l.body.kind === "pressed" && l.body.print === print
            ? Array<string>(l.body.count ?? 1).fill(slotOf(l.body))
            : [],
        ),
      unsentPrepared: (job) =>
        letters.flatMap((l) =>
          l.kind === "act" && l.job === job && l.body.kind === "prepared"
            ? [{ run: l.body.run ?? "", stage: l.body.stage ?? "", count: l.body.count ?? 0 }]
            : [],
        ),
      decide: (job, print, station, base, body) => {
        const isSame = (l: Letter) =>
          l.kind === "decision" && l.station === station && l.job === job && (l.print ?? "") === print && l.by === me();
        // A second change of the same document before the first was sent stands for both.
        const earlier = kept.current.find((l, i) => i > 0 && isSame(l));
        const rest = earlier ? kept.current.filter((l) => l !== earlier) : kept.current;
        const queued = rest.filter(isSame).length;
        keep([...rest, { id: newId(), kind: "decision", by: me(), job, print, station, base: base + queued, body }]);
        void send();
      },
    }),
    [letters, name, problem, accept, keep, send, me],
  );
  return <OutboxContext.Provider value={outbox}>{children}</OutboxContext.Provider>;
}

/** The slot that a pressed act is about: "a/M", or "a/M#7" for a numbered piece. */
export function slotOf(body: { line?: string; size?: string; number?: number | null }): string {
  return `${body.line ?? "a"}/${body.size ?? ""}${body.number ? `#${body.number}` : ""}`;
}

export function partsOf(slot: string): { line: string; size: string; number: number | null } {
  const [, line = "a", size = "", number] = /^([^/]*)\/([^#]*)(?:#(\d+))?$/.exec(slot) ?? [];
  return { line, size, number: number ? Number(number) : null };
}

function read(): Letter[] {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "[]") as Letter[];
  } catch {
    return [];
  }
}

function isBy(letter: Letter, name: string): boolean {
  return !letter.by || letter.by === name;
}

function post(letter: Letter): Promise<Job> {
  const { by = "" } = letter;
  if (letter.kind === "act") {
    const { id, job, at, body, print = "" } = letter;
    const sent_at = new Date().toISOString();
    return told<Job>(api.POST("/api/acts", { body: { id, job, at, sent_at, body: body as Act["body"], print, by } }));
  }
  const { job, station, base, body, print = "" } = letter;
  const params = { path: { job_id: job, station } };
  return told<Job>(api.PUT("/api/jobs/{job_id}/decisions/{station}", { params, body: { base, body, print, by } }));
}
