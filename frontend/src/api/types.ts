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
export type Medium = Schemas["Medium"];
export type Garment = Schemas["GarmentDrawing"];
export type Stage = Schemas["Stage"];
export type CardStage = Schemas["CardStage"];
export type Layer = Schemas["Layer"];
export type RunLayout = Schemas["RunLayout"];
export type Run = Schemas["RunOut"];
export type Shop = Schemas["ShopOut"];
export type JobCard = Schemas["JobCard"];
export type Jobs = Schemas["JobsOut"];
export type WhichJobs = "open" | "needs me" | "late" | "held" | "closed" | "all";
export type LogbookPage = Schemas["LogbookPage"];
export type Entry = Schemas["Entry"];
export type Act = Schemas["Act"];
/** An act as it is sent: the server fills in what is left out, or refuses it. */
export type ActBody = Sent<Act["body"]>;
type Sent<T> = T extends { kind: infer K } ? { kind: K } & Partial<T> : never;
export type Me = Schemas["Me"];
export type Welcome = Omit<Schemas["Welcome"], "demo_people"> & { demo_people?: [string, string][] };
export type PersonRow = Schemas["PersonOut"];
export type SessionRow = Schemas["SessionOut"];
export type PressSession = Schemas["PressSessionOut"];
export type PressState = Schemas["PressState"];
export type OnTheWay = Schemas["OnTheWay"];
export type Beside = Schemas["Beside"];
export type PlatenLayout = Schemas["PlatenLayout"];
export type RanStage = Schemas["RanStage"];
export type Recipe = Schemas["RecipeOut"];
export type RecipeRow = Schemas["RecipeRow"];
export type Advice = Schemas["AdviceOut"];
export type Advised = Schemas["Advised"];
export type Looks = Schemas["Looks"];
export type Batch = Schemas["BatchView"];
export type BatchWay = Schemas["BatchWay"];
export type Trace = Schemas["Trace"];
export type PriceRow = Schemas["PriceRow"];
export type BlankView = Schemas["BlankView"];
export type Blank = Schemas["Blank"];
export type PressHeat = Schemas["PressHeatOut"];
export type Version = Schemas["VersionRow"];
export type Difference = Schemas["Difference"];
export type Cooling = Schemas["Cooling"];
export type PressCard = Schemas["PressCard"];
export type Proof = Schemas["Proof"];
export type Leftover = Schemas["Leftover"];
export type Making = Schemas["Making"];
export type Books = Schemas["Books"];
export type PieceRow = Schemas["PieceRow"];
export type TransferRow = Schemas["TransferRow"];
export type Progress = Schemas["Progress"];
export type Begun = Schemas["Begun"];
export type PointView = Schemas["PointView"];
export type OffColour = Schemas["OffColour"];
export type ChartView = Schemas["ChartOut"];
export type ColourRoom = Schemas["ColourOut"];
export type Condition = Schemas["ConditionView"];
export type Profile = Schemas["Profile"];
export type Measured = Schemas["Measurement"];
export type MeasuredView = Schemas["MeasurementView"];
export type BrandColour = Schemas["BrandColour"];
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
export type Printer = Schemas["Printer"];
export type Feed = Printer["feeds"][number];
export type Press = Schemas["Press"];
export type Oven = Schemas["Oven"];
export type Cutter = Schemas["Cutter"];
export type Probe = Schemas["Probe"];
export type HeatLog = Schemas["HeatLog"];
export type Kinds = Schemas["KindsOut"];
export type MachineKind = Schemas["MachineKindOut"];
export type MachineSort = MachineKind["sort"];
export type PricesView = Schemas["PricesView"];
export type Stocked = Schemas["Stocked"];
export type Shelf = Stocked["shelves"][number];
export type Shelved = Schemas["Shelved"];
export type StockKind = Shelved["kind"];
export type CutView = Schemas["CutView"];
export type CustomersPage = Schemas["CustomersPage"];
export type Customer = Schemas["CustomerOut"];
export type Today = Schemas["TodayView"];
export type TodayBlock = Schemas["Block"];
export type TodayMachine = Schemas["MachineLane"];
export type TodayPerson = Schemas["PersonLane"];
export type PersonHours = Schemas["PersonHours"];
export type Promised = Schemas["PromiseView"];
export type NozzlesView = Schemas["NozzlesView"];
export type Checked = Schemas["Checked"];
export type Found = Schemas["Found"];
export type AtWork = Schemas["AtWork"];
export type Brief = Schemas["Brief"];
export type Stands = Schemas["Stands"];
export type Tray = Schemas["TrayView"];
export type Due = Schemas["Due"];
export type Send = Schemas["Send"];
export type AtPrinter = Schemas["AtPrinter"];
export type Introduced = Schemas["Introduced"];
export type TableSeen = Schemas["TableSeen"];
export type Token = Schemas["TokenOut"];
export type TokenMade = Schemas["TokenMade"];
export type PinTried = Schemas["PinTried"];
export type Arrival = Schemas["Arrival"];
export type Beds = Schemas["Beds"];
export type LotView = Schemas["LotView"];
export type SheetView = Schemas["SheetView"];
export type SheetPiece = Schemas["PieceView"];
export type SharedRun = Schemas["SharedRunView"];
export type WhiteCost = Schemas["WhiteCost"];
export type Tried = Schemas["Tried"];
export type TheirPicture = Schemas["PictureView"];
