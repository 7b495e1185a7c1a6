import { useCallback, useEffect, useRef, useState } from "react";
import { api, newId, ProblemError, told } from "../api/client";
import type { PressSession, PressState } from "../api/types";
import { FRESH } from "./engine";

/** The press session as this browser keeps it: it survives a reload, sleep and a lost network. */
export type Live = {
  state: PressState;
  seq: number;
  /** The change-over card was read back. */
  isReady: boolean;
  /** The last step, and how it stood before: it can be taken back for ten seconds. */
  last: Step | null;
};

export type Step = { said: string; at: number; before: PressState; acts: string[] };

export type Leading = "asking" | "leads" | "taken" | "follows" | "alone";

const HOLDER = "offsetter.press-holder";
const FOLLOW_MS = 1_500;
const AGAIN_MS = 2_500;

function holderId(): string {
  const found = sessionStorage.getItem(HOLDER) ?? newId();
  sessionStorage.setItem(HOLDER, found);
  return found;
}

/** One screen leads a press; another follows or takes over. The clock and the rack live here, the server is told. */
export function usePressSession(press: string, job: string, print: string) {
  const key = `offsetter.press.${press}.${job}.${print}`;
  const [live, setLive] = useState<Live>(() => readLive(key));
  const [leading, setLeading] = useState<Leading>("asking");
  const [other, setOther] = useState<PressSession | null>(null);
  const holder = useRef(holderId());
  const latest = useRef(live);
  const sending = useRef(false);

  const keep = useCallback(
    (change: (now: Live) => Live) => {
      const next = { ...change(latest.current), seq: latest.current.seq + 1 };
      latest.current = next;
      localStorage.setItem(key, JSON.stringify(next));
      setLive(next);
    },
    [key],
  );

  const tell = useCallback(
    async (takeOver = false): Promise<boolean> => {
      if (sending.current) return false;
      sending.current = true;
      const { state, seq } = latest.current;
      try {
        const body = { job, print, holder: holder.current, seq, state, take_over: takeOver };
        await told<PressSession>(api.PUT("/api/presses/{press}/session", { params: { path: { press } }, body }));
        setLeading("leads");
        return true;
      } catch (error) {
        if (error instanceof ProblemError && error.code === "press-taken") {
          const found = await readSession(press).catch(() => null);
          setOther(found);
          setLeading((was) => (was === "leads" ? "follows" : was === "follows" ? was : "taken"));
        } else setLeading((was) => (was === "asking" ? "alone" : was));
        return false;
      } finally {
        sending.current = false;
      }
    },
    [press, job, print],
  );

  // Every change is told as soon as it can be. Told again in between, a screen learns that another took over.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the sequence number stands for every change
  useEffect(() => {
    if (leading === "asking" || leading === "leads" || leading === "alone") void tell();
    const again = setInterval(() => {
      if (leading === "leads" || leading === "alone") void tell();
    }, AGAIN_MS);
    return () => clearInterval(again);
  }, [live.seq, leading, tell]);

  useEffect(() => {
    if (leading !== "follows") return;
    const look = () => void readSession(press).then(setOther, () => {});
    look();
    const again = setInterval(look, FOLLOW_MS);
    return () => clearInterval(again);
  }, [leading, press]);

  const takeOver = useCallback(async () => {
    const found = await readSession(press).catch(() => null);
    const isSame = found && found.job === job && found.print === print;
    keep((now) => ({
      ...now,
      state: isSame ? found.state : FRESH,
      isReady: Boolean(isSame),
      seq: (found?.seq ?? 0) + 1,
      last: null,
    }));
    await tell(true);
  }, [press, job, print, keep, tell]);

  const leave = useCallback(async () => {
    if (latest.current.state.pieces.length > 0) return;
    localStorage.removeItem(key);
    await api
      .DELETE("/api/presses/{press}/session/{holder}", { params: { path: { press, holder: holder.current } } })
      .catch(() => null);
  }, [key, press]);

  return { live, keep, leading, other, takeOver, follow: () => setLeading("follows"), leave };
}

async function readSession(press: string): Promise<PressSession | null> {
  return told<PressSession | null>(api.GET("/api/presses/{press}/session", { params: { path: { press } } }));
}

function readLive(key: string): Live {
  const fresh: Live = { state: FRESH, seq: 1, isReady: false, last: null };
  try {
    return { ...fresh, ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<Live>) };
  } catch {
    return fresh;
  }
}
