import type { Condition } from "../../api/types";

/** Corrected, and no chart has been measured since: nobody knows yet whether it helped. */
export const awaitsProof = (c: Condition) =>
  Boolean(c.condition?.measurement) && (c.measurements.at(-1)?.condition_version ?? 0) < (c.condition?.version ?? 0);

export const words = (id: string) => id.replaceAll("-", " ");
