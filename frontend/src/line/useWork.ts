import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { api, ProblemError, problemOf, told } from "../api/client";
import { useOutbox } from "../api/outbox";
import type { Progress } from "../api/types";

type Work = { key: string; progress?: Progress | null };
type Begin = "/api/jobs/{job_id}/plates" | "/api/jobs/{job_id}/lettering";

/** Long work on a print: started, followed in real units, cancelled. */
export function useWork(jobId: string, print: string, begin: Begin) {
  const outbox = useOutbox();
  const queries = useQueryClient();
  const [key, setKey] = useState<string | null>(null);
  const [progress, setProgress] = useState<Progress | null>(null);

  useEffect(() => {
    if (!key) return;
    const events = new EventSource(`/api/long-work/${key}/events`);
    events.onmessage = (message) => {
      const now = JSON.parse(message.data as string) as Progress;
      setProgress(now);
      if (["done", "failed", "cancelled"].includes(now.stage)) {
        events.close();
        setKey(null);
        if (now.stage === "done") void queries.invalidateQueries({ queryKey: ["job", jobId] });
        if (now.problem) outbox.sayProblem(problemOf(now.problem));
      }
    };
    return () => events.close();
  }, [key, jobId, queries, outbox.sayProblem]);

  const start = useCallback(async () => {
    try {
      const work = await told<Work>(api.POST(begin, { params: { path: { job_id: jobId }, query: { print } } }));
      setProgress(work.progress ?? null);
      setKey(work.key);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  }, [begin, jobId, print, outbox]);

  const cancel = useCallback(async () => {
    if (key) await api.DELETE("/api/long-work/{key}", { params: { path: { key } } });
  }, [key]);

  return { isRunning: key !== null, progress, start, cancel };
}
