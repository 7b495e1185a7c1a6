import { useUnits } from "../settings/settings";
import { capitalised, say } from "../texts/say";
import { worded } from "../texts/words";
import { type Cover, clock, type Next, type Slot } from "./engine";

type InstructionProps = {
  next: Next;
  label: string;
  slots: Slot[];
  labelOf: (slot: string) => string;
  then: string;
  placing: string;
  covers: Cover[];
  gauge: { [word: string]: string };
};

/** One instruction in the largest type, and the clock. */
export function Instruction({ next, label, slots, labelOf, then, placing, covers, gauge }: InstructionProps) {
  const units = useUnits();
  const stage = "stage" in next ? next.stage : null;
  const isRunning = next.kind === "run" && next.leftS > 0;
  const isOver = next.kind === "run" && next.leftS <= 0;
  const left = next.kind === "run" || next.kind === "wait" ? next.leftS : (stage?.time_s ?? 0);
  const hasClock = next.kind === "wait" || (next.kind !== "touch" && (stage?.time_s ?? 0) > 0);
  return (
    <section
      aria-label={say("Clock")}
      className="flex min-h-0 flex-col justify-center-safe gap-3 overflow-y-auto border-l border-hair bg-panel px-8"
    >
      {label && (
        <p className="text-3xl font-bold">
          {label}
          {next.kind === "new" && <span className="ml-3 text-xl font-normal text-soft">{leftOf(slots, labelOf)}</span>}
        </p>
      )}
      {stage && !stage.alone && next.kind !== "touch" && stage.temperature_c != null && (
        <Platens isHovering={Boolean(stage.hover)} isRunning={isRunning} />
      )}
      <h1 className="text-[54px] leading-[1.04] font-extrabold" data-say>
        {sayOf(next, units.bothHeats)}
      </h1>
      {next.kind === "touch" && (
        <p className="num text-[136px] leading-none font-bold text-act">
          {next.piece.place}
          <span className="ml-4 font-sans text-2xl font-normal tracking-normal text-soft">
            {say("its place on the rack")}
          </span>
        </p>
      )}
      {hasClock && (
        <>
          <p
            className={`num text-[136px] leading-none font-bold ${isOver ? "text-heat" : ""} ${isRunning ? "" : SHORT}`}
            role="timer"
            aria-live="off"
            data-clock
          >
            {isOver ? `+${clock(-left)}` : clock(left)}
          </p>
          {stage && (
            <div className="h-4 shrink-0 rounded-full bg-hair" aria-hidden="true">
              <div
                className="h-full rounded-full bg-heat"
                style={{ width: `${next.kind === "run" ? Math.min(100, (1 - left / stage.time_s) * 100) : 0}%` }}
              />
            </div>
          )}
        </>
      )}
      {stage && hasClock && next.kind !== "wait" && (
        <p className="text-2xl text-soft">
          {isOver
            ? say("It ran {over_s} s over {time_s} s.", { over_s: Math.round(-left), time_s: stage.time_s })
            : say("of {time_s} s{pressure}", {
                time_s: stage.time_s,
                pressure:
                  stage.pressure && stage.pressure !== "none"
                    ? gauge[stage.pressure]
                      ? say(", pressure {pressure} ({gauge} on the gauge)", {
                          pressure: worded(stage.pressure),
                          gauge: gauge[stage.pressure],
                        })
                      : say(", pressure {pressure}", { pressure: worded(stage.pressure) })
                    : "",
              })}
        </p>
      )}
      {isRunning && stage && (
        <p className="text-[32px] leading-tight font-bold text-heat">{say("Then: {next}", { next: stage.then })}</p>
      )}
      {!isRunning && placing && <p className="border-l-8 border-act pl-4 text-2xl font-semibold">{placing}</p>}
      {next.kind !== "touch" &&
        covers.map((c) => (
          <p
            key={c.cover}
            className={`text-2xl ${c.left <= 0 ? "border-l-8 border-need pl-4 font-bold text-need" : "text-soft"}`}
          >
            {c.left <= 0
              ? say("Take a NEW {cover}: this one has had its {uses} presses.", {
                  cover: worded(c.cover),
                  uses: c.uses,
                })
              : say("{cover}: {left} of {uses} presses left.", {
                  cover: capitalised(worded(c.cover)),
                  left: c.left,
                  uses: c.uses,
                })}
          </p>
        ))}
      {!isRunning && stage?.caution && next.kind !== "touch" && (
        <p className="border-l-8 border-need pl-4 text-xl text-need">{stage.caution}</p>
      )}
      {!isRunning && then && <p className="text-xl text-soft">{say("Next: {next}", { next: then })}</p>}
    </section>
  );
}

/** Before it runs much else is to be read: on a low screen the clock makes room for it. */
const SHORT = "[@media(max-height:860px)]:text-[100px]";
const MOST_NAMED = 4;

/** What is still to press: by size while that can be read at a glance. */
function leftOf(slots: Slot[], labelOf: (slot: string) => string): string {
  const open = slots.filter((s) => s.left > 0);
  if (open.length < 2) return "";
  if (open.length > MOST_NAMED) return say("{count} to press", { count: open.reduce((n, s) => n + s.left, 0) });
  return open.map((s) => `${s.left} x ${labelOf(s.slot)}`).join(" · ");
}

function sayOf(next: Next, heat: (c: number) => string): string {
  switch (next.kind) {
    case "run":
      if (next.leftS <= 0) return next.stage.then;
      return next.stage.temperature_c == null
        ? next.stage.say
        : next.stage.hover
          ? say("Open. Nothing touches.")
          : say("Shut. Wait.");
    case "touch":
      return next.stage.asks || say("Touch it: is it COLD?");
    case "wait":
      return next.stage.asks ? next.stage.say : say("Wait: place {place} cools", { place: next.piece.place });
    case "dial":
      return say("Set the press to {heat}, wait until it shows it", { heat: heat(next.toC) });
    case "over":
      return say("Nothing is left to press");
    default:
      return next.stage.say;
  }
}

/** Hovering and shut look different at two metres: a gap drawn open, or two bars that meet. */
function Platens({ isHovering, isRunning }: { isHovering: boolean; isRunning: boolean }) {
  const word = isHovering ? say("HOVER: open, nothing touches") : isRunning ? say("SHUT") : say("will be SHUT");
  return (
    <div className="flex items-center gap-4">
      <svg width={132} height={52} viewBox="0 0 132 52" aria-hidden="true">
        <rect x={2} y={isHovering ? 2 : 14} width={128} height={12} rx={3} fill="var(--heat)" />
        <rect x={2} y={isHovering ? 38 : 26} width={128} height={12} rx={3} fill="var(--soft)" />
        {isHovering && (
          <path d="M66 18V34M60 23l6-6 6 6M60 29l6 6 6-6" stroke="var(--ink)" strokeWidth={3} fill="none" />
        )}
      </svg>
      <span
        className={`rounded-lg px-3 py-0.5 text-2xl font-bold ${isHovering ? "border-4 border-dashed border-heat text-heat" : isRunning ? "bg-heat text-ground" : "border-4 border-heat text-heat"}`}
      >
        {word}
      </span>
    </div>
  );
}
