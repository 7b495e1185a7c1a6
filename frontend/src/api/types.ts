import type { components } from "./schema";

type Schemas = components["schemas"];
export type Job = Schemas["JobOut"];
export type Line = Schemas["LineOut"];
export type Station = Schemas["StationResult"];
export type StationName = Station["station"];
export type State = Station["state"];
export type Finding = Schemas["Finding"];
export type Reading = Schemas["Reading"];
export type Decisions = Line["decisions"];
export type Document = keyof Decisions;
export type Pictures = Schemas["PictureSet"];
export type Garment = Schemas["GarmentDrawing"];
export type Stage = Schemas["Stage"];
export type Layer = Schemas["Layer"];
export type RunLayout = Schemas["RunLayout"];
export type Run = Schemas["RunOut"];
export type Shop = Schemas["ShopOut"];
export type JobCard = Schemas["JobCard"];
export type Entry = Schemas["Entry"];
export type Act = Schemas["Act"];
export type ActBody = Act["body"];
export type Progress = Schemas["Progress"];
export type Drawing = NonNullable<Station["drawing"]>;
export type DrawingOf<K extends Drawing["kind"]> = Extract<Drawing, { kind: K }>;

export const STATIONS: StationName[] = [
  "order",
  "method",
  "artwork",
  "colour",
  "white",
  "sheet",
  "print",
  "prepare",
  "press",
  "inspect",
];

/** The drawing of a station when it is of the wanted kind. */
export function drawingOf<K extends Drawing["kind"]>(station: Station, kind: K): DrawingOf<K> | null {
  const drawing = station.drawing;
  return drawing?.kind === kind ? (drawing as DrawingOf<K>) : null;
}
