import type { Blank } from "../../api/types";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";

/** A place of the blank's own, as it is typed, in millimetres. */
export type Own = { name: string; wide: string; high: string };

export function ownOf(place: NonNullable<Blank["places"]>[number]): Own {
  return { name: place.name, wide: String(place.width_mm), high: String(place.height_mm) };
}

const FIELDS = [
  ["name", say("what it is called"), "w-44"],
  ["wide", say("wide"), "w-24"],
  ["high", say("high"), "w-24"],
] as const;

/** Where else a print can sit: a leg, a waistband, each with its measures. */
export function OwnPlaces({ rows, onChange }: { rows: Own[]; onChange: (rows: Own[]) => void }) {
  return (
    <fieldset className="col-span-full">
      <legend className="font-semibold">{say("Places of its own, in mm")}</legend>
      {rows.map((row, at) => (
        <div key={at} className="mt-1.5 flex flex-wrap items-end gap-2">
          {FIELDS.map(([field, said, width]) => (
            <label key={field} className={`${width} text-sm`}>
              {said}
              <input
                className={`field ${field === "name" ? "" : "num"}`}
                value={row[field]}
                onChange={(e) => onChange(rows.map((r, i) => (i === at ? { ...r, [field]: e.target.value } : r)))}
              />
            </label>
          ))}
          <Button
            kind="quiet"
            onClick={() => onChange(rows.filter((_, i) => i !== at))}
            label={say("Take it out: {name} {at}", { name: row.name || say("place"), at: at + 1 })}
          >
            {say("Take it out")}
          </Button>
        </div>
      ))}
      <div className="mt-1.5">
        <Button onClick={() => onChange([...rows, { name: say("left leg"), wide: "120", high: "300" }])}>
          {say("Another place for a print")}
        </Button>
      </div>
    </fieldset>
  );
}
