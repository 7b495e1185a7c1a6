import { type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import type { PinTried, Today, TodayBlock, TodayMachine } from "../../api/types";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { clock, type Doing, doingOf, isIn, type Scale, said, tagsOf } from "./day";

const HEAD = "w-32 shrink-0 pr-3";
const COLD_C = 20;
const HOT_C = 215;
const TRACE = 104;
/** Narrower than this it is no target for a finger; narrower still, no letter goes in. */
const FINGER_PX = 24;
const LETTER_PX = 13;
const STEP_MIN = 5;
/** Share of the width that a temperature wants. */
const LABEL = 0.1;
const LABEL_PX = 20;

type LanesProps = Given & {
  /** Of one minute, in px; 0 until the drawing was measured. */
  perMin: number;
};

type Given = {
  today: Today;
  scale: Scale;
  chosen: TodayBlock | null;
  canAct: boolean;
  onChoose: (block: TodayBlock) => void;
  onMove: (block: TodayBlock, minute: number) => void;
  onAway: (what: "machine" | "person", id: string, back: boolean) => void;
  /** While a stage is moved: what it would do there; null: it was let go. */
  onTry: (block: TodayBlock | null, minute: number) => void;
  tried: PinTried | null;
};

/** The day from above: each press as its platen's heat with the work under it, then the other machines, then hands. */
export function Lanes(given: Given) {
  const { today, scale } = given;
  const track = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const at = track.current;
    if (!at) return;
    const seen = new ResizeObserver(() => setWidth(at.clientWidth));
    seen.observe(at);
    return () => seen.disconnect();
  }, []);
  const props = { ...given, perMin: width / (scale.to - scale.from) };
  const presses = today.machines.filter((m) => m.kind === "press");
  const others = today.machines.filter((m) => m.kind !== "press");
  const hours = [];
  for (let at = Math.ceil(scale.from / 60) * 60; at <= scale.to; at += 60) hours.push(at);
  const tags = tagsOf(today);
  const due = today.jobs.filter((j) => j.due_min > scale.from && j.due_min < scale.to);
  const left = (minute: number) => `${((minute - scale.from) / (scale.to - scale.from)) * 100}%`;
  const isNow = today.now_min >= scale.from && today.now_min <= scale.to;
  return (
    <div className="relative">
      <div className="flex h-6">
        <div className={HEAD} />
        <div ref={track} className="relative grow">
          {hours.map((h) => (
            <span key={h} className="num absolute -translate-x-1/2 text-sm text-soft" style={{ left: left(h) }}>
              {clock(h)}
            </span>
          ))}
          {due.map((j) => (
            <span
              key={j.id}
              className="absolute top-5 z-10 -translate-x-1/2 rounded-sm bg-ink px-1 text-sm font-bold text-ground"
              style={{ left: left(j.due_min) }}
            >
              {say("{job} due", { job: tags.get(j.id) })}
            </span>
          ))}
        </div>
      </div>
      <div className="relative">
        <div aria-hidden className="pointer-events-none absolute inset-y-0 right-0 left-32">
          {hours.map((h) => (
            <div key={h} className="absolute inset-y-0 border-l border-hair" style={{ left: left(h) }} />
          ))}
          {isNow && (
            <div className="absolute inset-y-0 z-10 border-l-2 border-act" style={{ left: left(today.now_min) }} />
          )}
        </div>
        {presses.map((m) => (
          <PressLane key={m.id} machine={m} {...props} />
        ))}
        {others.map((m) => (
          <Lane
            key={m.id}
            name={m.name}
            about={worded(m.kind)}
            away={m.away_since != null}
            {...props}
            what={"machine"}
            id={m.id}
          >
            <Blocks blocks={today.blocks.filter((b) => b.machine === m.id)} {...props} />
          </Lane>
        ))}
        {today.people
          .filter((p) => p.here.length > 0 || p.is_away)
          .map((p) => (
            <Lane key={p.id} name={p.name} about={say("hands")} away={p.is_away} {...props} what={"person"} id={p.id}>
              {p.here.map(([a, b]) =>
                isIn(scale, a, b) ? (
                  <div
                    key={a}
                    aria-hidden
                    className="absolute inset-y-1 rounded bg-raise/60"
                    style={place(scale, a, b)}
                  />
                ) : null,
              )}
              <HandBlocks doing={doingOf(today, p)} {...props} />
            </Lane>
          ))}
      </div>
    </div>
  );
}

const place = (scale: Scale, start: number, end: number) => {
  const whole = scale.to - scale.from;
  const [a, b] = [Math.max(start, scale.from), Math.min(end, scale.to)];
  return { left: `${((a - scale.from) / whole) * 100}%`, width: `max(3px, ${((b - a) / whole) * 100}%)` };
};

type LaneProps = LanesProps & {
  name: string;
  about: string;
  away: boolean;
  what: "machine" | "person";
  id: string;
  children: ReactNode;
  tall?: boolean;
};

function Lane({ name, about, away, what, id, children, tall, canAct, onAway }: LaneProps) {
  const gone = what === "machine" ? "failed" : "left";
  return (
    <section aria-label={`${name}, ${about}`} className="flex border-t border-hair">
      <div className={`${HEAD} py-1 leading-tight`}>
        <p className="font-semibold">{name}</p>
        <p className={`text-sm ${away ? "font-semibold text-stop" : "text-soft"}`}>{away ? gone : about}</p>
        {canAct && (
          <button
            type="button"
            className="min-h-6 text-sm text-act underline underline-offset-2"
            aria-label={`${away ? say("Back") : what === "machine" ? say("It fails") : say("Leaves")}: ${name}`}
            onClick={() => onAway(what, id, away)}
          >
            {away ? say("Back") : what === "machine" ? say("It fails") : say("Leaves")}
          </button>
        )}
      </div>
      <div className={`relative grow ${tall ? "h-40" : "min-h-15"}`}>{children}</div>
    </section>
  );
}

function PressLane({ machine, ...props }: LanesProps & { machine: TodayMachine }) {
  const { today, scale } = props;
  const units = useUnits();
  const whole = scale.to - scale.from;
  const x = (minute: number) => ((Math.min(Math.max(minute, scale.from), scale.to) - scale.from) / whole) * 1000;
  const y = (celsius: number) => TRACE - 6 - ((celsius - COLD_C) / (HOT_C - COLD_C)) * (TRACE - 26);
  const seen = machine.heats.filter((h) => isIn(scale, h.start_min, h.end_min));
  const at = (h: (typeof seen)[number], minute: number) =>
    h.from_c +
    ((h.to_c - h.from_c) * (Math.min(Math.max(minute, h.start_min), h.end_min) - h.start_min)) /
      (h.end_min - h.start_min);
  const points = seen.flatMap((h) => [
    `${x(h.start_min)},${y(at(h, Math.max(h.start_min, scale.from)))}`,
    `${x(h.end_min)},${y(at(h, Math.min(h.end_min, scale.to)))}`,
  ]);
  // A label where a heat is held, once for as long as it stays.
  const held = seen
    .filter((h) => h.from_c === h.to_c && h.to_c > COLD_C + 15)
    .reduce<{ from: number; to: number; celsius: number }[]>((found, h) => {
      const last = found.at(-1);
      if (last && last.celsius === h.to_c && last.to === h.start_min) last.to = h.end_min;
      else found.push({ from: h.start_min, to: h.end_min, celsius: h.to_c });
      return found;
    }, []);
  /** How high and how low the line runs where a label would stand. */
  const runs = (left: number): [number, number] => {
    const [from, to] = [scale.from + left * whole, scale.from + (left + LABEL) * whole];
    const ys = seen
      .filter((h) => h.start_min < to && h.end_min > from)
      .flatMap((h) => [y(at(h, Math.max(h.start_min, from))), y(at(h, Math.min(h.end_min, to)))]);
    return [Math.min(...ys), Math.max(...ys)];
  };
  const labels = labelled(
    held.map((h) => Math.min(x(h.from) / 1000, 1 - LABEL)),
    runs,
  );
  return (
    <Lane
      name={machine.name}
      about={say("press")}
      away={machine.away_since != null}
      {...props}
      what={"machine"}
      id={machine.id}
      tall
    >
      <svg
        role="img"
        aria-label={
          held.length
            ? say("The platen of {name}: {heats}", {
                name: machine.name,
                heats: held
                  .map((h) =>
                    say("{heat} from {begin} to {end}", {
                      heat: units.heat(h.celsius),
                      begin: said(today, h.from),
                      end: said(today, h.to),
                    }),
                  )
                  .join(", "),
              })
            : say("The platen of {name}: cold", { name: machine.name })
        }
        viewBox={`0 0 1000 ${TRACE}`}
        preserveAspectRatio="none"
        className="absolute inset-x-0 top-0 w-full"
        style={{ height: TRACE }}
      >
        <polyline
          points={points.join(" ")}
          fill="none"
          stroke="var(--heat)"
          strokeWidth={3}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      {held.map((h, at) => {
        const label = labels[at];
        return (
          label && (
            <span
              key={h.from}
              className="num absolute whitespace-nowrap text-sm font-semibold text-heat"
              style={{ left: `${label.left * 100}%`, top: label.top }}
            >
              {units.heat(h.celsius)}
            </span>
          )
        );
      })}
      <div className="absolute inset-x-0 bottom-1 h-11">
        <Blocks blocks={today.blocks.filter((b) => b.machine === machine.id)} {...props} />
      </div>
    </Lane>
  );
}

type Spot = { left: number; top: number };

/** Where each heat is written: over the line or under it, wherever no other stands; nowhere, where it would lie over one. */
function labelled(lefts: number[], runs: (left: number) => [number, number]): (Spot | null)[] {
  const taken: Spot[] = [];
  return lefts.map((left) => {
    const [high, low] = runs(left);
    const spot = [high - 21, low + 3]
      .map((top) => ({ left, top }))
      .find((s) => taken.every((t) => Math.abs(t.left - s.left) >= LABEL || Math.abs(t.top - s.top) >= LABEL_PX));
    if (spot) taken.push(spot);
    return spot ?? null;
  });
}

function Blocks({ blocks, ...props }: LanesProps & { blocks: TodayBlock[] }) {
  return (
    <>
      {blocks
        .filter((b) => isIn(props.scale, b.start_min, b.end_min))
        .map((b) => (
          <OneBlock key={`${b.job} ${b.step}`} block={b} from={b.start_min} to={b.end_min} {...props} isMovable />
        ))}
    </>
  );
}

function HandBlocks({ doing, ...props }: LanesProps & { doing: Doing[] }) {
  return (
    <>
      {doing
        .filter((d) => isIn(props.scale, d.from, d.to))
        .map((d) => (
          <OneBlock key={`${d.block.job} ${d.block.step} ${d.from}`} {...props} {...d} />
        ))}
    </>
  );
}

type OneProps = LanesProps & { block: TodayBlock; from: number; to: number; isMovable?: boolean };

/** One stage: dragged to another time where it lies on a machine. Late work, what is pinned and what runs alone differ in shape. */
function OneBlock({
  block,
  from,
  to,
  today,
  scale,
  perMin,
  chosen,
  canAct,
  onChoose,
  onMove,
  onTry,
  tried,
  isMovable,
}: OneProps) {
  const [shift, setShift] = useState<number | null>(null);
  const start = useRef<{ x: number; perMin: number; moved: boolean } | null>(null);
  const late = today.jobs.find((j) => j.id === block.job)?.late_min ?? 0;
  const isChosen = chosen?.job === block.job;
  const isThis = isChosen && chosen?.step === block.step;
  const wide = ((to - from) / (scale.to - scale.from)) * 100;
  const tag = tagsOf(today).get(block.job) ?? "";
  const told = (begin: number) =>
    [
      say("{tag} {title}: {step}, {begin} to {end}", {
        tag,
        title: block.title,
        step: block.name,
        begin: said(today, begin),
        end: clock(to),
      }),
      ...(late ? [say("late")] : []),
      ...(block.is_pinned ? [say("pinned")] : []),
    ].join(", ");
  const down = (e: PointerEvent<HTMLButtonElement>) => {
    if (!isMovable || !canAct || !perMin) return;
    start.current = { x: e.clientX, perMin, moved: false };
    e.currentTarget.setPointerCapture(e.pointerId);
  };
  const move = (e: PointerEvent) => {
    if (!start.current) return;
    const minutes = Math.round((e.clientX - start.current.x) / start.current.perMin / STEP_MIN) * STEP_MIN;
    if (minutes !== 0 || start.current.moved) {
      start.current.moved = true;
      if (minutes !== shift) onTry(block, Math.round((block.start_min + minutes) / STEP_MIN) * STEP_MIN);
      setShift(minutes);
    }
  };
  const up = () => {
    const moved = start.current?.moved && shift ? shift : 0;
    start.current = null;
    setShift(null);
    onTry(null, 0);
    if (moved) onMove(block, Math.round((block.start_min + moved) / STEP_MIN) * STEP_MIN);
  };
  const isRefused = shift != null && !!tried?.refused;
  const look = `absolute inset-y-1 overflow-hidden rounded border text-left text-sm leading-tight ${
    isRefused
      ? "z-10 border-stop bg-stop-soft"
      : isChosen
        ? "z-10 border-act bg-act-soft"
        : late
          ? "border-stop bg-raise"
          : "border-hair2 bg-raise"
  } ${block.hands_all ? "border-l-[3px]" : "border-dashed"}`;
  // Too narrow for a finger, or the rest of it is out of sight: chosen by the arrow keys, or in the list below.
  const seenPx = (Math.min(to, scale.to) - Math.max(from, scale.from)) * perMin;
  if (seenPx < FINGER_PX && shift == null)
    return (
      <div aria-hidden title={told(from)} className={look} style={place(scale, from, to)}>
        {seenPx > LETTER_PX && <span className="px-px font-semibold">{tag}</span>}
      </div>
    );
  const at = shift ? from + shift : from;
  return (
    <button
      type="button"
      title={told(from)}
      aria-pressed={isThis}
      onClick={() => onChoose(block)}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      style={place(scale, at, at + to - from)}
      className={`${look} touch-none ${isThis ? "outline-2 outline-act" : ""}`}
    >
      <span className="sr-only">{told(from)}</span>
      <span aria-hidden>
        {shift != null && <span className="num block px-0.5">{clock(at)}</span>}
        {shift == null && (
          <span className="block px-px font-semibold whitespace-nowrap">
            {block.is_pinned ? "⏷" : ""}
            {tag}
            {wide > 9 && <span className="font-normal"> {block.title}</span>}
          </span>
        )}
        {shift == null && wide > 9 && <span className="block px-0.5 whitespace-nowrap text-soft">{block.name}</span>}
      </span>
    </button>
  );
}
