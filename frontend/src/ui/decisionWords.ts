import type { Shop } from "../api/types";
import { say } from "../texts/say";

type Units = { length: (mm: number, digits?: number) => string };

/** Fields of decisions as a person says them. */
const FIELDS: Record<string, string> = {
  title: say("Job"),
  customer: say("Customer"),
  due: say("Due"),
  lines: say("Pieces"),
  prints: say("Prints, in the order of pressing"),
  names: say("Names"),
  quoted: say("Quoted a piece"),
  settled: say("Said to be right"),
  file: say("Picture"),
  page: say("Page of the file"),
  place: say("Place"),
  text: say("Own texts"),
  width_um: say("Width"),
  widths_um: say("Widths of their own"),
  below_collar_um: say("Below the collar or edge"),
  offset_um: say("Off the middle"),
  method: "Way",
  printer: say("Printer"),
  mode: "Mode",
  press: say("Press"),
  oven: say("Oven"),
  schools: say("Choices"),
  recipe: say("Recipe"),
  recipe_version: say("Version of the recipe"),
  profile: say("Colour profile"),
  calibration: say("Version of the correction"),
  pins: say("Measures, by version"),
  crop: say("Crop"),
  language: say("Language of the lettering"),
  fixes: say("Put right"),
  intent: say("Intent"),
  black_point: say("Black-point compensation"),
  ink_limit_pct: say("Ink limit, %"),
  sheet_colour: say("Colour of the sheet"),
  shifts: say("Colours printed as another"),
  level_pct: say("Level of white, %"),
  choke_um: say("Choke"),
  mask: say("Picture of the white"),
  mask_dark: say("White where that is dark"),
  lights_from: say("White from L*"),
  own: say("The file's own white"),
  knock_out: say("The cloth's own colour left out"),
  faint: say("Faint edges"),
  guard: say("Thin strokes guarded"),
  spares: say("Spares"),
  gap_um: say("Gap"),
  across: say("Prints across"),
  rows_per_cut: say("Rows on a cut length"),
  turned: say("Turned a quarter"),
  height_um: say("Height of a capital"),
  colour: say("Colour"),
  enlarge: say("enlarged, times"),
  ground: say("flat ground taken out, within"),
  inside: say("its pieces inside too"),
  negative: say("four inks turned round"),
  harden: say("faint edges hardened"),
  thicken_px: say("strokes thickened to, px"),
};

export function fieldInWords(key: string): string {
  return FIELDS[key] ?? key.replaceAll("_", " ");
}

/** A decided value as it is said aloud: lengths in this person's units, things by their names. */
export function valueInWords(key: string, value: unknown, units: Units, shop: Shop | undefined): string {
  if (value === null || value === undefined || value === "") return say("as usual");
  if (typeof value === "boolean") return value ? say("yes") : say("no");
  if (typeof value === "number") return key.endsWith("_um") ? units.length(value / 1000, 2) : String(value);
  if (typeof value === "string") return textInWords(key, value, shop);
  if (Array.isArray(value)) {
    if (!value.length) return say("none");
    if (key === "names") return say("{count} of them", { count: value.length });
    return value.map((v) => valueInWords(key === "lines" ? "line" : "", v, units, shop)).join("; ");
  }
  const object = value as Record<string, unknown>;
  if (key === "line") return lineInWords(object, shop);
  const said = Object.entries(object).filter(([, v]) => v !== null && v !== false);
  if (!said.length) return say("none");
  // What is kept by size or by question has the key itself for a name.
  const unit = key.endsWith("_um") ? "_um" : "";
  return said
    .map(([k, v]) =>
      v === true ? fieldInWords(k) : `${fieldInWords(k)} ${valueInWords(`${k}${unit}`, v, units, shop)}`,
    )
    .join(", ");
}

function textInWords(key: string, value: string, shop: Shop | undefined): string {
  if (key === "due") return new Date(value).toLocaleString();
  if (key === "file" || key === "profile") return say("the one that begins with {code}", { code: value.slice(0, 6) });
  if (key === "method") return shop?.method_names[value] ?? value;
  const owned = { printer: shop?.printers, press: shop?.presses, oven: shop?.ovens }[key];
  return owned?.find((thing) => thing.id === value)?.name ?? value;
}

function lineInWords(line: Record<string, unknown>, shop: Shop | undefined): string {
  const blank = shop?.blanks.find((b) => b.id === line.blank);
  const counts = Object.entries((line.counts ?? {}) as Record<string, number>).filter(([, n]) => n > 0);
  return `${blank ? `${blank.colour_name} ${blank.name.toLowerCase()}` : line.blank}: ${counts.map(([s, n]) => `${s} ${n}`).join(", ")}`;
}
