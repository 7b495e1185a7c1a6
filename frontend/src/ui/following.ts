import { useCallback, useEffect, useRef, useState } from "react";
import { api, ProblemError, problemOf } from "../api/client";
import { useOutbox } from "../api/outbox";
import type { Progress } from "../api/types";

type Work = { key: string; progress?: Progress | null };

/** Long work: begun, followed in real units, cancelled. done: when it is over well. */
export function useFollowing(begin: () => Promise<Work>, done: () => void) {
  const outbox = useOutbox();
  const [key, setKey] = useState<string | null>(null);
  const [progress, setProgress] = useState<Progress | null>(null);
  const whenDone = useRef(done);
  whenDone.current = done;

  useEffect(() => {
    if (!key) return;
    const events = new EventSource(`/api/long-work/${key}/events`);
    events.onmessage = (message) => {
      const now = JSON.parse(message.data as string) as Progress;
      setProgress(now);
      if (["done", "failed", "cancelled"].includes(now.stage)) {
        events.close();
        setKey(null);
        if (now.stage === "done") whenDone.current();
        if (now.problem) outbox.sayProblem(problemOf(now.problem));
      }
    };
    return () => events.close();
  }, [key, outbox.sayProblem]);

  const start = useCallback(async () => {
    try {
      const work = await begin();
      setProgress(work.progress ?? null);
      setKey(work.key);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  }, [begin, outbox]);

  const cancel = useCallback(async () => {
    if (key) await api.DELETE("/api/long-work/{key}", { params: { path: { key } } });
  }, [key]);

  return { isRunning: key !== null, progress, start, cancel };
}
