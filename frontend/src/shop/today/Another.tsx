import { useState } from "react";
import { api, told } from "../../api/client";
import type { Promised, Today } from "../../api/types";
import { say, sayMany } from "../../texts/say";
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
      <Overlay open onClose={onClose} title={say("Can one more be done?")}>
        <p>{say("Nothing is planned yet that a new order could be like.")}</p>
      </Overlay>
    );
  return (
    <Overlay
      open
      onClose={onClose}
      title={say("Can one more be done?")}
      sub={say(
        "An order like one that is planned, in another quantity: when it would be done, and whom it would push.",
      )}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          ask();
        }}
      >
        <Pick
          label={say("Made like")}
          value={job}
          options={today.jobs.map((j) => ({ id: j.id, name: j.title }))}
          onChange={setJob}
        />
        <NumberField
          label={say("How many")}
          value={pieces}
          unit={say("pieces")}
          onDone={(n) => setPieces(Math.max(1, Math.round(n)))}
        />
        <div>
          <Button kind="go" type="submit">
            {say("Try it")}
          </Button>
        </div>
        <Refused said={wrong} />
        {found && (
          <div role="status">
            <p className="text-xl font-bold">
              {sayMany(found.pieces, "{count} piece by {at}", "{count} pieces by {at}", { at: when(found.quietly) })}
            </p>
            <p className="text-soft">{say("without moving anything that is planned.")}</p>
            {found.soonest !== found.quietly && (
              <p className="mt-2">
                {say("Before all else: {soonest}. {pushed}", {
                  soonest: when(found.soonest),
                  pushed: found.pushes.length ? found.pushes.join(" ") : say("Nothing else would leave late."),
                })}
              </p>
            )}
          </div>
        )}
      </form>
    </Overlay>
  );
}
