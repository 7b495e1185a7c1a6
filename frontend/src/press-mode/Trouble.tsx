import { useState } from "react";
import type { CardStage, OnTheWay, PressCard } from "../api/types";
import { say, sayMany } from "../texts/say";
import { Overlay } from "../ui/Overlay";
import { Button } from "../ui/parts";
import { carriesPrint, pressingStage } from "./engine";

export type Outcome = "again" | "spoiled" | "second" | "transfer" | "blank";

type TroubleProps = {
  open: boolean;
  pieces: OnTheWay[];
  here: string | null;
  stages: CardStage[];
  isPreparing: boolean;
  shared: PressCard["shared"];
  faults: PressCard["faults"];
  labelOf: (slot: string) => string;
  onClose: () => void;
  onChoose: (ids: string[], outcome: Outcome, cause: string) => void;
};

/** Which failed, why, and can each be saved: for one piece or a batch. */
export function Trouble({
  open,
  pieces,
  here,
  stages,
  isPreparing,
  shared,
  faults,
  labelOf,
  onClose,
  onChoose,
}: TroubleProps) {
  const [cause, setCause] = useState("");
  const [chosen, setChosen] = useState<string[] | null>(null);
  const ids = (chosen ?? (here ? [here] : pieces.slice(0, 1).map((p) => p.id))).filter((i) =>
    pieces.some((p) => p.id === i),
  );
  const them = pieces.filter((p) => ids.includes(p.id));
  const said = cause.trim() || say("not said");
  const allPrinted = them.length > 0 && them.every((p) => carriesPrint(p, stages));
  const nonePrinted = them.length > 0 && them.every((p) => !carriesPrint(p, stages));
  const canAgain =
    !isPreparing && them.length > 0 && them.every((p) => p.stage > pressingStage(stages, p.stage) || p.again);
  const known = faults.find((f) => f.seen === cause);
  const choose = (outcome: Outcome) => {
    onChoose(ids, outcome, said);
    setChosen(null);
    setCause("");
  };
  return (
    <Overlay title={say("What went wrong, and with which?")} open={open} onClose={onClose} wide>
      {pieces.length === 0 && <p>{say("No piece is on its way. A spoiled transfer is recorded at Inspect.")}</p>}
      {pieces.length > 0 && (
        <fieldset className="flex flex-wrap gap-2">
          <legend className="mb-1 font-semibold">{say("Pieces on their way")}</legend>
          {pieces.map((p) => (
            <button
              key={p.id}
              type="button"
              aria-pressed={ids.includes(p.id)}
              onClick={() => setChosen(ids.includes(p.id) ? ids.filter((i) => i !== p.id) : [...ids, p.id])}
              className={`min-h-12 rounded-lg border-2 px-4 text-lg ${ids.includes(p.id) ? "border-act bg-act-soft" : "border-hair2"}`}
            >
              {isPreparing ? say("A transfer") : labelOf(p.slot)}
              {p.where === "rack"
                ? say(", rack {place}", { place: p.place })
                : p.where === "press"
                  ? say(", on the press")
                  : say(", set aside")}
            </button>
          ))}
        </fieldset>
      )}
      {shared.map((s) => (
        <p key={s.sentence} className="mt-3 border-l-4 border-need pl-3">
          {say("All {failed} that failed so far:", { failed: s.failed })}{" "}
          <span className="font-semibold">{s.sentence}</span>.
        </p>
      ))}
      <div className="mt-4 flex flex-wrap gap-2">
        {faults.map((f) => (
          <button
            key={f.seen}
            type="button"
            aria-pressed={cause === f.seen}
            onClick={() => setCause(f.seen)}
            className={`min-h-12 rounded-lg border-2 px-4 text-lg ${cause === f.seen ? "border-act bg-act-soft" : "border-hair2"}`}
          >
            {f.seen}
          </button>
        ))}
      </div>
      {known && (
        <p role="status" className="mt-3 border-l-4 border-act pl-3 text-lg">
          {known.cure}
          {known.saves && !canAgain && them.length > 0 && say(" Pressing once more saves it once it is off the press.")}
        </p>
      )}
      <label className="mt-4 block">
        <span className="font-semibold">{say("Or in your words")}</span>
        <input className="field" maxLength={200} value={cause} onChange={(e) => setCause(e.target.value)} />
      </label>
      <div className="mt-5 flex flex-wrap gap-2 [&_button]:min-h-14 [&_button]:text-lg">
        {canAgain && (
          <Button kind="go" onClick={() => choose("again")}>
            {sayMany(
              them.length,
              "Save it: press once more, full time",
              "Save all {count}: press once more, full time",
            )}
          </Button>
        )}
        {allPrinted && !isPreparing && (
          <>
            <Button kind="stop" onClick={() => choose("spoiled")}>
              {them.length === 1
                ? say("{piece} is spoiled, print and all", { piece: labelOf(them[0]?.slot ?? "") })
                : say("All {them} are spoiled", { them: them.length })}
            </Button>
            <Button onClick={() => choose("second")}>{say("Second quality, kept aside")}</Button>
          </>
        )}
        {(nonePrinted || (isPreparing && them.length > 0)) && (
          <>
            {!isPreparing && (
              <Button kind="stop" onClick={() => choose("blank")}>
                {say("Only the blank is spoiled")}
              </Button>
            )}
            <Button kind="stop" onClick={() => choose("transfer")}>
              {say("Only the transfer is spoiled")}
            </Button>
          </>
        )}
        <Button onClick={onClose}>{say("Nothing spoiled: go on")}</Button>
      </div>
    </Overlay>
  );
}
