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
import { say } from "../texts/say";
import { api, newId, ProblemError, told } from "./client";
import { keep } from "./keep";
import { alone, announce, drop, every, hasRoom, type Letter, put, takeOver, whenChanged } from "./letters";
import type { Act, ActBody, Document, Job, Welcome } from "./types";

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
  unsent: (job: string, print: string) => Unsent;
  /** Stages of preparing that the server has not been told of yet. */
  unsentPrepared: (job: string) => { run: string; stage: string; count: number }[];
  decide: (job: string, print: string, station: Document, base: number, body: Record<string, unknown>) => void;
};

const AGAIN_MS = 2_500;
const LATEST_MS = 60_000;
const FULL = new ProblemError(
  "browser-full",
  say("This browser's store is full: it cannot keep what is done."),
  say("What waits is still here while this page stays open."),
  say("Do not close this page before the shop's computer answers; then make room in the browser."),
);
const OutboxContext = createContext<Outbox | null>(null);

export function useOutbox(): Outbox {
  const outbox = useContext(OutboxContext);
  if (!outbox) throw new Error("useOutbox needs an OutboxProvider");
  return outbox;
}

/** What hands did and decided, in order, kept in the browser until the server has said it holds it. */
export function OutboxProvider({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const [letters, setLetters] = useState<Letter[]>([]);
  const [isOpen, setIsOpen] = useState(false);
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const sending = useRef<Promise<void> | null>(null);
  const kept = useRef(letters);
  /** Done here, and not yet said to be in the browser's store. */
  const pending = useRef<Letter[]>([]);
  const backOff = useRef({ until: 0, ms: AGAIN_MS });

  const accept = useCallback(
    (job: Job) => {
      const isFirst = job.prints[0]?.id === job.print;
      for (const print of isFirst ? ["", job.print] : [job.print]) keep(queries, ["job", job.id, print, ""], job);
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

  const show = useCallback((next: Letter[]) => {
    kept.current = next;
    // For whoever waits until all is sent.
    document.documentElement.dataset.unsent = String(next.length);
    setLetters(next);
  }, []);
  /** As the store holds it now, what it has not yet taken after it. */
  const look = useCallback(async () => {
    const stored = await every().catch(() => []);
    const ids = new Set(stored.map((l) => l.id));
    show([...stored, ...pending.current.filter((l) => !ids.has(l.id))]);
  }, [show]);
  const settle = useCallback(
    async (id: string) => {
      pending.current = pending.current.filter((l) => l.id !== id);
      show(kept.current.filter((l) => l.id !== id));
      await drop(id).catch(() => null);
      announce();
    },
    [show],
  );

  const sendAll = useCallback(async () => {
    await look();
    const stuck = new Set<string>();
    for (;;) {
      const letter = kept.current.find((l) => isBy(l, me()) && !stuck.has(l.job));
      if (!letter) break;
      try {
        accept(await post(letter));
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        if (error.isAway) return;
        if (error.isFault) {
          // The server's own fault is no refusal: the act stays, the job's others wait behind it, other jobs' go on.
          stuck.add(letter.job);
          continue;
        }
        // In another tab somebody else may have signed in meanwhile.
        if (error.code === "may-not") await queries.refetchQueries({ queryKey: ["welcome"] });
        if (!isBy(letter, me())) continue;
        setProblem(error.about(letter.job));
        queries.invalidateQueries({ queryKey: ["job", letter.job] });
      }
      await settle(letter.id);
    }
    const ms = stuck.size ? Math.min(LATEST_MS, backOff.current.ms * 2) : AGAIN_MS;
    backOff.current = { until: stuck.size ? Date.now() + ms : 0, ms };
  }, [accept, look, settle, queries, me]);

  /** One sending at a time: who asks while one goes on waits for that one. */
  const send = useCallback(() => {
    sending.current ??= alone(sendAll).finally(() => {
      sending.current = null;
    });
    return sending.current;
  }, [sendAll]);

  useEffect(() => {
    void takeOver()
      .catch(() => null)
      .then(look)
      .then(() => setIsOpen(true))
      .then(send);
    const again = setInterval(() => {
      if (kept.current.length && Date.now() >= backOff.current.until) void send();
    }, AGAIN_MS);
    const stop = whenChanged(() => void look());
    void hasRoom().then((has) => has || setProblem(FULL));
    const online = () => void send();
    window.addEventListener("online", online);
    return () => {
      clearInterval(again);
      stop();
      window.removeEventListener("online", online);
    };
  }, [send, look]);

  const hold = useCallback(
    (letter: Letter, rest: Letter[] = kept.current) => {
      pending.current = [...pending.current, letter];
      show([...rest, letter]);
      void put(letter)
        .then(() => {
          // Taken back or sent before the store had it: it is not kept after all.
          if (!pending.current.includes(letter)) void drop(letter.id).catch(() => null);
          pending.current = pending.current.filter((l) => l !== letter);
          announce();
        })
        .catch(() => setProblem(FULL))
        .then(send);
    },
    [show, send],
  );

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
        hold({ id, kind: "act", by: me(), job, print, at: new Date().toISOString(), body });
        return id;
      },
      unsent: (job, print) => unsentOf(letters, job, print),
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
        if (earlier) void settle(earlier.id);
        hold({ id: newId(), kind: "decision", by: me(), job, print, station, base: base + queued, body }, rest);
      },
    }),
    [letters, name, problem, accept, hold, settle, send, me],
  );
  return <OutboxContext.Provider value={outbox}>{isOpen && children}</OutboxContext.Provider>;
}

/** What was done at the press and the server does not know yet, by slot. */
export type Unsent = {
  pressed: string[];
  /** Transfers that were spoiled before they were pressed. */
  lost: string[];
  /** Pieces that were spoiled with this print on them: another takes their place. */
  spoiled: string[];
};

function unsentOf(letters: Letter[], job: string, print: string): Unsent {
  const acts = letters.flatMap((l) => (l.kind === "act" && l.job === job ? [l] : []));
  const takenBack = new Set(acts.flatMap((l) => (l.body.kind === "voided" ? [l.body.voids] : [])));
  const slots = (chosen: (body: ActBody) => number) =>
    acts
      .filter((l) => !takenBack.has(l.id))
      .flatMap((l) => Array<string>(chosen(l.body)).fill(slotOf(l.body as Parameters<typeof slotOf>[0])));
  return {
    pressed: slots((b) => (b.kind === "pressed" && b.print === print ? (b.count ?? 1) : 0)),
    lost: slots((b) => (b.kind === "spoiled" && b.what === "transfer" && b.print === print ? (b.count ?? 1) : 0)),
    spoiled: slots((b) => (b.kind === "spoiled" && b.what === "piece" && b.had?.includes(print) ? (b.count ?? 1) : 0)),
  };
}

/** The slot that a pressed act is about: "a/M", or "a/M#7" for a numbered piece. */
export function slotOf(body: { line?: string; size?: string; number?: number | null }): string {
  return `${body.line ?? "a"}/${body.size ?? ""}${body.number ? `#${body.number}` : ""}`;
}

export function partsOf(slot: string): { line: string; size: string; number: number | null } {
  const [, line = "a", size = "", number] = /^([^/]*)\/([^#]*)(?:#(\d+))?$/.exec(slot) ?? [];
  return { line, size, number: number ? Number(number) : null };
}

function isBy(letter: Letter, name: string): boolean {
  return !letter.by || letter.by === name;
}

const ANSWERS_WITHIN_MS = 30_000;

/** Raises a ProblemError. Only an answer that names what was sent says that it is held. */
async function post(letter: Letter): Promise<Job> {
  const { by = "" } = letter;
  const signal = AbortSignal.timeout(ANSWERS_WITHIN_MS);
  if (letter.kind === "act") {
    const { id, job, at, body, print = "" } = letter;
    const sent_at = new Date().toISOString();
    const asked = { id, job, at, sent_at, body: body as Act["body"], print, by };
    const answer = await told<Job>(api.POST("/api/acts", { body: asked, signal }));
    if (!answer.acts.some((a) => a.id === id))
      throw new ProblemError(
        "not-named",
        say("The answer did not name what was sent."),
        say("It is kept here."),
        say("It is sent again."),
      );
    return answer;
  }
  const { job, station, base, body, print = "" } = letter;
  const params = { path: { job_id: job, station } };
  return told<Job>(
    api.PUT("/api/jobs/{job_id}/decisions/{station}", { params, body: { base, body, print, by }, signal }),
  );
}
