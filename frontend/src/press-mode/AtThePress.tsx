import { useEffect, useState } from "react";
import { useOutbox } from "../api/outbox";
import type { CardStage, OnTheWay, PressCard } from "../api/types";
import { useSize } from "../bench/Bench";
import { PlatenPicture } from "../bench/PlatenPicture";
import { Stack } from "../bench/Stack";
import type { JobLine } from "../line/useJobLine";
import { useMe } from "../settings/me";
import { useUnits } from "../settings/settings";
import { say, sayMany } from "../texts/say";
import { worded } from "../texts/words";
import { Boundary } from "../ui/Boundary";
import { Overlay } from "../ui/Overlay";
import { Key } from "../ui/parts";
import { Switching } from "../ui/Switching";
import * as engine from "./engine";
import { Instruction } from "./Instruction";
import { Over } from "./Over";
import { Rack } from "./Rack";
import { ReadBack } from "./ReadBack";
import { Trouble } from "./Trouble";
import { TAKE_BACK_MS, usePressHands } from "./usePressHands";
import type { usePressSession } from "./usePressSession";
import { useHold, useSpace } from "./useSpace";
import { useWakeLock } from "./useWakeLock";

/** Pieces before a change of heat from which on it is announced: a press takes minutes. */
const ANNOUNCED = 3;

type AtThePressProps = {
  card: PressCard;
  jobLine: JobLine;
  session: ReturnType<typeof usePressSession>;
  now: number;
  onLeave: (to: string) => void;
};

export function AtThePress({ card, jobLine, session, now, onLeave }: AtThePressProps) {
  const units = useUnits();
  const outbox = useOutbox();
  const awake = useWakeLock();
  const [asks, setAsks] = useState<OnTheWay | null>(null);
  const [hasTrouble, setHasTrouble] = useState(false);
  const [handsOver, setHandsOver] = useState(false);
  const me = useMe();
  const hands = usePressHands(card, jobLine, session, now);
  const { next, slots, nextSlot, labelOf } = hands;
  const { job } = jobLine;
  const { live } = session;
  const { state } = live;
  const { stages, cooling } = card;
  const canLayInstead =
    (next.kind === "touch" || next.kind === "wait") && nextSlot !== undefined && !engine.atPress(state);
  const askEarly = () => {
    const due = engine.nextStep(state, stages, cooling, slots, Date.now());
    if (live.isReady && ((due.kind === "run" && due.leftS > 0) || due.kind === "wait")) setAsks(due.piece);
  };
  const endEarly = () => {
    if (!asks) return;
    setAsks(null);
    if (asks.where === "rack") hands.isCold(asks, engine.leftOnRack(asks, stages, cooling, Date.now()) > 0);
    else hands.goOn(true);
  };
  const isPreparing = card.part === "prepare";
  const stationPath = `/jobs/${job.id}/${card.part}?print=${card.print}`;
  const isRunning = next.kind === "run" && next.leftS > 0;
  const leave = () => (next.kind === "run" ? undefined : onLeave(stationPath));

  const onHands = {
    onPress: () => {
      if (asks || hasTrouble) return;
      if (isOver) onLeave(afterwards.to);
      else hands.goOn();
    },
    onHold: askEarly,
  };
  useSpace(onHands);
  const hold = useHold(onHands);
  useKeys(
    {
      y: () => asks && endEarly(),
      n: () => setAsks(null),
      escape: () => (asks ? setAsks(null) : leave()),
      p: () => setHandsOver(true),
      f: () => canFail && !asks && live.isReady && setHasTrouble(true),
      z: hands.takeBack,
      w: () => next.kind === "touch" && hands.isWarm(next.piece),
      b: () => canLayInstead && nextSlot && hands.layNext(Date.now()),
      s: () => next.kind === "new" && hands.otherSize(),
      "-": () => next.kind === "new" && hands.changeLoad(-1),
      "+": () => next.kind === "new" && hands.changeLoad(1),
      c: () => spent && !isRunning && hands.takeCover(spent.cover),
    },
    hasTrouble || handsOver,
  );

  const canFail = !isPreparing || !card.comes_first;
  const isOver = live.isReady && next.kind === "over";
  const afterwards = whereNext(jobLine, card);
  const stage = stageOf(next);
  const slotHere = "piece" in next ? next.piece.slot : next.kind === "new" ? next.slot.slot : "";
  const spot = card.placings.find((p) => p.slot === slotHere);
  const change = engine.heatChange(state, stages, slots);
  const covers = stage ? engine.coversAt(stage, card.covers, state.pieces) : [];
  const spent = covers.find((c) => c.left <= 0);
  const announced = live.isReady && change && change.pieces <= ANNOUNCED ? change : null;
  // Said at the moment the transfer is laid, and not before or after.
  const isLaid =
    next.kind === "start" &&
    ["carrier", "blank"].every((kind) => (next.stage.stack ?? []).some((l) => l.kind === kind)) &&
    next.stage.temperature_c != null;
  const placing = isLaid ? placingOf(next.stage, spot, card) : "";

  return (
    <main className="flex h-full flex-col bg-ground text-ink" data-press-mode>
      <header className="flex items-center justify-between gap-6 border-b border-hair px-7 py-3 text-xl">
        <p>
          <span className="font-bold">{jobLine.line.decisions.order.title}</span>
          <span className="text-soft">
            {card.of > 1 &&
              say(" · {print_name}, print {number} of {of}", {
                print_name: card.print_name,
                number: card.number,
                of: card.of,
              })}{" "}
            ·{" "}
            <span className="num">
              {say("{pressed} of {ordered}", { pressed: hands.pressed, ordered: hands.ordered })}
            </span>{" "}
            {isPreparing ? say("{counts} prepared", { counts: card.counts }) : say("pressed")}
          </span>
        </p>
        <p className="flex items-center gap-4 text-right">
          <button
            type="button"
            onClick={() => setHandsOver(true)}
            className="rounded-full border border-hair2 px-4 py-0.5"
          >
            {me.name} <Key>P</Key>
          </button>
          <span>
            <span className="text-soft">{card.press_name}</span>
            {state.dial_c != null && (
              <>
                <span className="text-soft"> {say("set to")} </span>
                <span className="num font-bold text-heat">{units.bothHeats(state.dial_c)}</span>
              </>
            )}
          </span>
        </p>
      </header>
      <Notes
        awake={awake}
        isAlone={session.leading === "alone"}
        waiting={outbox.waiting}
        problem={outbox.problem ? outbox.problem.message : ""}
        change={
          announced
            ? sayMany(
                announced.pieces,
                "In {count} piece the press goes to {heat}.",
                "In {count} pieces the press goes to {heat}.",
                { heat: units.bothHeats(announced.toC) },
              )
            : ""
        }
      />
      {!live.isReady && <ReadBack card={card} />}
      {isOver && <Over job={job} card={card} unsent={hands.unsent} said={afterwards.said} />}
      {live.isReady && !isOver && (
        <div className="grid min-h-0 grow grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] max-[900px]:grid-cols-1">
          <section aria-label={say("Stack")} className="flex min-h-0 flex-col px-7 pt-3">
            <h2 className="text-xl text-soft">
              {stage
                ? stage.stack.some((l) => l.printed_face && l.printed_face !== "none")
                  ? say("{number} {stage}: top first, hatched face carries the print", {
                      number: stages.indexOf(stage) + 1,
                      stage: stage.name,
                    })
                  : say("{number} {stage}: top first", { number: stages.indexOf(stage) + 1, stage: stage.name })
                : say("The press")}
            </h2>
            {stage && (
              <Boundary what={say("The stack")} of={stage.id}>
                <div className="flex min-h-[160px] grow gap-4">
                  <TheStack stage={stage} cloth={spot?.cloth ?? "#333333"} />
                  {card.platen && card.at_once > 1 && (
                    <PlatenPicture
                      platen={card.platen}
                      laid={"piece" in next ? engine.thingsOf(next.piece).length : hands.load.length}
                      cloth={spot?.cloth ?? "#333333"}
                    />
                  )}
                </div>
              </Boundary>
            )}
            {(!isPreparing || card.is_oven) && (
              <Boundary what={say("The rack")} of={String(state.pieces.length)}>
                <Rack
                  state={state}
                  stages={stages}
                  cooling={cooling}
                  now={now}
                  labelOf={hands.loadOf}
                  isOven={card.is_oven}
                  next={next.kind === "touch" || next.kind === "wait" ? next.piece.id : null}
                  onTouch={setAsks}
                />
              </Boundary>
            )}
          </section>
          <Boundary
            what={say("The instruction")}
            of={`${next.kind} ${stage?.id}`}
            instead={
              <p className="num text-[96px] leading-none font-bold">
                {next.kind === "run" ? `${Math.ceil(next.leftS)} s` : (stage?.name ?? next.kind)}
              </p>
            }
          >
            <Instruction
              next={next}
              label={"piece" in next ? hands.loadOf(next.piece) : next.kind === "new" ? hands.nameOf(hands.load) : ""}
              slots={slots}
              labelOf={labelOf}
              then={thenOf(next, stages, isPreparing)}
              placing={placing}
              covers={covers}
              gauge={card.gauge}
            />
          </Boundary>
        </div>
      )}
      <footer className="flex flex-wrap items-center gap-4 border-t border-hair px-7 py-3 text-xl">
        <button
          type="button"
          aria-disabled={isRunning || next.kind === "wait"}
          {...hold}
          className="flex min-h-16 min-w-56 items-center justify-center gap-3 rounded-xl bg-act px-7 text-2xl font-bold text-on-act touch-none select-none aria-disabled:bg-hair aria-disabled:text-ink"
        >
          {live.isReady ? (isOver ? afterwards.button : actionOf(next)) : say("It stands as the card says")}{" "}
          <Key>{say("Space")}</Key>
        </button>
        {asks ? (
          <p role="alert" className="flex items-center gap-3 font-bold text-need">
            {asks.where === "rack"
              ? say("Place {place}: {asks}", { place: asks.place, asks: stages[asks.stage]?.asks || say("cold?") })
              : say("Ended early?")}
            <Choice onClick={endEarly} hotkey="Y" need>
              {say("Yes")}
            </Choice>
            <Choice onClick={() => setAsks(null)} hotkey="N">
              {say("No")}
            </Choice>
          </p>
        ) : (
          <>
            {next.kind === "touch" && live.isReady && (
              <Choice onClick={() => hands.isWarm(next.piece)} hotkey="W">
                {next.stage.asks ? say("Not yet") : say("Still warm")}
              </Choice>
            )}
            {canLayInstead && live.isReady && nextSlot && (
              <Choice onClick={() => hands.layNext(Date.now())} hotkey="B">
                {isPreparing ? say("The next one") : say("Lay a blank")}
              </Choice>
            )}
            {next.kind === "new" && live.isReady && slots.filter((s) => s.left > 0).length > 1 && (
              <Choice onClick={hands.otherSize} hotkey="S">
                {say("Other size")}
              </Choice>
            )}
            {next.kind === "new" && live.isReady && card.at_once > 1 && (
              <>
                <Choice onClick={() => hands.changeLoad(-1)} hotkey="−">
                  {say("Lay fewer")}
                </Choice>
                <Choice onClick={() => hands.changeLoad(1)} hotkey="+">
                  {say("More")}
                </Choice>
              </>
            )}
            {spent && !isRunning && live.isReady && (
              <Choice onClick={() => hands.takeCover(spent.cover)} hotkey="C" need>
                {say("A new {cover} is on", { cover: worded(spent.cover) })}
              </Choice>
            )}
            {isRunning && <p className="text-soft">{say("Held a second it asks “ended early?”.")}</p>}
          </>
        )}
        <div className="ml-auto flex items-center gap-3">
          {hands.canTakeBack && live.last && !asks && (
            <Choice onClick={hands.takeBack} hotkey="Z">
              <span className="block text-left leading-tight">
                {say("Take back")}{" "}
                <span className="num">{Math.ceil((TAKE_BACK_MS - (now - live.last.at)) / 1000)}</span>
                <span className="block text-base font-normal text-soft">{live.last.said}</span>
              </span>
            </Choice>
          )}
          {live.isReady && !isOver && canFail && (
            <Choice onClick={() => setHasTrouble(true)} hotkey="F">
              {say("Trouble")}
            </Choice>
          )}
          {next.kind !== "run" && (
            <Choice onClick={leave} hotkey="Esc">
              {say("Leave")}
            </Choice>
          )}
        </div>
      </footer>
      <Overlay
        title={say("{name} is at the press", { name: me.name })}
        open={handsOver}
        onClose={() => setHandsOver(false)}
      >
        <Switching me={me.name} onDone={() => setHandsOver(false)} />
      </Overlay>
      <Trouble
        open={hasTrouble}
        pieces={state.pieces.flatMap((p) => engine.thingsOf(p).map((t) => ({ ...p, ...t })))}
        here={engine.atPress(state)?.id ?? null}
        stages={stages}
        isPreparing={isPreparing}
        shared={card.shared}
        faults={card.faults}
        labelOf={labelOf}
        onClose={() => setHasTrouble(false)}
        onChoose={(ids, outcome, cause) => {
          setHasTrouble(false);
          hands.judge(ids, outcome, cause);
        }}
      />
    </main>
  );
}

function TheStack({ stage, cloth }: { stage: CardStage; cloth: string }) {
  const { ref, width, height } = useSize();
  return (
    <div ref={ref} className="min-h-[160px] min-w-0 grow">
      {width > 0 && (
        <Stack
          layers={stage.stack}
          hot={stage.temperature_c != null}
          cloth={cloth}
          width={width}
          height={height}
          large
        />
      )}
    </div>
  );
}

type NotesProps = { awake: string; isAlone: boolean; waiting: number; problem: string; change: string };

function Notes({ awake, isAlone, waiting, problem, change }: NotesProps) {
  const notes = [
    problem,
    change,
    isAlone || waiting > 1
      ? waiting
        ? say("The server cannot be reached: go on, everything is kept in this browser ({waiting} to send).", {
            waiting,
          })
        : say("The server cannot be reached: go on, everything is kept in this browser.")
      : "",
    awake === "refused"
      ? say("This browser cannot keep the screen awake: touch it now and then. The clock goes on even if it sleeps.")
      : "",
  ].filter(Boolean);
  return notes.map((note) => (
    <p key={note} role="status" className="bg-need-soft px-7 py-1 text-need">
      {note}
    </p>
  ));
}

type ChoiceProps = { children: React.ReactNode; onClick: () => void; hotkey: string; need?: boolean };

function Choice({ children, onClick, hotkey, need }: ChoiceProps) {
  return (
    <button
      type="button"
      onClick={onClick}
      className={`flex min-h-14 items-center gap-2 rounded-lg border-2 px-4 font-semibold ${need ? "border-need text-need" : "border-hair2"}`}
    >
      <span>{children}</span> <Key>{hotkey}</Key>
    </button>
  );
}

function useKeys(keys: { [key: string]: () => unknown }, isOff: boolean) {
  useEffect(() => {
    const pressed = (e: KeyboardEvent) => {
      if (isOff || e.repeat || (e.target as HTMLElement).tagName === "INPUT") return;
      keys[e.key.toLowerCase()]?.();
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  });
}

/** Where the transfer is laid: the print by its card, each part but the first by the one that is on. */
function placingOf(stage: CardStage, spot: PressCard["placings"][number] | undefined, card: PressCard): string {
  const nth = stage.nth_part ?? 0;
  if (nth > 1) return card.beside;
  if (!spot) return "";
  return `${nth ? say("The whole print: ") : ""}${spot.below}, ${spot.across}`;
}

function stageOf(next: engine.Next): CardStage | undefined {
  return "stage" in next ? next.stage : undefined;
}

/** What comes after this step, in words. */
function thenOf(next: engine.Next, stages: CardStage[], isPreparing: boolean): string {
  if (!("stage" in next)) return "";
  const after = stages[stages.indexOf(next.stage) + 1];
  return after
    ? `${after.name}: ${after.say}`
    : isPreparing
      ? say("then the next one")
      : say("The piece is through; then the next one");
}

function actionOf(next: engine.Next): string {
  switch (next.kind) {
    case "run":
      return next.leftS > 0 ? say("Running") : say("Open, go on");
    case "start":
    case "new":
      return next.stage.alone ? say("It is in") : next.stage.time_s > 0 ? say("Start") : say("Done");
    case "touch":
      return next.stage.asks ? say("Yes") : say("It is cold");
    case "dial":
      return say("It is hot");
    default:
      return say("Wait");
  }
}

/** Where hands go when nothing is left for this print: the next print of the piece, or Inspect. */
function whereNext(jobLine: JobLine, card: PressCard): { to: string; button: string; said: string } {
  const { job } = jobLine;
  if (card.part === "prepare") {
    const to = card.comes_first ? "print" : "press";
    return {
      to: `/jobs/${job.id}/${to}?print=${card.print}`,
      button: to === "print" ? say("Go to Print") : say("Go to Press"),
      said: "",
    };
  }
  const open = (print: string) =>
    job.ledger.books.transfers.some((t) => t.print === print && t.in_hand > 0 && t.slots.some((s) => s.to_press > 0));
  const next = job.passes.find((p) => p.print !== card.print && open(p.print));
  if (next)
    return {
      to: `/jobs/${job.id}/press-mode?print=${next.print}`,
      button: say("Go to {name}", { name: next.name.toLowerCase() }),
      said: `${next.turn} ${next.shield}`.trim(),
    };
  return { to: `/jobs/${job.id}/inspect`, button: say("Go to Inspect"), said: "" };
}
