import { partsOf } from "../api/outbox";
import type { ActBody, DrawingOf, Job, OnTheWay, PressCard, PressState, Run } from "../api/types";
import { nextCut } from "../line/cuts";
import { type Slot, thingsOf } from "./engine";

/** Preparing under heat: transfers go through the stages in cut lengths, garments one by one, each stage recorded as it ends. */
export type Preparing = { slots: Slot[]; done: number; whole: number };

export type Unsent = { run: string; stage: string; count: number };

/** What waits at each stage, the latest stage first: what is powdered is cured before more is powdered. */
export function toPrepare(
  job: Job,
  drawing: DrawingOf<"stages">,
  card: PressCard,
  state: PressState,
  unsent: Unsent[],
): Preparing {
  const { stages } = card;
  const last = stages.at(-1)?.id ?? "";
  const sent = (run: string, stage: string) =>
    unsent.reduce((n, u) => n + (u.run === run && u.stage === stage ? u.count : 0), 0);
  const busy = (run: string, at: number) =>
    state.pieces.filter((p) => runOf(p.slot) === run && p.stage === at).flatMap(thingsOf).length;
  const queue = (run: string, whole: number, done: (stage: string) => number, most: (at: number) => number): Slot[] => {
    let before = whole;
    return stages.map((stage, at) => {
      const through = done(stage.id) + sent(run, stage.id);
      const left = before - through - busy(run, at);
      before = through;
      return { slot: `${run}:${at}`, label: stage.name, signature: "", left, begin: at, most: most(through) };
    });
  };
  if (card.comes_first) {
    const done = (stage: string) => drawing.prepared[stage] ?? 0;
    const whole = drawing.to_prepare + done(last);
    return { slots: queue("", whole, done, () => 1).reverse(), done: done(last) + sent("", last), whole };
  }
  const runs = job.runs.filter((r) => r.printed > 0);
  const one = stages.some((s) => s.hover && !s.alone);
  const slots = runs.flatMap((r) =>
    queue(
      r.id,
      r.printed,
      (stage) => r.prepared[stage] ?? 0,
      (at) => (one ? 1 : nextCut(r, at)),
    ).reverse(),
  );
  const through = (r: Run) => (r.prepared[last] ?? 0) + sent(r.id, last);
  return {
    slots,
    done: runs.reduce((n, r) => n + through(r), 0),
    whole: runs.reduce((n, r) => n + r.printed, 0),
  };
}

/** The stage that a load just went through, as it is recorded. */
export function preparedOf(piece: OnTheWay): ActBody | null {
  const ran = piece.ran?.at(-1);
  if (!ran) return null;
  return { kind: "prepared", run: runOf(piece.slot), stage: ran.stage, count: thingsOf(piece).length, ran };
}

/** Line, size and number of a piece; nothing of a transfer that is being prepared. */
export function whereOf(slot: string, card: PressCard) {
  return card.part === "prepare" ? {} : partsOf(slot);
}

function runOf(slot: string): string {
  return slot.slice(0, slot.lastIndexOf(":"));
}
