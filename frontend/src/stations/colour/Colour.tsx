import { type DrawingOf, drawingOf } from "../../api/types";
import { Bench, Hatches, useView } from "../../bench/Bench";
import { useSteady } from "../../bench/steady";
import { Choice, Pick, Slider, Switch } from "../../ui/parts";
import type { StationProps } from "..";
import { Findings, Waits } from "../Waits";

const LOOKS = [
  { id: "cloth", name: "on this cloth" },
  { id: "pressed", name: "after pressing, on white" },
  { id: "carrier", name: "on the film" },
] as const;
type Look = (typeof LOOKS)[number]["id"];
const lookAt = (flips: number): Look => LOOKS[flips % LOOKS.length]?.id ?? "cloth";
const INTENTS = [
  { id: "relative", name: "relative: keep what is reachable" },
  { id: "perceptual", name: "perceptual: keep the shades apart" },
  { id: "saturation", name: "saturation: keep it vivid" },
  { id: "absolute", name: "absolute: imitate the paper too" },
] as const;

export function ColourBench({ station, jobLine, flips }: StationProps) {
  const drawing = drawingOf(station, "colour");
  const pictures = jobLine.line.pictures;
  const box = drawing?.garment.box;
  if (!drawing || !pictures || !box) return <Waits station={station} />;
  const look = lookAt(flips);
  return (
    <div className="flex min-h-0 grow">
      <Bench
        label={`The print ${LOOKS.find((l) => l.id === look)?.name}`}
        bounds={[0, 0, box.width_mm, box.height_mm]}
        pad={[18, 20, 50, 40]}
      >
        <Hatches />
        <Print
          href={pictures[look]}
          over={pictures.over}
          w={box.width_mm}
          h={box.height_mm}
          ground={look === "cloth" ? drawing.garment.colour : look === "pressed" ? "#ffffff" : "#c9d0d3"}
          isOver={drawing.over_limit_share > 0 && look !== "carrier"}
        />
      </Bench>
      <Steps drawing={drawing} />
    </div>
  );
}

function Print({
  href,
  over,
  w,
  h,
  ground,
  isOver,
}: {
  href: string;
  over: string;
  w: number;
  h: number;
  ground: string;
  isOver: boolean;
}) {
  const view = useView();
  const steady = useSteady(href);
  const box = { x: view.x(0), y: view.y(0), width: w * view.scale, height: h * view.scale };
  const pad = 8 * view.scale;
  return (
    <>
      <rect
        x={box.x - pad}
        y={box.y - pad}
        width={box.width + 2 * pad}
        height={box.height + 2 * pad}
        fill={ground}
        stroke="var(--hair2)"
      />
      <image href={steady} {...box} preserveAspectRatio="none" />
      {isOver && (
        <>
          <mask id="over">
            <image href={over} {...box} preserveAspectRatio="none" />
          </mask>
          <rect {...box} fill="url(#hatch-over)" mask="url(#over)" opacity={0.85} />
        </>
      )}
    </>
  );
}

/** The picture's own main colours: asked, printed on white, on this cloth, and how far apart. */
function Steps({ drawing }: { drawing: DrawingOf<"colour"> }) {
  return (
    <section aria-label="Main colours" className="w-[350px] shrink-0 overflow-auto py-4 pr-6">
      <div className="grid grid-cols-[repeat(3,64px)_1fr] gap-x-0 text-sm text-soft">
        <span>asked</span>
        <span>on white</span>
        <span>on cloth</span>
        <span className="pl-3">difference · ink</span>
      </div>
      <ul className="mt-1 flex flex-col gap-1.5">
        {drawing.colours.map((c) => (
          <li key={c.asked} className="grid grid-cols-[repeat(3,64px)_1fr] items-center">
            {[c.asked, c.printed, c.on_cloth].map((colour, i) => (
              <span
                key={i}
                className="h-11 border-y border-hair2 first:rounded-l-md first:border-l"
                style={{ background: colour }}
                title={colour}
              />
            ))}
            <span className="pl-3 leading-tight">
              <span className={`num block font-semibold ${c.delta_e_2000 > 3 ? "text-need" : ""}`}>
                ΔE {c.delta_e_2000.toFixed(1)}
              </span>
              <span className="num block text-sm text-soft">{c.cmyk_pct.map((v) => v.toFixed(0)).join(" ")}</span>
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-2 text-sm text-soft">
        Ink as C M Y K in %. ΔE is CIEDE2000 between asked and printed on full white.
      </p>
    </section>
  );
}

export function ColourCard({ station, jobLine, flips, onFlip }: StationProps) {
  const doc = jobLine.document("colour");
  if (!drawingOf(station, "colour")) return <p className="text-soft">{station.sub}</p>;
  const reading = jobLine.line.readings.find((r) => r.key === "most-ink");
  const limit = doc.ink_limit_pct ?? Number(/limit (\d+)/.exec(reading?.note ?? "")?.[1] ?? 230);
  return (
    <>
      <Choice
        label="Look (F)"
        value={lookAt(flips)}
        onChange={() => onFlip()}
        options={[
          { id: "cloth", name: "cloth" },
          { id: "pressed", name: "white" },
          { id: "carrier", name: "film" },
        ]}
      />
      <Pick
        label="Colours that cannot be reached"
        value={doc.intent ?? "relative"}
        options={[...INTENTS]}
        onChange={(intent) => jobLine.done("colour", { intent })}
      />
      <Switch
        label="Black-point compensation"
        hint="dark shades keep their steps instead of clogging"
        value={doc.black_point ?? true}
        onChange={(black_point) => jobLine.done("colour", { black_point })}
      />
      <Slider
        label="Ink limit"
        value={limit}
        min={120}
        max={320}
        step={5}
        shown={`${limit.toFixed(0)} %`}
        ends={["dry, weak", "wet, puddles"]}
        onMove={(v) => jobLine.move("colour", { ink_limit_pct: v })}
        onDone={(v) => jobLine.done("colour", { ink_limit_pct: v })}
      />
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}
