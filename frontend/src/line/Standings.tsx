import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ProblemError, told } from "../api/client";
import { useOutbox } from "../api/outbox";
import type { Job } from "../api/types";
import { say } from "../texts/say";
import { Overlay } from "../ui/Overlay";
import { Button } from "../ui/parts";

/** Hold a job, take it up again, cancel it, make it again. */
export function Standings({ job }: { job: Job }) {
  const outbox = useOutbox();
  const [asks, setAsks] = useState<"held" | "cancelled" | "again" | null>(null);
  const isOpen = job.standing === "open" || job.standing === "held";
  return (
    <section aria-label={say("The job as a whole")} className="flex flex-wrap gap-2 border-t border-hair pt-3">
      {job.standing === "open" && <Button onClick={() => setAsks("held")}>{say("Hold the job")}</Button>}
      {job.standing === "held" && (
        <Button kind="go" onClick={() => outbox.act(job.id, { kind: "resumed" }, job.print)}>
          {say("Take it up again")}
        </Button>
      )}
      {isOpen && <Button onClick={() => setAsks("cancelled")}>{say("Cancel the job")}</Button>}
      <Button onClick={() => setAsks("again")}>{say("Make it again")}</Button>
      {(asks === "held" || asks === "cancelled") && (
        <Why
          title={asks === "held" ? say("Hold the job") : say("Cancel the job")}
          sub={
            asks === "held"
              ? say("Nothing more is released or pressed until it is taken up again.")
              : say("It is put to rest. What was made stays on record; transfers in hand can go into the store.")
          }
          go={asks === "held" ? say("Hold it") : say("Cancel it")}
          onClose={() => setAsks(null)}
          onGo={(reason) => outbox.act(job.id, { kind: asks, reason }, job.print)}
        />
      )}
      {asks === "again" && <Again job={job} onClose={() => setAsks(null)} />}
    </section>
  );
}

type WhyProps = { title: string; sub: string; go: string; onClose: () => void; onGo: (reason: string) => void };

function Why({ title, sub, go, onClose, onGo }: WhyProps) {
  const [reason, setReason] = useState("");
  return (
    <Overlay title={title} open onClose={onClose} sub={sub}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          onGo(reason.trim());
          onClose();
        }}
      >
        <label>
          <span className="font-semibold">{say("Reason")}</span>
          <input className="field" maxLength={300} value={reason} onChange={(e) => setReason(e.target.value)} />
        </label>
        <div className="mt-4 flex gap-2">
          <Button kind="stop" type="submit" disabled={!reason.trim()}>
            {go}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
    </Overlay>
  );
}

function Again({ job, onClose }: { job: Job; onClose: () => void }) {
  const navigate = useNavigate();
  const outbox = useOutbox();
  const [due, setDue] = useState(() => {
    const day = new Date(Date.now() + 7 * 86_400_000);
    return new Date(day.getTime() - day.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
  });
  const make = async () => {
    try {
      const params = { path: { job_id: job.id } };
      const body = { due: new Date(due).toISOString() };
      const made = await told<{ id: string }>(api.POST("/api/jobs/{job_id}/again", { params, body }));
      onClose();
      navigate(`/jobs/${made.id}/order`);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <Overlay
      title={say("Make it again")}
      open
      onClose={onClose}
      sub={say(
        "A new job with the same decisions, artwork and recipe version; nothing of what was printed or pressed.",
      )}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <label>
          <span className="font-semibold">{say("Due")}</span>
          <input type="datetime-local" className="field" value={due} onChange={(e) => setDue(e.target.value)} />
        </label>
        <div className="mt-4 flex gap-2">
          <Button kind="go" type="submit">
            {say("Make the new job")}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
    </Overlay>
  );
}
