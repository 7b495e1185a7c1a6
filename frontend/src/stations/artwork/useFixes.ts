import { useEffect, useRef, useState } from "react";
import { api, problemOf, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Finding, Progress } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";

type Waiting = { key: string; finding: Finding };

/** A fix that changes the picture is tried on it first, in the open; then it is decided like any other. */
export function useFixes(jobLine: JobLine): { jobLine: JobLine; looking: string } {
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
      setLooking(now.whole ? `${now.done} of ${now.whole} ${now.unit}` : "it begins in a moment");
      if (!["done", "failed", "cancelled"].includes(now.stage)) return;
      events.close();
      setWaiting(null);
      setLooking("");
      if (now.stage === "done") latest.current.jobLine.patch(waiting.finding);
      if (now.problem) latest.current.sayProblem(problemOf(now.problem));
    };
    return () => events.close();
  }, [waiting]);
  const patch = async (finding: Finding) => {
    const { job, document } = jobLine;
    if (waiting) return;
    if (finding.patch?.station !== "artwork" || !("fixes" in finding.patch.changes)) return jobLine.patch(finding);
    try {
      const params = { path: { job_id: job.id }, query: { print: job.print } };
      const body = { ...document("artwork"), ...finding.patch.changes };
      const { key } = await told<{ key: string }>(api.POST("/api/jobs/{job_id}/artworks/fixed", { params, body }));
      if (key) setWaiting({ key, finding });
      else jobLine.patch(finding);
    } catch {
      // Nobody answers: the decision is kept in the browser like any other, and the picture is looked at later.
      jobLine.patch(finding);
    }
  };
  return { jobLine: { ...jobLine, patch: (finding) => void patch(finding) }, looking };
}
