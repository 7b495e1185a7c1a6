import type { ComponentType } from "react";
import type { Station, StationName } from "../api/types";
import type { JobLine } from "../line/useJobLine";
import { ArtworkBench, ArtworkCard } from "./artwork/Artwork";
import { ColourBench, ColourCard } from "./colour/Colour";
import { InspectBench, InspectCard } from "./inspect/Inspect";
import { MethodBench, MethodCard } from "./method/Method";
import { OrderBench, OrderCard } from "./order/Order";
import { PrepareBench, PrepareCard } from "./prepare/Prepare";
import { PressBench, PressCard } from "./press/Press";
import { PrintBench, PrintCard } from "./print/Print";
import { SheetBench, SheetCard } from "./sheet/Sheet";
import { WhiteBench, WhiteCard } from "./white/White";

export type StationProps = {
  station: Station;
  jobLine: JobLine;
  /** How often F was pressed: a bench shows its next look. */
  flips: number;
  onFlip: () => void;
};

type StationView = { Bench: ComponentType<StationProps>; Card: ComponentType<StationProps> };

export const STATION_VIEWS: Record<StationName, StationView> = {
  order: { Bench: OrderBench, Card: OrderCard },
  method: { Bench: MethodBench, Card: MethodCard },
  artwork: { Bench: ArtworkBench, Card: ArtworkCard },
  colour: { Bench: ColourBench, Card: ColourCard },
  white: { Bench: WhiteBench, Card: WhiteCard },
  sheet: { Bench: SheetBench, Card: SheetCard },
  print: { Bench: PrintBench, Card: PrintCard },
  prepare: { Bench: PrepareBench, Card: PrepareCard },
  press: { Bench: PressBench, Card: PressCard },
  inspect: { Bench: InspectBench, Card: InspectCard },
};
