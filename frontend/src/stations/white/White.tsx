import { drawingOf, type Pictures } from "../../api/types";
import { Bench, Hatches, PrintDimensions, useView } from "../../bench/Bench";
import { GarmentPicture, PrintPicture } from "../../bench/GarmentPicture";
import { useSteady } from "../../bench/steady";
import type { StationProps } from "../../line/station";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Choice, Slider, Switch } from "../../ui/parts";
import { Findings, Waits } from "../Waits";
import { LevelCost } from "./LevelCost";
import { LIGHTS_FROM, Where } from "./Where";

export function WhiteBench({ station, jobLine, flips }: StationProps) {
  const drawing = drawingOf(station, "white");
  const pictures = jobLine.line.pictures;
  const box = drawing?.garment.box;
  if (drawing?.why && pictures && box)
    return (
      <Bench
        label={say("The print on its ground, no white under it")}
        bounds={drawing.garment.bounds_mm}
        pad={[20, 60, 40, 60]}
      >
        <GarmentPicture garment={drawing.garment} centre={false}>
          <PrintPicture garment={drawing.garment} href={pictures.cloth} />
        </GarmentPicture>
        <PrintDimensions garment={drawing.garment} />
      </Bench>
    );
  if (!drawing || !pictures || !box) return <Waits station={station} />;
  const isColour = flips % 2 === 1;
  const [left, , right] = drawing.garment.bounds_mm;
  const top = Math.min(-60, box.y_mm - 30);
  const bottom = box.y_mm + box.height_mm + 45;
  return (
    <Bench
      label={say("The white plate over the cloth, and its edge under the magnifier")}
      bounds={[left * 0.62, top, right * 0.62, bottom]}
      pad={[10, 330, 40, 20]}
    >
      <Hatches />
      <GarmentPicture garment={drawing.garment} centre={false}>
        {isColour ? (
          <PrintPicture garment={drawing.garment} href={pictures.cloth} />
        ) : (
          <Plate href={pictures.white} box={box} />
        )}
      </GarmentPicture>
      <PrintDimensions garment={drawing.garment} high={false} />
      <Magnifier
        pictures={pictures}
        box={box}
        cloth={drawing.garment.colour}
        choke={drawing.choke_mm}
        shift={drawing.shift_mm}
      />
    </Bench>
  );
}

type Box = { x_mm: number; y_mm: number; width_mm: number; height_mm: number };

/** White drawn as a hatch, as strong as the plate is. */
function Plate({ href, box }: { href: string; box: Box }) {
  const view = useView();
  const steady = useSteady(href);
  const at = {
    x: view.x(box.x_mm),
    y: view.y(box.y_mm),
    width: box.width_mm * view.scale,
    height: box.height_mm * view.scale,
  };
  return (
    <>
      <mask id="plate">
        <image href={steady} {...at} preserveAspectRatio="none" />
      </mask>
      <rect {...at} fill="url(#hatch-white)" mask="url(#plate)" />
      <rect {...at} fill="none" stroke="#7fd0da" strokeDasharray="3 4" />
    </>
  );
}

type MagnifierProps = { pictures: Pictures; box: Box; cloth: string; choke: number; shift: number };

function Magnifier({ pictures, box, cloth, choke, shift }: MagnifierProps) {
  const units = useUnits();
  const view = useView();
  const white = useSteady(pictures.lens_white);
  const colour = useSteady(pictures.lens_colour);
  const { lens } = pictures;
  const radius = Math.min(140, (view.height - 150) / 2);
  const cx = view.width - radius - 24;
  const cy = radius + 22;
  const perMm = (radius * 2) / lens.side_mm;
  const [px, py] = [view.x(box.x_mm + lens.x_mm), view.y(box.y_mm + lens.y_mm)];
  const at = { x: cx - radius, y: cy - radius, width: radius * 2, height: radius * 2 };
  const angle = Math.atan2(cy - py, cx - px);
  // A screen shows about 3.8 px a millimetre: what the glass enlarges is said against that.
  const times = Math.round(perMm / 3.78);
  return (
    <g>
      <circle cx={px} cy={py} r={11} fill="none" stroke="#7fd0da" strokeWidth={2} />
      <path
        d={`M${px + 11 * Math.cos(angle)} ${py + 11 * Math.sin(angle)}L${cx - radius * Math.cos(angle)} ${cy - radius * Math.sin(angle)}`}
        stroke="var(--act)"
        strokeWidth={1.5}
      />
      <defs>
        <clipPath id="glass">
          <circle cx={cx} cy={cy} r={radius} />
        </clipPath>
        <mask id="lens-white">
          <image href={white} {...at} preserveAspectRatio="none" />
        </mask>
      </defs>
      <g clipPath="url(#glass)">
        <rect {...at} fill={cloth} />
        <image href={colour} {...at} preserveAspectRatio="none" />
        <rect {...at} fill="url(#hatch-white)" mask="url(#lens-white)" />
      </g>
      <circle cx={cx} cy={cy} r={radius} fill="none" stroke="var(--act)" strokeWidth={2.5} />
      <rect
        x={cx - radius - 10}
        y={cy + radius + 8}
        width={radius * 2 + 20}
        height={98}
        rx={6}
        fill="var(--bench)"
        fillOpacity={0.92}
      />
      <g transform={`translate(${cx - radius} ${cy + radius + 26})`} fontSize={14} fill="var(--ink)">
        <Amount
          mm={choke}
          perMm={perMm}
          y={0}
          said={say("choke {choke}", { choke: units.length(choke, 2) })}
          colour="var(--act)"
        />
        <Amount
          mm={shift}
          perMm={perMm}
          y={26}
          said={say("the plates may shift {shift}", { shift: units.length(shift, 2) })}
          colour="var(--need)"
        />
        <text y={54} fill="var(--soft)">
          {say("{times}×: hatched is white, plain is colour alone", { times })}
        </text>
        <text y={73} fill="var(--soft)">
          {lens.why}
        </text>
      </g>
    </g>
  );
}

function Amount({
  mm,
  perMm,
  y,
  said,
  colour,
}: {
  mm: number;
  perMm: number;
  y: number;
  said: string;
  colour: string;
}) {
  const wide = Math.max(1, Math.abs(mm) * perMm);
  return (
    <g transform={`translate(0 ${y})`}>
      <path d={`M0 -4H${wide}M0 -10V2M${wide} -10V2`} stroke={colour} strokeWidth={2} fill="none" />
      <text x={wide + 10} className="num">
        {said}
      </text>
    </g>
  );
}

export function WhiteCard({ station, jobLine, flips, onFlip }: StationProps) {
  const units = useUnits();
  const doc = jobLine.document("white");
  const drawing = drawingOf(station, "white");
  if (!drawing) return <p className="text-soft">{station.sub}</p>;
  if (drawing.why) return <p>{say("{verdict}. Nothing is decided here: go on.", { verdict: station.verdict })}</p>;
  const level = doc.level_pct ?? drawing.level_pct;
  const choke = (doc.choke_um ?? drawing.choke_mm * 1000) / 1000;
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      <Where jobLine={jobLine} by={drawing.by} ownWhite={drawing.own_white} />
      {drawing.by === "lights" && (
        <Slider
          label={say("Lights begin at")}
          value={doc.lights_from ?? LIGHTS_FROM}
          min={0}
          max={95}
          step={1}
          shown={`L* ${(doc.lights_from ?? LIGHTS_FROM).toFixed(0)}`}
          ends={[say("darker"), say("the lightest")]}
          onMove={(v) => jobLine.move("white", { lights_from: v })}
          onDone={(v) => jobLine.done("white", { lights_from: v })}
        />
      )}
      {drawing.by === "level" && (
        <>
          <Slider
            label={say("White level")}
            value={level}
            min={0}
            max={100}
            step={1}
            shown={`${level.toFixed(0)} %`}
            ends={[say("follows the picture"), say("solid")]}
            onMove={(v) => jobLine.move("white", { level_pct: v })}
            onDone={(v) => jobLine.done("white", { level_pct: v })}
          />
          <LevelCost jobLine={jobLine} level={level} />
        </>
      )}
      <Slider
        label={choke < 0 ? say("Spread") : say("Choke")}
        value={choke}
        min={-0.5}
        max={1}
        step={0.01}
        shown={units.length(Math.abs(choke), 2)}
        ends={[say("out"), say("in")]}
        onMove={(v) => jobLine.move("white", { choke_um: Math.round(v * 1000) })}
        onDone={(v) => jobLine.done("white", { choke_um: Math.round(v * 1000) })}
      />
      <Switch
        label={say("Let the cloth show")}
        hint={say("leave out what is the cloth's own colour")}
        value={doc.knock_out ?? true}
        onChange={(knock_out) => jobLine.done("white", { knock_out })}
      />
      <Switch
        label={say("Guard thin strokes")}
        hint={say("they keep their white; a rim may show there")}
        value={doc.guard ?? true}
        onChange={(guard) => jobLine.done("white", { guard })}
      />
      <Choice
        label={say("Faint edges")}
        value={doc.faint ?? "cut"}
        onChange={(faint) => jobLine.done("white", { faint })}
        options={[
          { id: "cut", name: say("cut clean") },
          { id: "keep", name: say("keep") },
        ]}
      />
      <Choice
        label={say("Bench shows (F)")}
        value={flips % 2 ? "colour" : "plate"}
        onChange={() => onFlip()}
        options={[
          { id: "plate", name: say("white plate") },
          { id: "colour", name: say("with colour") },
        ]}
      />
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}
