import { useState } from "react";
import { api, told } from "../../api/client";
import type { Promised, Today } from "../../api/types";
import { Overlay } from "../../ui/Overlay";
import { Button, NumberField, Pick } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { when } from "../../ui/when";

/** "Can I have twelve by Thursday?": so many more of what a job makes, tried against the plan. */
export function Another({ today, onClose }: { today: Today; onClose: () => void }) {
  const [job, setJob] = useState(today.jobs[0]?.id ?? "");
  const [pieces, setPieces] = useState(12);
  const [found, setFound] = useState<Promised | null>(null);
  const { wrong, tell } = useSaying();
  const ask = () => {
    setFound(null);
    void tell(told<Promised>(api.GET("/api/today/promise", { params: { query: { job, pieces } } })).then(setFound));
  };
  if (!today.jobs.length)
    return (
      <Overlay open onClose={onClose} title="Can one more be done?">
        <p>Nothing is planned yet that a new order could be like.</p>
      </Overlay>
    );
  return (
    <Overlay
      open
      onClose={onClose}
      title="Can one more be done?"
      sub="An order like one that is planned, in another quantity: when it would be done, and whom it would push."
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          ask();
        }}
      >
        <Pick
          label="Made like"
          value={job}
          options={today.jobs.map((j) => ({ id: j.id, name: j.title }))}
          onChange={setJob}
        />
        <NumberField
          label="How many"
          value={pieces}
          unit="pieces"
          onDone={(n) => setPieces(Math.max(1, Math.round(n)))}
        />
        <div>
          <Button kind="go" type="submit">
            Try it
          </Button>
        </div>
        <Refused said={wrong} />
        {found && (
          <div role="status">
            <p className="text-xl font-bold">
              {found.pieces} {found.pieces === 1 ? "piece" : "pieces"} by {when(found.quietly)}
            </p>
            <p className="text-soft">without moving anything that is planned.</p>
            {found.soonest !== found.quietly && (
              <p className="mt-2">
                Before all else: {when(found.soonest)}.{" "}
                {found.pushes.length ? found.pushes.join(" ") : "Nothing else would leave late."}
              </p>
            )}
          </div>
        )}
      </form>
    </Overlay>
  );
}
