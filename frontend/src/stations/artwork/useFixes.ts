import { useEffect, useRef, useState } from "react";
import { api, problemOf, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Finding, Progress } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { say } from "../../texts/say";

type Changes = Record<string, unknown>;
type Waiting = { key: string; changes: Changes };

/** A fix that changes the picture is tried on it first, in the open; then it is decided like any other. */
export function useFixes(jobLine: JobLine) {
  const outbox = useOutbox();
  const [waiting, setWaiting] = useState<Waiting | null>(null);
  const [looking, setLooking] = useState("");
  const latest = useRef({ jobLine, sayProblem: outbox.sayProblem });
  latest.current = { jobLine, sayProblem: outbox.sayProblem };
  useEffect(() => {
    if (!waiting) return;
    const events = new EventSource(`/api/long-work/${waiting.key}/events`);
    events.onmessage = (message) => {
      const now = JSON.parse(message.data as string) as Progress;
      setLooking(
        now.whole
          ? say("{done} of {whole} {unit}", { done: now.done, whole: now.whole, unit: now.unit })
          : say("it begins in a moment"),
      );
      if (!["done", "failed", "cancelled"].includes(now.stage)) return;
      events.close();
      setWaiting(null);
      setLooking("");
      if (now.stage === "done") latest.current.jobLine.done("artwork", waiting.changes);
      if (now.problem) latest.current.sayProblem(problemOf(now.problem));
    };
    return () => events.close();
  }, [waiting]);
  const decide = async (changes: Changes) => {
    const { job, document, done } = jobLine;
    if (waiting) return;
    try {
      const params = { path: { job_id: job.id }, query: { print: job.print } };
      const body = { ...document("artwork"), ...changes };
      const { key } = await told<{ key: string }>(api.POST("/api/jobs/{job_id}/artworks/fixed", { params, body }));
      if (key) setWaiting({ key, changes });
      else done("artwork", changes);
    } catch {
      // Nobody answers: the decision is kept in the browser like any other, and the picture is looked at later.
      done("artwork", changes);
    }
  };
  const patch = (finding: Finding) => {
    const wanted = finding.patch;
    if (wanted?.station === "artwork" && "fixes" in wanted.changes) void decide(wanted.changes);
    else jobLine.patch(finding);
  };
  return { jobLine: { ...jobLine, patch }, decide, looking };
}
