import type { Unsent } from "../api/outbox";
import type { Beside, CardStage, Cooling, Job, OnTheWay, PressCard, PressState, RanStage } from "../api/types";
import { say } from "../texts/say";

export type Slot = {
  slot: string;
  label: string;
  signature: string;
  left: number;
  /** The stage that its pieces begin at; none: the first. */
  begin?: number;
  /** Of one load; none: as many as the platen takes. */
  most?: number;
};

/** What hands do next at the press. */
export type Next =
  | { kind: "run"; piece: OnTheWay; stage: CardStage; leftS: number }
  | { kind: "start"; piece: OnTheWay; stage: CardStage }
  | { kind: "touch"; piece: OnTheWay; stage: CardStage }
  | { kind: "dial"; toC: number; pieces: number }
  | { kind: "new"; slot: Slot; stage: CardStage }
  | { kind: "wait"; piece: OnTheWay; stage: CardStage; leftS: number }
  | { kind: "over" };

export const FRESH: PressState = { dial_c: null, pieces: [], started_at: null, done: 0, size: "" };
const WARM_AGAIN_S = 15;
export const PLACES = 12;
const MOST_NAMED = 4;

/** Slots of this print that still want pressing and have a transfer in hand, pieces on the way and acts not yet sent taken off. */
export function slotsToPress(job: Job, print: string, state: PressState, unsent: Unsent): Slot[] {
  const onTheWay = [...state.pieces.flatMap(thingsOf).map((t) => t.slot), ...unsent.pressed];
  const rows = job.ledger.books.transfers.filter((t) => t.print === print);
  const among = (slots: string[], here: string[]) => here.filter((s) => slots.includes(s)).length;
  return rows.flatMap((row) => {
    const own = row.slots.map((s) => s.slot);
    const hand = row.in_hand - among(own, onTheWay) - among(own, unsent.lost);
    return row.slots.map((s) => ({
      slot: s.slot,
      label: s.label,
      signature: row.signature,
      left: Math.min(hand, s.to_press - among([s.slot], onTheWay) + among([s.slot], unsent.spoiled)),
    }));
  });
}

export function atPress(state: PressState): OnTheWay | undefined {
  return state.pieces.find((p) => p.where === "press");
}

export function waitS(stage: CardStage | undefined, cooling: { [stage: string]: Cooling }): number {
  const known = stage && cooling[stage.id];
  return known?.learned_s ?? stage?.time_s ?? 0;
}

/** Seconds until a piece on the rack is likely cold; below zero when it is due for a touch. */
export function leftOnRack(
  piece: OnTheWay,
  stages: CardStage[],
  cooling: { [stage: string]: Cooling },
  now: number,
): number {
  const due = (piece.since ?? now) + waitS(stages[piece.stage], cooling) * 1000;
  const again = piece.warm_at ? piece.warm_at + WARM_AGAIN_S * 1000 : 0;
  return (Math.max(due, again) - now) / 1000;
}

export function nextStep(
  state: PressState,
  stages: CardStage[],
  cooling: { [stage: string]: Cooling },
  slots: Slot[],
  now: number,
  begin = 0,
): Next {
  const here = atPress(state);
  if (here) {
    const stage = stages[here.stage] as CardStage;
    if (state.started_at != null)
      return { kind: "run", piece: here, stage, leftS: stage.time_s - (now - state.started_at) / 1000 };
    return { kind: "start", piece: here, stage };
  }
  const rack = state.pieces.filter((p) => p.where === "rack").sort((a, b) => (a.since ?? 0) - (b.since ?? 0));
  const due = rack.find((p) => leftOnRack(p, stages, cooling, now) <= 0);
  if (due) return { kind: "touch", piece: due, stage: stages[due.stage] as CardStage };
  const fits = (stage: CardStage | undefined) => stage?.temperature_c == null || stage.temperature_c === state.dial_c;
  const parked = state.pieces.filter((p) => p.where === "parked");
  const again = parked.find((p) => fits(stages[p.stage]));
  if (again) return { kind: "start", piece: again, stage: stages[again.stage] as CardStage };
  const slot = chosenSlot(state, slots);
  const from = slot?.begin ?? begin;
  const first = firstHot(stages.slice(from));
  if (slot && rack.length < PLACES && fits(first)) return { kind: "new", slot, stage: stages[from] as CardStage };
  const oldest = rack[0];
  if (oldest)
    return {
      kind: "wait",
      piece: oldest,
      stage: stages[oldest.stage] as CardStage,
      leftS: leftOnRack(oldest, stages, cooling, now),
    };
  const cold = parked[0] ? stages[parked[0].stage]?.temperature_c : slot ? first?.temperature_c : null;
  if (cold != null) return { kind: "dial", toC: cold, pieces: parked.length };
  return { kind: "over" };
}

export function chosenSlot(state: PressState, slots: Slot[]): Slot | undefined {
  return slots.find((s) => s.slot === state.size && s.left > 0) ?? slots.find((s) => s.left > 0);
}

function firstHot(stages: CardStage[]): CardStage | undefined {
  return stages.find((s) => s.temperature_c != null);
}

/** What lies together: a load, most often one thing. */
export function thingsOf(piece: OnTheWay): Beside[] {
  return [{ id: piece.id, slot: piece.slot }, ...(piece.others ?? [])];
}

/** The slots of the next load: alike things, or things of one size with names of their own, as many as go under the press. */
export function nextLoad(state: PressState, slots: Slot[], atOnce: number): string[] {
  const first = chosenSlot(state, slots);
  if (!first) return [];
  const kind = first.slot.split("#")[0];
  const alike = slots.filter((s) => s !== first && s.slot.includes("#") && s.slot.split("#")[0] === kind);
  const whole = first.most ?? atOnce;
  const most = Math.min(whole, state.load ?? whole);
  return [first, ...alike].flatMap((s) => Array<string>(Math.max(0, s.left)).fill(s.slot)).slice(0, most);
}

/** A load as hands call it. */
export function loadLabel(slots: string[], labelOf: (slot: string) => string): string {
  const [first = ""] = slots;
  if (slots.length < 2) return labelOf(first);
  if (slots.every((s) => s === first)) return `${slots.length} x ${labelOf(first)}`;
  const named = slots.slice(0, MOST_NAMED).map(labelOf).join(", ");
  return slots.length > MOST_NAMED ? say("{named} and {more} more", { named, more: slots.length - MOST_NAMED }) : named;
}

/** The next load is laid under the press. */
export function lay(state: PressState, things: Beside[], order: number, stage = 0): PressState {
  const [first, ...others] = things;
  if (!first) return state;
  const piece: OnTheWay = {
    id: first.id,
    slot: first.slot,
    others,
    order,
    stage,
    ran: [],
    where: "press",
    place: null,
    since: null,
    warm_at: null,
    again: false,
  };
  return { ...state, size: first.slot, pieces: [...state.pieces, piece], started_at: null };
}

export function start(state: PressState, piece: OnTheWay, now: number): PressState {
  return { ...put(state, { ...piece, where: "press", place: null }), started_at: now };
}

/** A stage on the press ended; the piece goes on, to the rack, or aside until the heat is right for it. */
export function finishStage(
  state: PressState,
  piece: OnTheWay,
  stages: CardStage[],
  now: number,
  isEarly: boolean,
): { state: PressState; done: OnTheWay | null } {
  const stage = stages[piece.stage] as CardStage;
  const ranS = state.started_at == null ? 0 : seconds(now - state.started_at);
  return moveOn({ ...state, started_at: null }, piece, ranOf(piece, stage, ranS, isEarly), stages, now);
}

/** A touch found a piece on the rack cold. */
export function foundCold(state: PressState, piece: OnTheWay, stages: CardStage[], now: number, isEarly: boolean) {
  const stage = stages[piece.stage] as CardStage;
  const ran = ranOf(piece, stage, seconds(now - (piece.since ?? now)), isEarly);
  ran.warm_at_s = piece.warm_at && piece.since ? seconds(piece.warm_at - piece.since) : null;
  return moveOn(state, piece, ran, stages, now);
}

/** A load is left to itself: on the rack, or in the oven. */
export function rest(state: PressState, piece: OnTheWay, now: number): PressState {
  return put(state, { ...piece, where: "rack", place: freePlace(state), since: now });
}

export function foundWarm(state: PressState, piece: OnTheWay, now: number): PressState {
  return put(state, { ...piece, warm_at: now });
}

function moveOn(state: PressState, piece: OnTheWay, ran: RanStage, stages: CardStage[], now: number) {
  const at = after(stages, piece);
  const next = stages[at];
  const moved: OnTheWay = {
    ...piece,
    stage: at,
    ran: [...(piece.ran ?? []), ran],
    place: null,
    since: null,
    warm_at: null,
  };
  if (!next) {
    const pieces = state.pieces.filter((p) => p.id !== piece.id);
    return { state: { ...state, pieces, done: state.done + 1 }, done: moved };
  }
  // What comes off the press cools at once; what goes into an oven is put there first.
  if (next.alone && next.temperature_c == null) return { state: rest(state, moved, now), done: null };
  const mustWait = next.temperature_c != null && state.dial_c != null && next.temperature_c !== state.dial_c;
  return { state: put(state, { ...moved, where: mustWait ? "parked" : "press" }), done: null };
}

/** Some things of their loads as a load of their own, but for a load that lies under the press: it stays whole. */
export function apart(state: PressState, ids: string[]): PressState {
  const pieces = state.pieces.flatMap((p) => {
    const [failed, rest] = [
      thingsOf(p).filter((t) => ids.includes(t.id)),
      thingsOf(p).filter((t) => !ids.includes(t.id)),
    ];
    if (!failed.length || !rest.length || p.where === "press") return [p];
    return [loadOf(p, rest), loadOf(p, failed)];
  });
  return { ...state, pieces };
}

function loadOf(piece: OnTheWay, things: Beside[]): OnTheWay {
  const [first, ...others] = things as [Beside, ...Beside[]];
  return { ...piece, id: first.id, slot: first.slot, others };
}

/** The whole pressing stage once more, to save a piece that has not let go. */
export function again(state: PressState, ids: string[], stages: CardStage[]): PressState {
  const loads = apart(state, ids);
  const isMeant = (p: OnTheWay) => thingsOf(p).some((t) => ids.includes(t.id));
  return {
    ...loads,
    started_at: loads.pieces.some((p) => isMeant(p) && p.where === "press") ? null : state.started_at,
    pieces: loads.pieces.map((p) =>
      isMeant(p)
        ? {
            ...p,
            stage: pressingStage(stages, p.stage),
            where: "parked",
            place: null,
            since: null,
            warm_at: null,
            again: true,
          }
        : p,
    ),
  };
}

/** The hot stage after which a piece cools: the one that transfers, of the part that is on at a stage. */
export function pressingStage(stages: CardStage[], at = 0): number {
  const part = stages[Math.min(at, stages.length - 1)]?.nth_part;
  const [first, after] = [
    stages.findIndex((s) => s.nth_part === part),
    stages.findLastIndex((s) => s.nth_part === part) + 1,
  ];
  const rests = stages.findIndex((s, i) => i >= first && i < after && s.alone);
  for (let i = (rests < 0 ? after : rests) - 1; i >= first; i--) if (stages[i]?.temperature_c != null) return i;
  return Math.max(0, first);
}

/** Whether the print lies on the blank already: before, a spoiled blank costs no transfer. */
export function carriesPrint(piece: OnTheWay, stages: CardStage[]): boolean {
  const first = stages.findIndex((s) => (s.stack ?? []).some((l) => l.kind === "carrier"));
  return piece.again || piece.stage >= Math.max(0, first);
}

/** One thing is taken out of its load. */
export function drop(state: PressState, id: string): PressState {
  const load = state.pieces.find((p) => thingsOf(p).some((t) => t.id === id));
  const rest = load ? thingsOf(load).filter((t) => t.id !== id) : [];
  if (load && rest.length) return { ...state, pieces: state.pieces.map((p) => (p === load ? loadOf(load, rest) : p)) };
  return {
    ...state,
    pieces: state.pieces.filter((p) => p !== load),
    started_at: load && atPress(state) === load ? null : state.started_at,
  };
}

/** Pieces until the heat changes, when it will: said early, since a press takes minutes. */
export function heatChange(
  state: PressState,
  stages: CardStage[],
  slots: Slot[],
): { toC: number; pieces: number } | null {
  const left =
    slots.reduce((n, s) => n + Math.max(0, s.left), 0) +
    state.pieces.filter((p) => p.where !== "parked").flatMap(thingsOf).length;
  const other = stages.find((s) => s.temperature_c != null && state.dial_c != null && s.temperature_c !== state.dial_c);
  return other?.temperature_c != null && left > 0 ? { toC: other.temperature_c, pieces: left } : null;
}

function put(state: PressState, piece: OnTheWay): PressState {
  return { ...state, pieces: state.pieces.map((p) => (p.id === piece.id ? piece : p)) };
}

function freePlace(state: PressState): number {
  const taken = new Set(state.pieces.map((p) => p.place));
  for (let n = 1; n <= PLACES; n++) if (!taken.has(n)) return n;
  return PLACES;
}

function ranOf(piece: OnTheWay, stage: CardStage, ranS: number, isEarly: boolean): RanStage {
  return {
    stage: stage.id,
    temperature_c: stage.temperature_c ?? null,
    planned_s: stage.time_s,
    ran_s: Math.max(0, ranS),
    ended_early: isEarly,
    warm_at_s: null,
    again: piece.again ?? false,
    covers: stage.covers ?? [],
  };
}

export type Cover = { cover: string; left: number; uses: number };

/** Counted sheets of a stage and what they are still good for, pieces not yet recorded taken off. */
export function coversAt(stage: CardStage, known: PressCard["covers"], pieces: OnTheWay[]): Cover[] {
  const here = stage.covers ?? [];
  return known
    .filter((c) => c.uses > 1 && here.includes(c.cover))
    .map((c) => {
      const since = pieces.reduce((n, p) => n + (p.ran ?? []).filter((r) => r.covers.includes(c.cover)).length, 0);
      return { cover: c.cover, uses: c.uses, left: c.uses - c.used - since };
    });
}

/** Where a piece begins: what is done before the first piece alone is left out once it was done. */
export function firstStage(stages: CardStage[], isFirst: boolean): number {
  const at = stages.findIndex((s) => isFirst || !s.first_only);
  return Math.max(0, at);
}

/** The stage after a piece's own; what only the first piece needs is skipped by the others. */
function after(stages: CardStage[], piece: OnTheWay): number {
  for (let i = piece.stage + 1; i < stages.length; i++) if (!stages[i]?.first_only || piece.order === 1) return i;
  return stages.length;
}

function seconds(ms: number): number {
  return Math.round(ms / 100) / 10;
}

export function clock(left: number): string {
  const whole = Math.max(0, Math.ceil(left));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
