import { useEffect, useRef, useState } from "react";
import { type Decisions, drawingOf, type Station } from "../../api/types";
import { Bench, Dimension, Hatches, isDark, useView } from "../../bench/Bench";
import { HOLES_COLOUR, OWN_HOLES, OwnHoles } from "../../bench/OwnHoles";
import type { StationProps } from "../../line/station";
import type { JobLine } from "../../line/useJobLine";
import { useWork } from "../../line/useWork";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button, Choice, Pick, Slider } from "../../ui/parts";
import { Findings, Waits } from "../Waits";
import { useFixes } from "./useFixes";

type Language = NonNullable<Decisions["artwork"]>["language"];

const POINTED_AT = 24;
const ROUND_PX = 12; // cloth round the print, inside the dimension lines

export function ArtworkBench({ station, jobLine }: StationProps) {
  const units = useUnits();
  const drawing = drawingOf(station, "artwork");
  const pictures = jobLine.line.pictures;
  if (!drawing || !pictures) return <Waits station={station} />;
  const { width_mm: w, height_mm: h } = drawing;
  return (
    <>
      <Bench
        label={say("The artwork at print size on the cloth's colour, with its problem areas pointed at")}
        bounds={[0, 0, w, h]}
        pad={[18, 190, 56, 70]}
      >
        <Hatches />
        <Ground w={w} h={h} cloth={drawing.cloth} href={pictures.art} drawing={drawing} />
        <Vanishing w={w} h={h} href={pictures.vanish} />
        {station.findings.some((f) => f.code === OWN_HOLES) && (
          <OwnHoles href={pictures.holes} box={{ x_mm: 0, y_mm: 0, width_mm: w, height_mm: h }} />
        )}
        <Spots spots={drawing.strokes} shape="ring" cloth={drawing.cloth} />
        <Spots spots={drawing.gaps} shape="square" cloth={drawing.cloth} />
        <Dimension along="x" from={0} to={w} at={h} away={24} said={units.length(w)} />
        <Dimension along="y" from={0} to={h} at={0} away={-24} said={units.length(h)} />
        <Key
          strokes={drawing.strokes.length}
          gaps={drawing.gaps.length}
          thinnest={drawing.strokes[0]?.[2]}
          w={w}
          holes={station.findings.some((f) => f.code === OWN_HOLES)}
          vanishes={station.findings.some((f) => f.code === "vanishing")}
        />
      </Bench>
      {drawing.is_vector ? (
        <p className="px-6 pb-4 text-soft">{say("A drawing: it is drawn anew at any size, and stays sharp.")}</p>
      ) : (
        <Reach reachable={drawing.reachable_mm} width={w} />
      )}
    </>
  );
}

type GroundProps = {
  w: number;
  h: number;
  cloth: string;
  href: string;
  drawing: NonNullable<ReturnType<typeof drawingOf<"artwork">>>;
};

/** The whole file behind, what is printed of it in front. */
function Ground({ w, h, cloth, href, drawing }: GroundProps) {
  const view = useView();
  const [left, top, right] = drawing.crop_px;
  const mmPerPx = w / (right - left);
  const pad = ROUND_PX / view.scale;
  return (
    <>
      <defs>
        <clipPath id="cropped">
          <rect x={view.x(0)} y={view.y(0)} width={w * view.scale} height={h * view.scale} />
        </clipPath>
      </defs>
      <rect
        x={view.x(-pad)}
        y={view.y(-pad)}
        width={(w + 2 * pad) * view.scale}
        height={(h + 2 * pad) * view.scale}
        fill={cloth}
      />
      <image
        clipPath="url(#cropped)"
        href={href}
        x={view.x(-left * mmPerPx)}
        y={view.y(-top * mmPerPx)}
        width={drawing.pixels[0] * mmPerPx * view.scale}
        height={drawing.pixels[1] * mmPerPx * view.scale}
        preserveAspectRatio="none"
      />
    </>
  );
}

function Vanishing({ w, h, href }: { w: number; h: number; href: string }) {
  const view = useView();
  const box = { x: view.x(0), y: view.y(0), width: w * view.scale, height: h * view.scale };
  return (
    <>
      <mask id="vanish">
        <image href={href} {...box} preserveAspectRatio="none" />
      </mask>
      <rect {...box} fill="url(#hatch-vanish)" mask="url(#vanish)" />
    </>
  );
}

function Spots({
  spots,
  shape,
  cloth,
}: {
  spots: [number, number, number][];
  shape: "ring" | "square";
  cloth: string;
}) {
  const view = useView();
  const colour = isDark(cloth) ? "#ffb066" : "#9a4a00";
  return (
    <g fill="none" stroke={colour} strokeWidth={2}>
      {spots.slice(0, POINTED_AT).map(([x, y], i) => {
        const [cx, cy] = [view.x(x), view.y(y)];
        return shape === "ring" ? (
          <circle key={i} cx={cx} cy={cy} r={8} />
        ) : (
          <rect key={i} x={cx - 7} y={cy - 7} width={14} height={14} />
        );
      })}
    </g>
  );
}

function Key({
  strokes,
  gaps,
  thinnest,
  w,
  holes,
  vanishes,
}: {
  holes: boolean;
  vanishes: boolean;
  strokes: number;
  gaps: number;
  thinnest: number | undefined;
  w: number;
}) {
  const units = useUnits();
  const view = useView();
  const x = view.x(w) + 28;
  const rows = [
    strokes > 0 && {
      mark: <circle cx={8} cy={-5} r={7} fill="none" stroke="var(--need)" strokeWidth={2} />,
      said: say("too thin: {strokes}", { strokes }),
      more: thinnest ? say("thinnest {thinnest}", { thinnest: units.length(thinnest, 2) }) : "",
    },
    gaps > 0 && {
      mark: <rect x={1} y={-12} width={14} height={14} fill="none" stroke="var(--need)" strokeWidth={2} />,
      said: say("gap too narrow: {gaps}", { gaps }),
      more: "",
    },
    holes && {
      mark: <rect x={0} y={-13} width={16} height={16} fill={HOLES_COLOUR} stroke="var(--hair2)" />,
      said: say("the picture's own holes"),
      more: say("no fault of the print"),
    },
    vanishes && {
      mark: <rect x={0} y={-13} width={16} height={16} fill="url(#hatch-vanish)" stroke="var(--hair2)" />,
      said: say("cloth's own colour"),
      more: "",
    },
  ].filter((r) => r !== false);
  return (
    <g>
      {rows.map((r, i) => (
        <g key={i} transform={`translate(${x} ${40 + i * 46})`}>
          {r.mark}
          <text x={24} fontSize={14} fill="var(--ink)">
            {r.said}
          </text>
          <text x={24} y={18} fontSize={14} fill="var(--soft)">
            {r.more}
          </text>
        </g>
      ))}
    </g>
  );
}

/** How wide the file may be printed at three sharpnesses, as bars on one scale. */
function Reach({ reachable, width }: { reachable: Record<string, number>; width: number }) {
  const units = useUnits();
  const widest = Math.max(width, ...Object.values(reachable));
  const rows = Object.entries(reachable).sort((a, b) => Number(b[0]) - Number(a[0]));
  const word: Record<string, string> = {
    "300": say("sharp in the hand"),
    "200": say("sharp at arm's length"),
    "150": say("the least"),
  };
  return (
    <div className="grid grid-cols-[auto_1fr] items-center gap-x-4 px-6 pb-4 text-sm">
      {rows.map(([ppi, mm]) => (
        <div key={ppi} className="contents">
          <span className="text-soft">
            <span className="num text-ink">{say("{ppi} ppi", { ppi })}</span>, {word[ppi]}
          </span>
          <div className="relative h-6">
            <div className="absolute top-2.5 h-[5px] rounded bg-hair2" style={{ width: `${(mm / widest) * 82}%` }} />
            <span className="num absolute top-0.5" style={{ left: `calc(${(mm / widest) * 82}% + 8px)` }}>
              {units.length(mm)}
            </span>
            <div
              className="absolute top-0 h-6 border-l-2 border-act"
              style={{ left: `${(width / widest) * 82}%` }}
              title={say("this print")}
            />
          </div>
        </div>
      ))}
    </div>
  );
}

export function ArtworkCard({ station, jobLine }: StationProps) {
  const doc = jobLine.document("artwork");
  const fixes = useFixes(jobLine);
  if (!drawingOf(station, "artwork")) return <p className="text-soft">{station.sub}</p>;
  return (
    <>
      <Findings worst station={station} jobLine={fixes.jobLine} />
      <Choice
        label={say("Size is measured to")}
        value={doc.crop ?? "content"}
        onChange={(crop) => jobLine.done("artwork", { crop })}
        options={[
          { id: "content", name: say("what is seen") },
          { id: "none", name: say("the file's edge") },
        ]}
      />
      {fixes.looking && (
        <p role="status" className="border-l-4 border-act pl-3">
          {say("The picture is put right and looked at anew: {looking}", { looking: fixes.looking })}
        </p>
      )}
      {doc.fixes?.ground != null && (
        <Tolerance
          ground={doc.fixes.ground}
          onDone={(ground) => void fixes.decide({ fixes: { ...doc.fixes, ground } })}
        />
      )}
      <Findings station={station} jobLine={fixes.jobLine} />
      <Lettering station={station} jobLine={jobLine} />
    </>
  );
}

/** How much of what is near the ground's colour goes with it; looked at anew when the hand lets go. */
function Tolerance({ ground, onDone }: { ground: number; onDone: (ground: number) => void }) {
  const [moved, setMoved] = useState(ground);
  useEffect(() => setMoved(ground), [ground]);
  return (
    <Slider
      label={say("The ground goes with what is near it")}
      value={moved}
      min={2}
      max={40}
      step={1}
      shown={say("{moved} in Lab", { moved: moved.toFixed(0) })}
      ends={[say("its colour alone"), say("more of the picture")]}
      onMove={setMoved}
      onDone={onDone}
    />
  );
}

const LANGUAGES: { id: Language; name: string }[] = [
  { id: "en", name: say("English") },
  { id: "de", name: say("German") },
  { id: "fr", name: say("French") },
  { id: "es", name: say("Spanish") },
  { id: "it", name: say("Italian") },
  { id: "pt", name: say("Portuguese") },
];

/** What the picture says, read back for whoever proof-reads it. */
function Lettering({ station, jobLine }: { station: Station; jobLine: JobLine }) {
  const { job } = jobLine;
  const language = jobLine.document("artwork").language ?? "en";
  const lettering = drawingOf(station, "artwork")?.lettering;
  const { isRunning, start } = useWork(job.id, job.print, "/api/jobs/{job_id}/lettering");
  // What is only tried is not on the server yet: there would be nothing to read.
  const isSaved = jobLine.line === job.line;
  const wanted = useMe().role !== "viewer" && !lettering && isSaved;
  // Once for a picture and a language; a reading that failed is begun again by hand.
  const { place, artwork } = jobLine.line.decisions;
  const picture = `${job.print} ${place?.file} ${language} ${JSON.stringify(artwork?.fixes)}`;
  const asked = useRef("");
  useEffect(() => {
    if (!wanted || asked.current === picture) return;
    asked.current = picture;
    void start();
  }, [wanted, picture, start]);
  return (
    <div className="grid gap-2">
      <Pick
        label={say("Language of the lettering")}
        value={language}
        onChange={(to) => jobLine.done("artwork", { language: to })}
        options={LANGUAGES}
      />
      {isRunning && <p className="text-soft">{say("The lettering is being read…")}</p>}
      {lettering && !lettering.text && <p className="text-soft">{say("No lettering found in the picture.")}</p>}
      {wanted && !isRunning && <Button onClick={() => void start()}>{say("Read the lettering")}</Button>}
    </div>
  );
}
