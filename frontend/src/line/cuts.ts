import type { Run } from "../api/types";

/** Transfers of the cut length that comes next, after so many went through. */
export function nextCut(run: Run, done: number): number {
  let end = 0;
  for (const cut of run.copies_per_cut) {
    end += cut;
    if (end > done) return end - done;
  }
  return Number.MAX_SAFE_INTEGER;
}
