import type { Shop } from "../api/types";

type Units = { length: (mm: number, digits?: number) => string };

/** Fields of decisions as a person says them. */
const FIELDS: Record<string, string> = {
  title: "Job",
  customer: "Customer",
  due: "Due",
  lines: "Pieces",
  prints: "Prints, in the order of pressing",
  names: "Names",
  quoted: "Quoted a piece",
  settled: "Said to be right",
  file: "Picture",
  page: "Page of the file",
  place: "Place",
  text: "Own texts",
  width_um: "Width",
  widths_um: "Widths of their own",
  below_collar_um: "Below the collar or edge",
  offset_um: "Off the middle",
  method: "Way",
  printer: "Printer",
  mode: "Mode",
  press: "Press",
  oven: "Oven",
  schools: "Choices",
  recipe: "Recipe",
  recipe_version: "Version of the recipe",
  profile: "Colour profile",
  calibration: "Version of the correction",
  pins: "Measures, by version",
  crop: "Crop",
  language: "Language of the lettering",
  fixes: "Put right",
  intent: "Intent",
  black_point: "Black-point compensation",
  ink_limit_pct: "Ink limit, %",
  sheet_colour: "Colour of the sheet",
  shifts: "Colours printed as another",
  level_pct: "Level of white, %",
  choke_um: "Choke",
  mask: "Picture of the white",
  mask_dark: "White where that is dark",
  lights_from: "White from L*",
  own: "The file's own white",
  knock_out: "The cloth's own colour left out",
  faint: "Faint edges",
  guard: "Thin strokes guarded",
  spares: "Spares",
  gap_um: "Gap",
  across: "Prints across",
  rows_per_cut: "Rows on a cut length",
  turned: "Turned a quarter",
  height_um: "Height of a capital",
  colour: "Colour",
  enlarge: "enlarged, times",
  ground: "flat ground taken out, within",
  inside: "its pieces inside too",
  negative: "four inks turned round",
  harden: "faint edges hardened",
  thicken_px: "strokes thickened to, px",
};

export function fieldInWords(key: string): string {
  return FIELDS[key] ?? key.replaceAll("_", " ");
}

/** A decided value as it is said aloud: lengths in this person's units, things by their names. */
export function valueInWords(key: string, value: unknown, units: Units, shop: Shop | undefined): string {
  if (value === null || value === undefined || value === "") return "as usual";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "number") return key.endsWith("_um") ? units.length(value / 1000, 2) : String(value);
  if (typeof value === "string") return textInWords(key, value, shop);
  if (Array.isArray(value)) {
    if (!value.length) return "none";
    if (key === "names") return `${value.length} of them`;
    return value.map((v) => valueInWords(key === "lines" ? "line" : "", v, units, shop)).join("; ");
  }
  const object = value as Record<string, unknown>;
  if (key === "line") return lineInWords(object, shop);
  const said = Object.entries(object).filter(([, v]) => v !== null && v !== false);
  if (!said.length) return "none";
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
  if (key === "file" || key === "profile") return `the one that begins with ${value.slice(0, 6)}`;
  if (key === "method") return shop?.method_names[value] ?? value;
  const owned = { printer: shop?.printers, press: shop?.presses, oven: shop?.ovens }[key];
  return owned?.find((thing) => thing.id === value)?.name ?? value;
}

function lineInWords(line: Record<string, unknown>, shop: Shop | undefined): string {
  const blank = shop?.blanks.find((b) => b.id === line.blank);
  const counts = Object.entries((line.counts ?? {}) as Record<string, number>).filter(([, n]) => n > 0);
  return `${blank ? `${blank.colour_name} ${blank.name.toLowerCase()}` : line.blank}: ${counts.map(([s, n]) => `${s} ${n}`).join(", ")}`;
}
