import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useOutbox } from "../api/outbox";
import { drawingOf, type Stage } from "../api/types";
import { useSize } from "../bench/Bench";
import { Stack } from "../bench/Stack";
import { type JobLine, useJobLine } from "../line/useJobLine";
import { useUnits } from "../settings/settings";
import { Key } from "../ui/parts";
import { clock, ended, fresh, keepSession, readSession, type Session, secondsLeft } from "./session";
import { Trouble } from "./Trouble";
import { useWakeLock } from "./useWakeLock";

const HOLD_MS = 1_000;
const TAKE_BACK_MS = 10_000;

export default function PressMode() {
  const { id = "" } = useParams();
  const { line, error } = useJobLine(id);
  useEffect(() => {
    const before = document.documentElement.dataset.theme;
    document.documentElement.dataset.theme = "dark";
    document.title = "Press · Offsetter";
    return () => {
      if (before) document.documentElement.dataset.theme = before;
    };
  }, []);
  if (error) return <p className="p-8 text-2xl">{error.message}</p>;
  if (!line) return <p className="p-8 text-2xl">Opening the press…</p>;
  const station = line.line.stations.find((s) => s.station === "press");
  const stages = station ? drawingOf(station, "stages")?.stages : null;
  if (!stages?.length) return <p className="p-8 text-2xl">{station?.verdict}</p>;
  return <AtThePress jobLine={line} stages={stages} />;
}

function AtThePress({ jobLine, stages }: { jobLine: JobLine; stages: Stage[] }) {
  const navigate = useNavigate();
  const units = useUnits();
  const outbox = useOutbox();
  const { job } = jobLine;
  const sizes = Object.entries(job.ledger.to_press).filter(([, n]) => n > 0);
  const [session, setSession] = useState<Session>(() => readSession(job.id) ?? fresh(sizes[0]?.[0] ?? ""));
  const [now, setNow] = useState(Date.now());
  const [asksEarly, setAsksEarly] = useState(false);
  const [hasTrouble, setHasTrouble] = useState(false);
  const awake = useWakeLock();
  const { ref, width, height } = useSize();

  const keep = useCallback(
    (next: Session) => {
      keepSession(job.id, next);
      setSession(next);
    },
    [job.id],
  );
  useEffect(() => {
    const tick = setInterval(() => setNow(Date.now()), 100);
    return () => clearInterval(tick);
  }, []);

  const stage = stages[Math.min(session.stage, stages.length - 1)] as Stage;
  const isRunning = session.startedAt !== null;
  const left = secondsLeft(session, stage, now);
  const isOver = isRunning && left <= 0;
  const inHand = job.ledger.in_hand;
  const pressed = Object.values(job.ledger.ledger.pressed).reduce((a, b) => a + b, 0);
  const ordered = Object.values(job.ledger.ledger.ordered).reduce((a, b) => a + b, 0);
  const isFinished = !isRunning && session.stage === 0 && (sizes.length === 0 || inHand < 1);
  const canTakeBack =
    session.last !== null && now - session.last.at < TAKE_BACK_MS && !isRunning && session.stage === 0;

  const goOn = useCallback(
    (isEarly: boolean) => {
      const at = Date.now();
      let next = session;
      const here = stages[session.stage] as Stage;
      if (session.startedAt === null && here.time_s > 0) {
        keep({ ...session, startedAt: at });
        return;
      }
      next = ended(session, here, at, isEarly);
      if (next.stage < stages.length) {
        keep(next);
        return;
      }
      // The piece is through all stages: recorded from what really ran.
      const run = [...job.runs].reverse().find((r) => r.printed > 0);
      if (!run) return;
      const act = outbox.act(job.id, { kind: "pressed", run: run.id, size: session.size, stages: next.ran });
      const rest = sizes.map(([s, n]) => [s, s === session.size ? n - 1 : n] as const).filter(([, n]) => n > 0);
      const size = rest.find(([s]) => s === session.size)?.[0] ?? rest[0]?.[0] ?? session.size;
      keep({ ...fresh(size), pieces: session.pieces + 1, last: { act, size: session.size, at } });
    },
    [session, stages, keep, job, outbox, sizes],
  );

  /** Judged at the moment of the touch, not at the last tick. */
  const canGoOn = () => session.startedAt === null || secondsLeft(session, stage, Date.now()) <= 0;

  const takeBack = useCallback(() => {
    if (!session.last) return;
    outbox.act(job.id, { kind: "voided", voids: session.last.act, reason: "taken back at the press" });
    keep({ ...fresh(session.last.size), pieces: session.pieces - 1 });
  }, [session, outbox, job.id, keep]);

  const hold = useHold(() => !canGoOn() && setAsksEarly(true));
  useSpace({
    onPress: () => {
      if (isFinished || asksEarly || hasTrouble) return;
      if (canGoOn()) goOn(false);
    },
    onHold: () => !canGoOn() && setAsksEarly(true),
  });
  useEffect(() => {
    const pressedKey = (e: KeyboardEvent) => {
      if (hasTrouble || (e.target as HTMLElement).tagName === "INPUT") return;
      const key = e.key.toLowerCase();
      if (asksEarly) {
        if (key === "y") {
          setAsksEarly(false);
          goOn(true);
        }
        if (key === "n" || key === "escape") setAsksEarly(false);
        return;
      }
      if (key === "f") setHasTrouble(true);
      if (key === "z" && canTakeBack) takeBack();
      if (key === "escape" && !isRunning) navigate(`/jobs/${job.id}/press`);
    };
    window.addEventListener("keydown", pressedKey);
    return () => window.removeEventListener("keydown", pressedKey);
  }, [asksEarly, hasTrouble, canTakeBack, takeBack, goOn, navigate, job.id, isRunning]);

  const nextStage = stages[session.stage + 1];
  const order = jobLine.line.decisions.order;
  const orderStation = jobLine.line.stations[0];
  const cloth = (orderStation ? drawingOf(orderStation, "order")?.garment.colour : undefined) ?? "#333333";
  return (
    <main className="flex h-full flex-col bg-ground text-ink" data-press-mode>
      <header className="flex items-center justify-between gap-6 border-b border-hair px-7 py-3 text-xl">
        <p>
          <span className="font-bold">{order.title}</span>
          <span className="text-soft">
            {" "}
            · piece {Math.min(ordered, pressed + 1)} of {ordered}, size{" "}
          </span>
          <span className="text-2xl font-bold">{session.size}</span>
        </p>
        <p>
          {jobLine.line.way && <span className="text-soft">Press set to </span>}
          <span className="num font-bold text-heat">
            {stage.temperature_c ? units.bothHeats(stage.temperature_c) : "not used now"}
          </span>
        </p>
      </header>
      {awake === "refused" && (
        <p className="bg-need-soft px-7 py-1 text-need">
          This browser cannot keep the screen awake here: touch it now and then. The clock goes on even if it sleeps.
        </p>
      )}
      {isFinished ? (
        <Finished job={job} inHand={inHand} toPress={sizes} onLeave={() => navigate(`/jobs/${job.id}/inspect`)} />
      ) : (
        <div className="grid min-h-0 grow grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)] max-[900px]:grid-cols-1">
          <section aria-label="Stack" className="flex min-h-0 flex-col px-7 pt-4">
            <h2 className="text-xl text-soft">
              {session.stage + 1} {stage.name}: top first, hatched face carries the print
            </h2>
            <div ref={ref} className="min-h-[200px] grow">
              {width > 0 && (
                <Stack
                  layers={stage.stack}
                  hot={Boolean(stage.temperature_c)}
                  cloth={cloth}
                  width={width}
                  height={height}
                  large
                />
              )}
            </div>
          </section>
          <section
            aria-label="Clock"
            className="flex min-h-0 flex-col justify-center gap-4 border-l border-hair bg-panel px-8"
          >
            <h1 className="text-[58px] leading-[1.02] font-extrabold" data-say>
              {isRunning ? (isOver ? stage.then : stage.alone ? stage.say : "Shut. Wait.") : stage.say}
            </h1>
            {stage.time_s > 0 && (
              <>
                <p
                  className={`num text-[150px] leading-none font-bold ${isOver ? "text-heat" : ""}`}
                  role="timer"
                  aria-live="off"
                  data-clock
                >
                  {isOver ? `+${clock(-left)}` : clock(left)}
                </p>
                <div className="h-4 rounded-full bg-hair" aria-hidden="true">
                  <div
                    className="h-full rounded-full bg-heat"
                    style={{ width: `${isRunning ? Math.min(100, (1 - left / stage.time_s) * 100) : 0}%` }}
                  />
                </div>
              </>
            )}
            <p className="text-2xl text-soft">
              {isOver
                ? `It ran ${Math.round(-left)} s over ${stage.time_s} s.`
                : stage.time_s > 0
                  ? `of ${stage.time_s} s${stage.pressure && stage.pressure !== "none" ? `, pressure ${stage.pressure}` : ""}`
                  : stage.then}
            </p>
            {isRunning && !isOver && (
              <p className="text-[34px] leading-tight font-bold text-heat">Then: {stage.then}</p>
            )}
            {stage.caution && !isRunning && (
              <p className="border-l-8 border-need pl-4 text-xl text-need">{stage.caution}</p>
            )}
          </section>
        </div>
      )}
      <footer className="flex items-center gap-5 border-t border-hair px-7 py-4 text-xl">
        {!isFinished && (
          <button
            type="button"
            onClick={() => canGoOn() && goOn(false)}
            aria-disabled={isRunning && !isOver}
            {...hold}
            className="flex min-h-16 min-w-72 items-center justify-center gap-3 rounded-xl bg-act px-7 text-2xl font-bold text-on-act touch-none select-none aria-disabled:bg-hair aria-disabled:text-ink"
          >
            {isRunning && !isOver ? "Running" : actionOf(stage, isOver)} <Key>Space</Key>
          </button>
        )}
        {asksEarly ? (
          <p role="alert" className="flex items-center gap-3 font-bold text-need">
            {stage.alone ? "Cold already?" : "Ended early?"}
            <button
              type="button"
              className="rounded-lg border-2 border-need px-4 py-2"
              onClick={() => {
                setAsksEarly(false);
                goOn(true);
              }}
            >
              Yes <Key>Y</Key>
            </button>
            <button
              type="button"
              className="rounded-lg border-2 border-hair2 px-4 py-2 text-ink"
              onClick={() => setAsksEarly(false)}
            >
              No <Key>N</Key>
            </button>
          </p>
        ) : (
          <p className="text-soft">
            {isRunning && !isOver
              ? "Hold Space, or this button, for a second if it ended early."
              : nextStage
                ? `Next: ${nextStage.name.toLowerCase()}, ${nextStage.say}`
                : "Next: the next piece"}
          </p>
        )}
        <div className="ml-auto flex items-center gap-3">
          {canTakeBack && session.last && (
            <button
              type="button"
              onClick={takeBack}
              className="rounded-lg border-2 border-hair2 px-4 py-3 font-semibold"
            >
              Take back piece {session.last.size} ({Math.ceil((TAKE_BACK_MS - (now - session.last.at)) / 1000)}){" "}
              <Key>Z</Key>
            </button>
          )}
          <button
            type="button"
            onClick={() => setHasTrouble(true)}
            className="rounded-lg border-2 border-hair2 px-4 py-3 font-semibold"
          >
            Something went wrong <Key>F</Key>
          </button>
          {!isRunning && (
            <button
              type="button"
              onClick={() => navigate(`/jobs/${job.id}/press`)}
              className="rounded-lg border-2 border-hair2 px-4 py-3 font-semibold"
            >
              Leave <Key>Esc</Key>
            </button>
          )}
        </div>
      </footer>
      <Trouble
        open={hasTrouble}
        stage={stage}
        size={session.size}
        onClose={() => setHasTrouble(false)}
        onSpoiled={(cause, isPiece) => {
          const run = [...job.runs].reverse().find((r) => r.printed > 0);
          // Blank and transfer are both used up once they are pressed together.
          if (isPiece && run)
            outbox.act(job.id, { kind: "pressed", run: run.id, size: session.size, stages: session.ran });
          outbox.act(job.id, {
            kind: "spoiled",
            what: isPiece ? "piece" : "transfer",
            size: isPiece ? session.size : null,
            count: 1,
            stage: stage.id,
            cause,
          });
          keep({ ...fresh(session.size), pieces: session.pieces });
          setHasTrouble(false);
        }}
      />
      {outbox.waiting > 0 && <p className="sr-only">{outbox.waiting} acts wait to be recorded</p>}
    </main>
  );
}

function actionOf(stage: Stage, isOver: boolean): string {
  if (isOver) return stage.alone ? "It is cold" : "Open, go on";
  if (stage.alone) return "It lies on the rack";
  return stage.time_s > 0 ? "Start" : "Done";
}

type FinishedProps = { job: JobLine["job"]; inHand: number; toPress: [string, number][]; onLeave: () => void };

function Finished({ job, inHand, toPress, onLeave }: FinishedProps) {
  const left = toPress.reduce((n, [, k]) => n + k, 0);
  return (
    <section className="grid grow place-items-center px-8 text-center">
      <div>
        <h1 className="text-6xl font-extrabold">{left ? "No transfer is in hand" : "All pieces are pressed"}</h1>
        <p className="mt-4 text-2xl text-soft">
          {left
            ? `${left} pieces are still to press, ${job.ledger.to_print} transfers to print.`
            : `${inHand} spare transfers are left. Now look at every piece.`}
        </p>
        <button
          type="button"
          onClick={onLeave}
          className="mt-8 min-h-16 rounded-xl bg-act px-8 text-2xl font-bold text-on-act"
        >
          Go to Inspect
        </button>
      </div>
    </section>
  );
}

/** The same question for a hand without keys: the button held for a second. */
function useHold(onHold: () => void) {
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const stop = () => {
    if (timer.current) clearTimeout(timer.current);
    timer.current = null;
  };
  return {
    onPointerDown: () => {
      timer.current = setTimeout(onHold, HOLD_MS);
    },
    onPointerUp: stop,
    onPointerLeave: stop,
  };
}

/** Space: a tap goes on, a second's hold asks. It never scrolls and never presses the button that has the focus. */
function useSpace({ onPress, onHold }: { onPress: () => void; onHold: () => void }) {
  const latest = useRef({ onPress, onHold });
  latest.current = { onPress, onHold };
  useEffect(() => {
    let hold: ReturnType<typeof setTimeout> | null = null;
    let wasHeld = false;
    const down = (e: KeyboardEvent) => {
      if (e.key !== " " || (e.target as HTMLElement).tagName === "INPUT" || document.querySelector('[role="dialog"]'))
        return;
      e.preventDefault();
      if (e.repeat || hold) return;
      wasHeld = false;
      hold = setTimeout(() => {
        wasHeld = true;
        latest.current.onHold();
      }, HOLD_MS);
    };
    const up = (e: KeyboardEvent) => {
      if (e.key !== " " || !hold) return;
      e.preventDefault();
      clearTimeout(hold);
      hold = null;
      if (!wasHeld) latest.current.onPress();
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
}
