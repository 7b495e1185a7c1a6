import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { useOutbox } from "../../api/outbox";
import { type DrawingOf, drawingOf, type Job, type Run, type Stage } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { Stack } from "../../bench/Stack";
import { duration, StageTabs } from "../../bench/StageTabs";
import { nextCut } from "../../line/cuts";
import type { StationProps } from "../../line/station";
import type { JobLine } from "../../line/useJobLine";
import { listed, say } from "../../texts/say";
import { useHotkeys } from "../../ui/keys";
import { Button } from "../../ui/parts";
import { Findings, Waits } from "../Waits";

export function PrepareBench({ station, jobLine }: StationProps) {
  const { ref, width, height } = useSize();
  const drawing = drawingOf(station, "stages");
  const [chosen, setChosen] = useState(0);
  if (!drawing) return <Waits station={station} />;
  if (!drawing.stages.length)
    return (
      <p className="px-6 pt-4 text-lg">
        {say("{verdict}: {sub}. Lay out what the press needs.", { verdict: station.verdict, sub: station.sub })}
      </p>
    );
  const stage = drawing.stages[chosen] ?? drawing.stages[0];
  const cloth = drawingOf(jobLine.line.stations[0] ?? station, "order")?.garment.colour ?? "#444";
  if (!stage) return null;
  return (
    <div className="flex min-h-0 grow flex-col px-6 pt-3 pb-4">
      <StageTabs stages={drawing.stages} chosen={chosen} onChoose={setChosen} />
      <p className="mt-3 text-2xl font-bold">{stage.say}</p>
      <div ref={ref} className="min-h-[200px] grow">
        {width > 0 && (
          <Stack
            layers={stage.stack}
            hot={(stage.temperature_c ?? 0) > 0}
            cloth={cloth}
            width={width}
            height={Math.min(height, 320)}
            hover={stage.hover}
          />
        )}
      </div>
      <p>
        <span className="font-semibold">{say("Then:")}</span> {stage.then}
      </p>
      {stage.window && <p className="text-need font-semibold">{stage.window}</p>}
      {stage.caution && (
        <p className="mt-1 border-l-4 border-need pl-3">
          <span className="font-semibold text-need">{say("Caution:")}</span> {stage.caution}
        </p>
      )}
    </div>
  );
}

export function PrepareCard({ station, jobLine }: StationProps) {
  const drawing = drawingOf(station, "stages");
  if (!drawing) return <p className="text-soft">{station.sub}</p>;
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      <ByTheClock drawing={drawing} jobLine={jobLine} />
      {drawing.comes_first ? (
        <GarmentTicks drawing={drawing} jobLine={jobLine} />
      ) : (
        drawing.stages.length > 0 && <CutTicks stages={drawing.stages} jobLine={jobLine} />
      )}
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}

/** Stages under heat run on the press's or oven's clock, as at Press. */
function ByTheClock({ drawing, jobLine }: { drawing: DrawingOf<"stages">; jobLine: JobLine }) {
  const navigate = useNavigate();
  const { job } = jobLine;
  const path = `/jobs/${job.id}/press-mode?print=${job.print}&part=prepare`;
  const hot = drawing.stages.find((s) => s.temperature_c !== null);
  const last = drawing.stages.at(-1)?.id ?? "";
  const waits = drawing.comes_first
    ? drawing.to_prepare > 0
    : job.runs.some((r) => r.printed > (r.prepared[last] ?? 0));
  const canOpen = waits && job.standing === "open" && !drawing.stages.some((s) => s.missing?.length);
  const keys = useMemo(() => ({ p: () => canOpen && navigate(path) }), [canOpen, navigate, path]);
  useHotkeys(keys);
  if (!hot) return null;
  return (
    <div>
      <Button kind="go" hotkey="P" onClick={() => navigate(path)} disabled={!canOpen}>
        {say("{name} by the clock", { name: hot.name })}
      </Button>
      {!canOpen && <p className="mt-1 text-sm text-soft">{say("It opens when something waits to be prepared.")}</p>}
    </div>
  );
}

/** Garments made ready before they are printed: each stage counts what the one before let through. */
function GarmentTicks({ drawing, jobLine }: { drawing: DrawingOf<"stages">; jobLine: JobLine }) {
  const outbox = useOutbox();
  const { job } = jobLine;
  const last = drawing.stages.at(-1)?.id ?? "";
  const whole = drawing.to_prepare + (drawing.prepared[last] ?? 0);
  let before = whole;
  return drawing.stages.map((stage) => {
    const done = drawing.prepared[stage.id] ?? 0;
    const waiting = Math.max(0, before - done);
    before = done;
    const record = (count: number) => outbox.act(job.id, { kind: "prepared", stage: stage.id, count }, job.print);
    return (
      <section key={stage.id} aria-label={stage.name}>
        <div className="flex items-baseline justify-between">
          <h3 className="font-semibold">{stage.name}</h3>
          <span className="num">{say("{done} of {whole}", { done, whole })}</span>
        </div>
        {waiting > 0 && (
          <div className="mt-1 flex flex-wrap gap-2">
            <Button kind="go" onClick={() => record(1)}>
              {say("{name}: one more", { name: stage.name })}
            </Button>
            {waiting > 1 && <Button onClick={() => record(waiting)}>{say("All {waiting} done", { waiting })}</Button>}
          </div>
        )}
      </section>
    );
  });
}

/** One row a stage and run: what is printed goes through in cut lengths, ticked as they are done. */
function CutTicks({ stages, jobLine }: { stages: Stage[]; jobLine: JobLine }) {
  const { job } = jobLine;
  const runs = job.runs.filter((r) => r.printed > 0);
  const last = stages.at(-1)?.id ?? "";
  const open = runs.filter((r) => (r.prepared[last] ?? 0) < r.printed);
  const shown = open.length ? open : runs.slice(-1);
  if (!shown.length)
    return (
      <p>
        {say("Ticks for")} {listed(stages.map((s) => s.name.toLowerCase()))}{" "}
        {say("appear here once something is printed. Lay things out meanwhile.")}
      </p>
    );
  const lastPrinted = job.acts.filter((a) => a.body.kind === "printed").at(-1)?.at;
  const isWet = runs.some((r) => r.printed > (r.prepared[stages[0]?.id ?? ""] ?? 0));
  return (
    <>
      {isWet && lastPrinted && stages[0]?.window_s && <WetClock since={lastPrinted} windowS={stages[0].window_s} />}
      {shown.map((run) => (
        <RunTicks key={run.id} run={run} stages={stages} job={job} isOne={shown.length === 1} />
      ))}
    </>
  );
}

function RunTicks({ run, stages, job, isOne }: { run: Run; stages: Stage[]; job: Job; isOne: boolean }) {
  const outbox = useOutbox();
  const cuts = run.copies_per_cut;
  let upstream = run.printed;
  return (
    <>
      {!isOne && <h3 className="font-bold">{say("Run R{number}", { number: run.number })}</h3>}
      {stages.map((stage) => {
        const done = run.prepared[stage.id] ?? 0;
        const waiting = upstream - done;
        upstream = done;
        const next = Math.min(waiting, nextCut(run, done));
        const record = (count: number) =>
          outbox.act(job.id, { kind: "prepared", run: run.id, stage: stage.id, count }, job.print);
        return (
          <section key={stage.id} aria-label={stage.name}>
            <div className="flex items-baseline justify-between">
              <h3 className="font-semibold">{stage.name}</h3>
              <span className="num">{say("{done} of {printed}", { done, printed: run.printed })}</span>
            </div>
            <div className="mt-1 flex flex-wrap gap-1.5" aria-hidden="true">
              {lengthsOf(cuts, run.printed).map((cut) => {
                const isDone = done >= cut.from + cut.count;
                return (
                  <span
                    key={cut.from}
                    className={`num grid h-8 min-w-10 place-items-center rounded border px-1 text-sm ${isDone ? "border-done text-done" : "border-hair2"}`}
                  >
                    {isDone ? "✓" : ""} {cut.count}
                  </span>
                );
              })}
            </div>
            {waiting > 0 && (
              <div className="mt-2 flex flex-wrap gap-2">
                <Button kind="go" onClick={() => record(next)}>
                  {stage.each === "cut"
                    ? say("{stage}: next length done ({next})", { stage: stage.name, next })
                    : say("{stage}: next ones done ({next})", { stage: stage.name, next })}
                </Button>
                {waiting > next && (
                  <Button onClick={() => record(waiting)}>{say("All {waiting} done", { waiting })}</Button>
                )}
              </div>
            )}
          </section>
        );
      })}
    </>
  );
}

/** How long the last print has lain wet: powder holds on wet ink alone. */
function WetClock({ since, windowS }: { since: string; windowS: number }) {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const tick = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(tick);
  }, []);
  const seconds = Math.max(0, Math.round((now - new Date(since).getTime()) / 1000));
  const isLate = seconds > windowS;
  return (
    <div role="timer" className={`border-l-4 pl-3 ${isLate ? "border-stop" : "border-need"}`}>
      <p className="num text-2xl font-bold">{duration(seconds)}</p>
      <p className="text-sm">
        {isLate
          ? say("since the last print: over the {duration} that powder holds. Try a corner before you cure.", {
              duration: duration(windowS),
            })
          : say("since the last print: powder within {duration}.", { duration: duration(windowS) })}
      </p>
    </div>
  );
}

function lengthsOf(cuts: number[], printed: number): { from: number; count: number }[] {
  const lengths: { from: number; count: number }[] = [];
  let from = 0;
  for (const cut of cuts) {
    const count = Math.min(cut, printed - from);
    if (count <= 0) break;
    lengths.push({ from, count });
    from += count;
  }
  if (from < printed) lengths.push({ from, count: printed - from });
  return lengths;
}
