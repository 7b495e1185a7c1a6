import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { drawingOf, type Job, type Stage } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { PlatenPicture } from "../../bench/PlatenPicture";
import { Stack } from "../../bench/Stack";
import { StageTabs } from "../../bench/StageTabs";
import { PieceTable } from "../../line/PieceTable";
import type { StationProps } from "../../line/station";
import { usePressCard } from "../../line/usePressCard";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { useHotkeys } from "../../ui/keys";
import { Button, Choice, Key } from "../../ui/parts";
import { Findings, Waits } from "../Waits";
import { Batch } from "./Batch";

const LOOKS = [
  { id: "stage", name: say("From above") },
  { id: "below", name: say("From below") },
  { id: "batch", name: say("The batch") },
] as const;

export function PressBench({ station, jobLine, flips }: StationProps) {
  const { ref, width, height } = useSize();
  const [chosen, setChosen] = useState(1);
  const drawing = drawingOf(station, "stages");
  if (!drawing) return <Waits station={station} />;
  const look = LOOKS[flips % LOOKS.length]?.id;
  if (look === "batch") return <Batch jobLine={jobLine} />;
  const stage = drawing.stages[chosen] ?? drawing.stages[0];
  const cloth = drawingOf(jobLine.line.stations[0] ?? station, "order")?.garment.colour ?? "#444";
  if (!stage) return null;
  return (
    <div className="flex min-h-0 grow flex-col px-6 pt-3 pb-2">
      {(drawing.turn || drawing.shield) && (
        <p className="mb-2 border-l-4 border-act pl-3">
          <span className="font-semibold">{drawing.turn}</span> {drawing.shield}
        </p>
      )}
      <StageTabs stages={drawing.stages} chosen={chosen} onChoose={setChosen} />
      <p className="mt-2 text-2xl font-bold">{stage.say}</p>
      <div className="flex min-h-[220px] grow gap-4">
        <div ref={ref} className="min-w-0 grow overflow-hidden">
          {width > 0 && (
            <Stack
              layers={stage.stack}
              hot={stage.temperature_c !== null}
              cloth={cloth}
              width={width}
              height={Math.min(height, 340)}
              below={look === "below"}
            />
          )}
        </div>
        {drawing.platen && drawing.platen.spots.length > 1 && <PlatenPicture platen={drawing.platen} cloth={cloth} />}
      </div>
      <p>
        <span className="font-semibold">{say("Then:")}</span> {stage.then}{" "}
        <span className="text-soft">({worded(stage.source)})</span>
      </p>
      <HeatTrace stages={drawing.stages} chosen={chosen} />
    </div>
  );
}

/** One piece drawn as the platen's temperature over time, with its stages hanging under the line. */
function HeatTrace({ stages, chosen }: { stages: Stage[]; chosen: number }) {
  const units = useUnits();
  const { ref, width } = useSize();
  const high = 84;
  const whole = stages.reduce((sum, s) => sum + s.time_s + (s.hands_s ?? 0), 0);
  const scale = Math.max(0.1, (width - 135) / whole);
  let at = 70;
  const starts: number[] = [];
  for (const s of stages) {
    starts.push(at);
    at += ((s.hands_s ?? 0) + s.time_s) * scale;
  }
  at = 70;
  const hot = stages.map((s) => s.temperature_c).filter((t): t is number => typeof t === "number");
  const level = Math.max(...hot, 1);
  return (
    <div ref={ref} className="h-[84px] shrink-0">
      {width > 0 && (
        <svg
          width={width}
          height={high}
          role="img"
          aria-label={say("One piece: {whole} seconds at {level}", { whole, level: units.heat(level) })}
        >
          <path d={linePath(stages, scale, level)} fill="none" stroke="var(--heat)" strokeWidth={3} />
          <text x={62} y={27} textAnchor="end" fontSize={14} className="num" fill="var(--heat)">
            {units.heat(level)}
          </text>
          {stages.map((s, i) => {
            const hands = (s.hands_s ?? 0) * scale;
            const wide = s.time_s * scale;
            const x = at;
            at += hands + wide;
            return (
              <g key={s.id}>
                <rect x={x} y={34} width={Math.max(1, hands)} height={16} fill="none" stroke="var(--hair2)" />
                <rect
                  x={x + hands}
                  y={30}
                  width={Math.max(0, wide)}
                  height={20}
                  fill={s.temperature_c ? "var(--heat)" : "var(--hair2)"}
                  opacity={i === chosen ? 1 : 0.55}
                />
                {(i === chosen || (hands + wide > 70 && Math.abs(x - (starts[chosen] ?? 0)) > 90)) && (
                  <text
                    x={x + 2}
                    y={68}
                    fontSize={14}
                    fill={i === chosen ? "var(--ink)" : "var(--soft)"}
                    fontWeight={i === chosen ? 700 : 400}
                  >
                    {s.name}
                  </text>
                )}
              </g>
            );
          })}
          <text x={76 + whole * scale} y={27} fontSize={14} fill="var(--soft)" className="num">
            {whole} s
          </text>
        </svg>
      )}
    </div>
  );
}

/** The dial over one piece's time: a step where the recipe changes it. */
function linePath(stages: Stage[], scale: number, level: number): string {
  let at = 70;
  let now = stages.find((s) => s.temperature_c != null)?.temperature_c ?? level;
  const y = (c: number) => 22 - Math.max(-6, Math.min(16, (c - level) * -0.12));
  let path = `M70 ${y(now)}`;
  for (const s of stages) {
    if (s.temperature_c != null && s.temperature_c !== now) {
      now = s.temperature_c;
      path += `V${y(now)}`;
    }
    at += ((s.hands_s ?? 0) + s.time_s) * scale;
    path += `H${at}`;
  }
  return path;
}

export function PressCard({ station, jobLine, flips, onFlip }: StationProps) {
  const navigate = useNavigate();
  const units = useUnits();
  const { job } = jobLine;
  const drawing = drawingOf(station, "stages");
  const path = `/jobs/${job.id}/press-mode?print=${job.print}`;
  const open = () => navigate(path);
  const keys = useMemo(() => ({ p: () => navigate(path) }), [navigate, path]);
  useHotkeys(keys);
  if (!drawing) return <p className="text-soft">{station.sub}</p>;
  const hot = drawing.stages.filter((s) => s.temperature_c !== null);
  const canOpen = job.ledger.in_hand > 0 && job.standing === "open" && !hot.some((s) => s.missing?.length);
  const at = flips % LOOKS.length;
  const look = LOOKS[at]?.id ?? "stage";
  const show = (wanted: string) => {
    const steps = (LOOKS.findIndex((l) => l.id === wanted) - at + LOOKS.length) % LOOKS.length;
    for (let i = 0; i < steps; i++) onFlip();
  };
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      <div className="flex items-end gap-2">
        <div className="grow">
          <Choice label={say("On the bench")} value={look} options={[...LOOKS]} onChange={show} />
        </div>
        <Key>F</Key>
      </div>
      <div>
        <Button kind="go" hotkey="P" onClick={open} disabled={!canOpen}>
          {say("Open press mode")}
        </Button>
        {!canOpen && <p className="mt-1 text-sm text-soft">{say("It opens when a printed transfer is in hand.")}</p>}
      </div>
      <ChangeOver job={job} />
      <Covers job={job} />
      <PlacingCard job={job} />
      <section aria-label={say("Press card")}>
        <h3 className="font-semibold">{say("On the dial")}</h3>
        <table className="mt-1 w-full">
          <tbody>
            {hot.map((s) => (
              <tr key={s.id} className="border-b border-hair">
                <th scope="row" className="py-1 text-left font-normal">
                  {s.name}
                </th>
                <td className="num py-1 text-right">{units.bothHeats(s.temperature_c ?? 0)}</td>
                <td className="num py-1 pl-2 text-right font-semibold">{s.time_s} s</td>
                <td className="py-1 pl-2 text-right text-soft">{worded(s.pressure)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <PieceTable job={job} />
      <Findings station={station} jobLine={jobLine} />
      {hot[0]?.caution && (
        <p className="border-l-4 border-need pl-3">
          <span className="font-semibold text-need">{say("Caution:")}</span>{" "}
          {say("{caution} Local codes and the maker's safety sheet come first.", { caution: hot[0].caution })}
        </p>
      )}
    </>
  );
}

/** What differs from how the press was left; read back before piece one. */
function ChangeOver({ job }: { job: Job }) {
  const { data: card } = usePressCard(job.id, job.print);
  if (!card) return null;
  return (
    <section aria-label={say("Change over")}>
      <h3 className="font-semibold">
        {card.rows.length
          ? say("Change on {press_name}", { press_name: card.press_name })
          : say("{press_name} stands as it must", { press_name: card.press_name })}
      </h3>
      {card.rows.map((row) => (
        <p key={row.what} className="flex justify-between gap-3 border-b border-hair py-0.5">
          <span>{worded(row.what)}</span>
          <span className="num text-right">
            <span className="text-soft">{row.left} → </span>
            <span className="font-semibold">{row.wanted}</span>
          </span>
        </p>
      ))}
    </section>
  );
}

/** Sheets used up by counting: how many presses each is still good for. */
function Covers({ job }: { job: Job }) {
  const { data: card } = usePressCard(job.id, job.print);
  const counted = card?.covers.filter((c) => c.uses > 1) ?? [];
  if (!counted.length) return null;
  return (
    <section aria-label={say("Counted sheets")}>
      <h3 className="font-semibold">{say("Sheets that are counted")}</h3>
      {counted.map((c) => (
        <p key={c.cover} className="flex justify-between gap-3 border-b border-hair py-0.5">
          <span>{worded(c.cover)}</span>
          <span className={`num ${c.used >= c.uses ? "font-semibold text-need" : ""}`}>
            {c.used >= c.uses
              ? say("take a new one")
              : say("{left} of {uses} presses left", { left: c.uses - c.used, uses: c.uses })}
            {!c.is_known && <span className="text-soft"> {say("· counted from the first press here")}</span>}
          </span>
        </p>
      ))}
    </section>
  );
}

/** How every size's print is laid straight and centred. */
function PlacingCard({ job }: { job: Job }) {
  const units = useUnits();
  const { data: card } = usePressCard(job.id, job.print);
  const first = card?.placings[0];
  if (!card || !first) return null;
  return (
    <section aria-label={say("Placing")}>
      <h3 className="font-semibold">{say("Straight and centred")}</h3>
      <p>{say("{below}; {across}. The arrow points to the top.", { below: first.below, across: first.across })}</p>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-hair text-sm text-soft">
            <th className="text-left font-normal">{say("Piece")}</th>
            <th className="text-right font-normal">{say("width")}</th>
            {first.seam_mm != null && <th className="text-right font-normal">{say("to seam or edge")}</th>}
          </tr>
        </thead>
        <tbody>
          {card.placings.map((row) => (
            <tr key={row.label} className="border-b border-hair">
              <th scope="row" className="py-0.5 text-left font-normal">
                {row.label}
              </th>
              <td className="num text-right">{units.length(row.width_mm)}</td>
              {row.seam_mm != null && <td className="num text-right">{units.length(row.seam_mm)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
