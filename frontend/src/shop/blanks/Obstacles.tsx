import type { Blank } from "../../api/types";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Button } from "../../ui/parts";

type Obstacle = NonNullable<Blank["obstacles"]>[number];
type Kind = Obstacle["kind"];
type Side = NonNullable<Obstacle["side"]>;
/** What stands up, as it is typed: millimetres from where prints are measured. */
export type Stands = { kind: Kind; side: Side; x: string; y: string; wide: string; long: string; stands: string };

const KINDS: Kind[] = ["zip", "seam", "pocket", "knot", "collar"];
const FIELDS = [
  ["x", say("from the middle")],
  ["y", say("from the edge")],
  ["wide", say("wide")],
  ["long", say("long")],
  ["stands", say("stands")],
] as const;

export function typed(o: Obstacle): Stands {
  return {
    kind: o.kind,
    side: o.side ?? "front",
    x: String(o.x_mm),
    y: String(o.y_mm),
    wide: String(o.width_mm),
    long: String(o.height_mm),
    stands: String(o.stands_mm),
  };
}

/** What stands up under a press, with its place and height: prints over it are refused or padded. */
export function Obstacles({ rows, onChange }: { rows: Stands[]; onChange: (rows: Stands[]) => void }) {
  const change = (at: number, part: Partial<Stands>) =>
    onChange(rows.map((r, i) => (i === at ? { ...r, ...part } : r)));
  return (
    <fieldset className="col-span-full">
      <legend className="font-semibold">{say("What stands up, in mm")}</legend>
      {rows.map((row, at) => (
        <div key={at} className="mt-1.5 flex flex-wrap items-end gap-2">
          <label className="text-sm">
            {say("what")}
            <select className="field" value={row.kind} onChange={(e) => change(at, { kind: e.target.value as Kind })}>
              {KINDS.map((k) => (
                <option key={k} value={k}>
                  {worded(k)}
                </option>
              ))}
            </select>
          </label>
          <label className="text-sm">
            {say("side")}
            <select className="field" value={row.side} onChange={(e) => change(at, { side: e.target.value as Side })}>
              <option>{say("front")}</option>
              <option>{say("back")}</option>
            </select>
          </label>
          {FIELDS.map(([field, said]) => (
            <label key={field} className="w-24 text-sm">
              {said}
              <input
                className="field num"
                value={row[field]}
                onChange={(e) => change(at, { [field]: e.target.value })}
              />
            </label>
          ))}
          <Button
            kind="quiet"
            onClick={() => onChange(rows.filter((_, i) => i !== at))}
            label={say("Take it out: {kind} {at}", { kind: row.kind, at: at + 1 })}
          >
            {say("Take it out")}
          </Button>
        </div>
      ))}
      <div className="mt-1.5">
        <Button
          onClick={() =>
            onChange([...rows, { kind: "zip", side: "front", x: "-8", y: "0", wide: "16", long: "400", stands: "3" }])
          }
        >
          {say("Something stands up")}
        </Button>
      </div>
    </fieldset>
  );
}
