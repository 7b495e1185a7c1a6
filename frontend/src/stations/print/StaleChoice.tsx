import { useState } from "react";
import { api, newId, ProblemError, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Job } from "../../api/types";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { several } from "../../ui/several";

const WAYS = [
  { id: "use", name: say("Use as printed"), why: say("they go on as they are; the reason is kept with the job") },
  {
    id: "rest",
    name: say("Reprint the rest"),
    why: say("pressed pieces stay; unpressed transfers are put aside and printed again"),
  },
  { id: "all", name: say("Reprint all"), why: say("everything is made again; pressed pieces are put aside too") },
] as const;

/** Something printed no longer matches: the three ways out. */
export function StaleChoice({ job }: { job: Job }) {
  const outbox = useOutbox();
  const [way, setWay] = useState<(typeof WAYS)[number]["id"]>("use");
  const [reason, setReason] = useState("");
  const stale = job.ledger.stale[0];
  if (!stale) return null;
  const chosen = WAYS.find((w) => w.id === way) ?? WAYS[0];
  const choose = async () => {
    try {
      const body = {
        id: newId(),
        old: stale.signature,
        way,
        reason: reason.trim() || chosen.name,
      };
      outbox.accept(
        await told<Job>(api.POST("/api/jobs/{job_id}/resolve", { params: { path: { job_id: job.id } }, body })),
      );
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <fieldset className="rounded-lg border-2 border-old bg-old-soft p-3">
      <legend className="px-1 font-bold text-old">{say("Out of date")}</legend>
      <p>
        {say("{transfers} in hand and {pieces} printed under other settings: what becomes of them?", {
          transfers: several(stale.transfers, job.line.makes ?? "transfer"),
          pieces: several(stale.pieces, "pressed piece"),
        })}
      </p>
      {WAYS.map((w) => (
        <label key={w.id} className="mt-1.5 flex gap-2">
          <input
            type="radio"
            name="stale"
            className="mt-1 accent-[var(--act)]"
            checked={way === w.id}
            onChange={() => setWay(w.id)}
          />
          <span>
            <span className="font-semibold">{w.name}</span>
            <span className="block text-sm">{w.why}</span>
          </span>
        </label>
      ))}
      <label className="mt-2 block">
        <span className="font-semibold">{say("Reason")}</span>
        <input className="field" value={reason} maxLength={300} onChange={(e) => setReason(e.target.value)} />
      </label>
      <div className="mt-2">
        <Button kind="go" disabled={way === "use" && !reason.trim()} onClick={() => void choose()}>
          {WAYS.find((w) => w.id === way)?.name}
        </Button>
        {way === "use" && !reason.trim() && (
          <p className="mt-1 text-sm">{say("Using them as printed needs a reason.")}</p>
        )}
      </div>
    </fieldset>
  );
}
