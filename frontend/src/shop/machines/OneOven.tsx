import type { Oven } from "../../api/types";
import { Bench, useView } from "../../bench/Bench";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { useChanges } from "./machines";
import { OneMachine } from "./OneMachine";
import { Heat, Length } from "./Value";

/** What lies flat in it, to scale. */
export function OneOven({ oven }: { oven: Oven }) {
  const units = useUnits();
  const changes = useChanges("ovens", oven.id);
  const said = { sources: oven.sources };
  return (
    <OneMachine
      machine={oven}
      changes={changes}
      verdict={say("{name} takes {width_mm} by {length_mm}, up to {highest_c}", {
        name: oven.name,
        width_mm: units.length(oven.width_mm),
        length_mm: units.length(oven.length_mm),
        highest_c: units.heat(oven.highest_c),
      })}
      sub={say("A run is cut into lengths that lie flat in it.")}
      drawing={
        <Bench
          label={say("{name}, what lies flat in it, to scale", { name: oven.name })}
          bounds={[0, 0, oven.width_mm, oven.length_mm]}
          pad={[30, 120, 44, 90]}
        >
          <Plate width={oven.width_mm} height={oven.length_mm} />
        </Bench>
      }
    >
      <Length
        label={say("Width")}
        value={oven.width_mm}
        field="width_mm"
        {...said}
        onDone={(v) => void changes.change({ width_mm: v })}
      />
      <Length
        label={say("Length")}
        value={oven.length_mm}
        field="length_mm"
        {...said}
        onDone={(v) => void changes.change({ length_mm: v })}
      />
      <Heat
        label={say("Goes up to")}
        value={oven.highest_c}
        field="highest_c"
        {...said}
        onDone={(v) => void changes.change({ highest_c: v })}
      />
    </OneMachine>
  );
}

/** A rectangle with its two measures. */
export function Plate({ width, height }: { width: number; height: number }) {
  const view = useView();
  const units = useUnits();
  const [x, y, w, h] = [view.x(0), view.y(0), width * view.scale, height * view.scale];
  return (
    <g>
      <rect x={x} y={y} width={w} height={h} rx={6} className="fill-panel stroke-ink" strokeWidth={1.5} />
      <text x={x + w / 2} y={y - 9} textAnchor="middle" className="num fill-ink text-sm">
        {units.length(width)}
      </text>
      <text x={x - 9} y={y + h / 2} textAnchor="end" dominantBaseline="middle" className="num fill-ink text-sm">
        {units.length(height)}
      </text>
    </g>
  );
}
