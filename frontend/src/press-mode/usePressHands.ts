import { newId } from "../api/client";
import { partsOf, useOutbox } from "../api/outbox";
import {
  type ActBody,
  type Beside,
  drawingOf,
  type OnTheWay,
  type PressCard,
  type PressState,
  type Stage,
  type Station,
} from "../api/types";
import type { JobLine } from "../line/useJobLine";
import { say } from "../texts/say";
import { several } from "../ui/several";
import * as engine from "./engine";
import { preparedOf, toPrepare, whereOf } from "./preparing";
import type { Outcome } from "./Trouble";
import type { usePressSession } from "./usePressSession";

export const TAKE_BACK_MS = 10_000;

/** What hands can do at the press, each kept at once and recorded through the outbox. */
export function usePressHands(
  card: PressCard,
  jobLine: JobLine,
  session: ReturnType<typeof usePressSession>,
  now: number,
) {
  const outbox = useOutbox();
  const { job } = jobLine;
  const { live, keep } = session;
  const { state } = live;
  const { stages, cooling } = card;
  const labelOf = (slot: string) => job.ledger.books.labels[slot] ?? slot;
  const isPreparing = card.part === "prepare";
  const nameOf = (slots: string[]) =>
    isPreparing ? several(slots.length, card.comes_first ? "garment" : "transfer") : engine.loadLabel(slots, labelOf);
  const loadOf = (piece: OnTheWay) => nameOf(engine.thingsOf(piece).map((t) => t.slot));
  const unsent = outbox.unsent(job.id, card.print);
  const drawing = drawingOf(jobLine.line.stations.find((s) => s.station === "prepare") as Station, "stages");
  const preparing = isPreparing && drawing ? toPrepare(job, drawing, card, state, outbox.unsentPrepared(job.id)) : null;
  const slots = preparing?.slots ?? engine.slotsToPress(job, card.print, state, unsent);
  const order = state.done + state.pieces.length + 1;
  const first = engine.firstStage(stages, order === 1 && !card.first_done);
  const next = engine.nextStep(state, stages, cooling, slots, now, first);
  const rows = job.ledger.books.transfers.filter((t) => t.print === card.print).flatMap((t) => t.slots);
  const ordered = preparing?.whole ?? rows.reduce((n, s) => n + s.ordered, 0);
  const pressed =
    preparing?.done ?? rows.reduce((n, s) => n + s.pressed, 0) + unsent.pressed.length - unsent.spoiled.length;
  const canTakeBack = live.last !== null && now - live.last.at < TAKE_BACK_MS;

  const act = (body: ActBody, id?: string) => outbox.act(job.id, body, card.print, id);
  /** Recorded under the piece's own id: two screens that both know it record it once. */
  const record = (piece: OnTheWay) => recordThings(piece, engine.thingsOf(piece));
  const recordThings = (piece: OnTheWay, things: Beside[]) => {
    const all = engine.thingsOf(piece);
    const slots = [...new Set(things.map((t) => t.slot))];
    return slots.map((slot) => {
      const alike = things.filter((t) => t.slot === slot);
      // The sheets of a pressing are counted once, with the load's first thing.
      const isFirst = alike.some((t) => t.id === all[0]?.id);
      const stages = (piece.ran ?? []).map((r) => (isFirst ? r : { ...r, covers: [] }));
      return act(
        {
          kind: "pressed",
          run: card.run,
          ...partsOf(slot),
          print: card.print,
          press: card.press,
          stages,
          count: alike.length,
          together: all.length,
        },
        alike[0]?.id,
      );
    });
  };
  /** One step of the hands: kept at once, and how it stood before kept with it. */
  const step = (said: string, after: PressState, acts: string[] = []) =>
    keep((was) => ({ ...was, state: after, last: { said, at: Date.now(), before: was.state, acts } }));

  /** A stage of preparing is recorded as it ends, a pressed piece when it is through. */
  const through = (moved: { state: PressState; done: OnTheWay | null }, said: string, of?: OnTheWay) => {
    const body =
      isPreparing && of ? preparedOf(moved.done ?? moved.state.pieces.find((p) => p.id === of.id) ?? of) : null;
    const acts = body ? [act(body, `${of?.id}-${of?.stage}`)] : moved.done && !isPreparing ? record(moved.done) : [];
    step(moved.done ? say("{load} is through", { load: loadOf(moved.done) }) : said, moved.state, acts);
  };
  const begin = (from: PressState, piece: OnTheWay, stage: Stage, at: number) => {
    const running = engine.start(from, piece, at);
    if (stage.alone) step(say("{name} started", { name: stage.name }), engine.rest(from, piece, at));
    else if (stage.time_s > 0) step(say("{name} started", { name: stage.name }), running);
    else
      through(engine.finishStage(running, piece, stages, at, false), say("{name} done", { name: stage.name }), piece);
  };
  const setUp = (temperature: number | null | undefined, changed: string[]) =>
    act({ ...card.wanted, kind: "set-up", temperature_c: temperature ?? null, changed });

  /** What Space does now, judged at the moment of the touch and not at the last tick. */
  const goOn = (isEarly = false) => {
    const at = Date.now();
    if (!live.isReady) {
      setUp(
        card.wanted.temperature_c,
        card.rows.map((r) => r.what),
      );
      keep((was) => ({ ...was, isReady: true, state: { ...was.state, dial_c: card.wanted.temperature_c ?? null } }));
      return;
    }
    const due = engine.nextStep(state, stages, cooling, slots, at, first);
    if (due.kind === "run" && (isEarly || due.leftS <= 0))
      through(
        engine.finishStage(state, due.piece, stages, at, isEarly),
        say("{name} ended", { name: due.stage.name }),
        due.piece,
      );
    else if (due.kind === "start") begin(state, due.piece, due.stage, at);
    else if (due.kind === "touch") isCold(due.piece, false);
    else if (due.kind === "new") layNext(at);
    else if (due.kind === "dial") step(say("Heat changed"), { ...state, dial_c: due.toC }, [setUp(due.toC, ["Heat"])]);
  };
  const nextSlot = engine.chosenSlot(state, slots);
  const load = engine.nextLoad(state, slots, card.at_once);
  const layNext = (at: number) => {
    const things = load.map((slot) => ({ id: newId(), slot }));
    const from = nextSlot?.begin ?? first;
    const laid = engine.lay(state, things, order, from);
    begin(laid, laid.pieces[laid.pieces.length - 1] as OnTheWay, stages[from] as Stage, at);
  };
  const isCold = (piece: OnTheWay, isEarly: boolean) =>
    through(
      engine.foundCold(state, piece, stages, Date.now(), isEarly),
      `${loadOf(piece)}: ${stages[piece.stage]?.asks ? "done" : "cold"}`,
      piece,
    );
  const isWarm = (piece: OnTheWay) =>
    step(say("{load}: still warm", { load: loadOf(piece) }), engine.foundWarm(state, piece, Date.now()));
  const takeCover = (cover: string) => act({ kind: "renewed", press: card.press, cover });
  const takeBack = () => {
    const { last } = live;
    if (!last || Date.now() - last.at >= TAKE_BACK_MS) return;
    for (const voids of [...last.acts].reverse())
      act({ kind: "voided", voids, reason: say("taken back at the press") });
    // A piece that was recorded goes on under a new id: its old one stands for the act taken back.
    const again = <T extends Beside>(t: T): T =>
      last.acts.some((a) => a.startsWith(t.id)) ? { ...t, id: newId() } : t;
    const pieces = last.before.pieces.map((p) => ({ ...again(p), others: (p.others ?? []).map(again) }));
    keep((was) => ({ ...was, state: { ...last.before, pieces }, last: null }));
  };
  const otherSize = () => {
    const open = slots.filter((s) => s.left > 0);
    const at = open.findIndex((s) => s.slot === nextSlot?.slot);
    const other = open[(at + 1) % open.length];
    if (other) keep((was) => ({ ...was, state: { ...was.state, size: other.slot } }));
  };
  /** Fewer or more things in the next pressing. */
  const changeLoad = (by: number) => {
    const now = Math.max(1, load.length) + by;
    if (now >= 1 && now <= card.at_once) keep((was) => ({ ...was, state: { ...was.state, load: now } }));
  };
  const spoiledOf = (piece: OnTheWay, outcome: Outcome, cause: string): ActBody => {
    const passes = job.passes;
    const before = passes.filter((p) => p.number < card.number).map((p) => p.print);
    const at = { ...whereOf(piece.slot, card), count: 1, stage: stages[piece.stage]?.id ?? "after", cause };
    if (outcome === "transfer") return { kind: "spoiled", what: "transfer", print: card.print, ...at };
    // A blank that carries an earlier print is a piece by now.
    if (outcome === "blank" && !before.length) return { kind: "spoiled", what: "blank", ...at };
    return {
      kind: "spoiled",
      what: "piece",
      had: outcome === "blank" ? before : [...before, card.print],
      outcome: outcome === "second" ? "second" : "scrap",
      ...at,
    };
  };
  /** Which failed, and what becomes of each: pressed once more, or spoiled. */
  const judge = (ids: string[], outcome: Outcome, cause: string) => {
    const failed = state.pieces.flatMap((p) =>
      engine
        .thingsOf(p)
        .filter((t) => ids.includes(t.id))
        .map((t) => ({ ...p, ...t })),
    );
    const said = (what: string) => `${failed.map((p) => labelOf(p.slot)).join(", ")}: ${what}`;
    if (outcome === "again") return step(said(say("once more")), engine.again(state, ids, stages));
    const whole = (id: string) => state.pieces.find((p) => engine.thingsOf(p).some((t) => t.id === id)) as OnTheWay;
    const acts = failed.flatMap((p) => [
      ...(outcome === "spoiled" || outcome === "second" ? recordThings(whole(p.id), [{ id: p.id, slot: p.slot }]) : []),
      act(spoiledOf(p, outcome, cause)),
    ]);
    step(
      said(say("spoiled")),
      ids.reduce((s, id) => engine.drop(s, id), state),
      acts,
    );
  };
  return {
    next,
    slots,
    nextSlot,
    pressed,
    ordered,
    unsent,
    canTakeBack,
    labelOf,
    goOn,
    layNext,
    isCold,
    isWarm,
    otherSize,
    takeBack,
    takeCover,
    load,
    loadOf,
    nameOf,
    changeLoad,
    judge,
  };
}
