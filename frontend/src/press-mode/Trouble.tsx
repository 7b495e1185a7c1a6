import { useState } from "react";
import type { Stage } from "../api/types";
import { Overlay } from "../ui/Overlay";
import { Button } from "../ui/parts";

const CAUSES = ["off the crease", "wrong face down", "slipped", "wrong timer", "part stayed on the film", "scorched"];

type TroubleProps = {
  open: boolean;
  stage: Stage;
  size: string;
  onClose: () => void;
  onSpoiled: (cause: string, isPiece: boolean) => void;
};

/** What went wrong at the press, in two touches. */
export function Trouble({ open, stage, size, onClose, onSpoiled }: TroubleProps) {
  const [cause, setCause] = useState("");
  const said = cause.trim() || "not said";
  return (
    <Overlay title={`What went wrong at ${stage.name.toLowerCase()}?`} open={open} onClose={onClose} wide>
      <div className="flex flex-wrap gap-2">
        {CAUSES.map((c) => (
          <button
            key={c}
            type="button"
            aria-pressed={cause === c}
            onClick={() => setCause(c)}
            className={`min-h-12 rounded-lg border-2 px-4 text-lg ${cause === c ? "border-act bg-act-soft" : "border-hair2"}`}
          >
            {c}
          </button>
        ))}
      </div>
      <label className="mt-4 block">
        <span className="font-semibold">Or in your words</span>
        <input className="field" maxLength={200} value={cause} onChange={(e) => setCause(e.target.value)} />
      </label>
      <div className="mt-5 flex flex-wrap gap-2">
        <Button kind="stop" onClick={() => onSpoiled(said, true)}>
          Size {size} is spoiled, print and all
        </Button>
        <Button kind="stop" onClick={() => onSpoiled(said, false)}>
          Only the transfer is spoiled
        </Button>
        <Button onClick={onClose}>Nothing spoiled: go on</Button>
      </div>
    </Overlay>
  );
}
