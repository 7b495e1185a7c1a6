import type { CardStage, Cooling, OnTheWay, PressState } from "../api/types";
import { say, sayMany } from "../texts/say";
import { clock, leftOnRack } from "./engine";

type RackProps = {
  state: PressState;
  stages: CardStage[];
  cooling: { [stage: string]: Cooling };
  now: number;
  labelOf: (piece: OnTheWay) => string;
  isOven: boolean;
  next: string | null;
  onTouch: (piece: OnTheWay) => void;
};

/** Numbered places where pressed pieces cool: first in, first out; cold is confirmed by a touch. */
export function Rack({ state, stages, cooling, now, labelOf, isOven, next, onTouch }: RackProps) {
  const pieces = state.pieces.filter((p) => p.where === "rack").sort((a, b) => (a.since ?? 0) - (b.since ?? 0));
  const parked = state.pieces.filter((p) => p.where === "parked");
  const learned = Object.values(cooling).find((c) => c.learned_s != null);
  return (
    <section aria-label={say("Rack")} className="shrink-0 pb-4">
      <h2 className="text-xl text-soft">
        {isOven ? say("In the oven, first in, first out") : say("Rack, first in, first out")}
        {learned && (
          <span>
            {" "}
            {sayMany(
              learned.touches,
              "· cold after {learned_s} s here, from {count} touch",
              "· cold after {learned_s} s here, from {count} touches",
              { learned_s: learned.learned_s },
            )}
          </span>
        )}
      </h2>
      {pieces.length + parked.length === 0 ? (
        <p className="mt-1 text-xl text-soft">{say("empty")}</p>
      ) : (
        <ul className="mt-1.5 flex flex-wrap gap-2.5">
          {pieces.map((p) => (
            <Place
              key={p.id}
              piece={p}
              label={labelOf(p)}
              left={leftOnRack(p, stages, cooling, now)}
              isOven={isOven}
              isNext={p.id === next}
              onTouch={() => onTouch(p)}
            />
          ))}
          {parked.map((p) => (
            <li
              key={p.id}
              className="rounded-xl border-2 border-dashed border-hair2 px-3.5 py-1.5 text-center leading-tight"
            >
              <span className="block text-2xl font-bold">{labelOf(p)}</span>
              <span className="text-lg text-soft">{p.again ? say("press again") : say("waits for heat")}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

type PlaceProps = {
  piece: OnTheWay;
  label: string;
  left: number;
  isOven: boolean;
  isNext: boolean;
  onTouch: () => void;
};

function Place({ piece, label, left, isOven, isNext, onTouch }: PlaceProps) {
  const isDue = left <= 0;
  return (
    <li>
      <button
        type="button"
        onClick={onTouch}
        data-place={piece.place}
        className={`min-w-24 rounded-xl border-2 px-3.5 py-1.5 text-center leading-tight ${isDue ? (isNext ? "border-act bg-act-soft" : "border-act") : "border-hair2"}`}
      >
        <span className="num block text-3xl font-bold">{piece.place}</span>
        <span className="block text-lg">{label}</span>
        <span className={`num block text-xl font-bold ${isDue ? "text-act" : "text-soft"}`}>
          {isDue ? (isOven ? `+${clock(-left)}` : say("touch it")) : clock(left)}
        </span>
      </button>
    </li>
  );
}
