import type { ComponentType } from "react";
import type { StationName } from "../api/types";
import type { StationProps } from "../line/station";
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
