import type { Station } from "../api/types";
import type { JobLine } from "./useJobLine";

/** What every station's bench and card are given. */
export type StationProps = {
  station: Station;
  jobLine: JobLine;
  /** How often F was pressed: a bench shows its next look. */
  flips: number;
  onFlip: () => void;
};
