import type { Blank } from "../../api/types";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";

export type Shape = "garment" | "flat" | "mug" | "tube";
type Size = Blank["sizes"][string];
/** A size as it is typed: its name, and its measures in the order of the shape's columns. */
export type SizeDraft = { name: string; values: string[]; isKept: boolean };

/** like: another measure that stands for one nobody gave. */
type Column = { field: string; label: string; step: number; like?: string };
type ShapeData = { name: string; columns: Column[]; start: [string, ...number[]][] };

/** What each shape is measured by; a standard start, all of it editable. Measures and steps between sizes: from memory. */
export const SHAPES: Record<Shape, ShapeData> = {
  garment: {
    name: say("sewn garment"),
    columns: [
      { field: "chest_mm", label: say("Chest"), step: 50 },
      { field: "length_mm", label: say("Length"), step: 25 },
      { field: "collar_width_mm", label: say("Collar"), step: 5 },
      { field: "collar_drop_mm", label: say("Drop"), step: 3 },
      { field: "sleeve_mm", label: say("Sleeve"), step: 8 },
    ],
    start: [
      ["S", 480, 690, 175, 95, 195],
      ["M", 530, 720, 180, 98, 203],
      ["L", 580, 745, 185, 101, 211],
      ["XL", 630, 770, 190, 104, 219],
    ],
  },
  flat: {
    name: say("flat: cloth, panel, disc"),
    columns: [
      { field: "width_mm", label: say("Width"), step: 50 },
      { field: "height_mm", label: say("Height"), step: 50 },
    ],
    start: [["one", 400, 400]],
  },
  mug: {
    name: say("mug or cup, straight or tapered"),
    columns: [
      { field: "diameter_mm", label: say("Across its rim"), step: 5 },
      { field: "base_diameter_mm", label: say("Across its foot"), step: 5, like: "diameter_mm" },
      { field: "height_mm", label: say("Height"), step: 5 },
      { field: "handle_mm", label: say("Handle's strip"), step: 0 },
    ],
    start: [["one", 82, 82, 95, 45]],
  },
  tube: {
    name: say("two-sided tube on a jig"),
    columns: [
      { field: "flat_width_mm", label: say("Flat width"), step: 5 },
      { field: "length_mm", label: say("Length"), step: 20 },
      { field: "fold_over_mm", label: say("Fold over"), step: 0 },
    ],
    start: [["one", 88, 420, 6]],
  },
};

export function shapeOf(size: Size | undefined): Shape {
  if (!size || "width_mm" in size) return size ? "flat" : "garment";
  return "chest_mm" in size ? "garment" : "diameter_mm" in size ? "mug" : "tube";
}

export function draftsOf(shape: Shape, sizes: Blank["sizes"] | undefined): SizeDraft[] {
  const { columns, start } = SHAPES[shape];
  if (!sizes) return start.map(([name, ...values]) => ({ name, values: values.map(String), isKept: false }));
  return Object.entries(sizes).map(([name, size]) => ({
    name,
    values: columns.map((c) => {
      const told = size as Record<string, unknown>;
      return String(told[c.field] ?? (c.like && told[c.like]) ?? "");
    }),
    isKept: true,
  }));
}

/** The sizes as the server takes them; what a blank had beside its measures stays with it. */
export function sizesOf(
  shape: Shape,
  drafts: SizeDraft[],
  isRound: boolean,
  outline: [number, number][],
  before?: Blank["sizes"],
): Blank["sizes"] | string {
  const made: Record<string, Size> = {};
  for (const { name, values } of drafts) {
    const said = name.trim();
    if (!said) return say("Give every size a name.");
    if (said in made) return say("Size {said} stands here twice.", { said });
    const measures = SHAPES[shape].columns.map(
      (c, i) => [c.field, Number((values[i] ?? "").replace(",", "."))] as const,
    );
    const wrong = measures.findIndex(([, v]) => !Number.isFinite(v));
    if (wrong >= 0) return say("“{values}” is no measure of size {said}.", { values: values[wrong], said });
    made[said] = {
      ...before?.[said],
      ...Object.fromEntries(measures),
      ...(shape === "flat" ? { is_round: isRound && !outline.length, outline } : {}),
    } as Size;
  }
  return made;
}

type SizeTableProps = { shape: Shape; rows: SizeDraft[]; onChange: (rows: SizeDraft[]) => void };

/** Measures in mm, a row a size: laid flat, as the rule lies on it. */
export function SizeTable({ shape, rows, onChange }: SizeTableProps) {
  const { columns } = SHAPES[shape];
  const put = (at: number, part: Partial<SizeDraft>) =>
    onChange(rows.map((r, i) => (i === at ? { ...r, ...part } : r)));
  const add = () => {
    const last = rows.at(-1);
    const values = columns.map((c, i) => String(Number(last?.values[i] ?? 0) + c.step));
    onChange([...rows, { name: "", values, isKept: false }]);
  };
  return (
    <fieldset className="col-span-full">
      <legend className="font-semibold">{say("Sizes, in mm laid flat")}</legend>
      <table className="mt-1 w-full border-separate border-spacing-x-1.5 border-spacing-y-1">
        <thead>
          <tr className="text-left text-sm text-soft">
            <th className="font-normal">{say("Size")}</th>
            {columns.map((c) => (
              <th key={c.field} className="font-normal">
                {c.label}
              </th>
            ))}
            <td />
          </tr>
        </thead>
        <tbody>
          {rows.map((row, at) => (
            <tr key={at}>
              <td>
                <input
                  aria-label={say("Size {at}", { at: at + 1 })}
                  className="field w-20"
                  value={row.name}
                  readOnly={row.isKept}
                  onChange={(e) => put(at, { name: e.target.value })}
                />
              </td>
              {columns.map((c, i) => (
                <td key={c.field}>
                  <input
                    aria-label={say("{label} of {name}", {
                      label: c.label,
                      name: row.name || say("size {at}", { at: at + 1 }),
                    })}
                    className="field num"
                    inputMode="decimal"
                    value={row.values[i] ?? ""}
                    onChange={(e) => put(at, { values: row.values.map((v, k) => (k === i ? e.target.value : v)) })}
                  />
                </td>
              ))}
              <td className="w-28">
                {!row.isKept && rows.length > 1 && (
                  <Button
                    kind="quiet"
                    label={say("Take size {name} out", { name: row.name || at + 1 })}
                    onClick={() => onChange(rows.filter((_, i) => i !== at))}
                  >
                    {say("Take out")}
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button kind="quiet" onClick={add}>
        {say("One more size")}
      </Button>
    </fieldset>
  );
}
