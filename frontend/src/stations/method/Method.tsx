import { type DrawingOf, drawingOf } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { useShop } from "../../shop/useShop";
import { Choice, Key, Pick } from "../../ui/parts";
import type { StationProps } from "..";
import { Findings } from "../Waits";
import { AllWays } from "./AllWays";
import { Schools } from "./Schools";

type Method = DrawingOf<"method">;
const SHOWN_UM = 640;
/** A yarn of a tee's knit is about a third of a millimetre across. */
const YARN_UM = 300;
const LOOK = { bond: "#cfc3a6", white: "url(#section-white)", colour: "#2e8fb8" } as const;

const LOOKS = [
  { id: "this", name: "This way" },
  { id: "all", name: "All ways" },
] as const;
type Look = (typeof LOOKS)[number]["id"];
const lookAt = (flips: number): Look => LOOKS[flips % LOOKS.length]?.id ?? "this";

export function MethodBench({ station, jobLine, flips }: StationProps) {
  const drawing = drawingOf(station, "method");
  if (lookAt(flips) === "all") return <AllWays jobLine={jobLine} />;
  if (!drawing) return null;
  return (
    <div className="flex min-h-0 grow flex-col gap-3 px-6 pt-3 pb-4">
      <Section drawing={drawing} />
      <ul className="grid grid-cols-2 gap-x-8 gap-y-2.5 max-[1100px]:grid-cols-1">
        {drawing.reasons.map((r) => (
          <li key={r.what} className="flex gap-2.5">
            <svg
              width="16"
              height="16"
              viewBox="0 0 16 16"
              className={`mt-1 shrink-0 ${r.is_good ? "text-done" : "text-need"}`}
              aria-hidden="true"
            >
              {r.is_good ? (
                <path d="M2 8l4 4 8-9" fill="none" stroke="currentColor" strokeWidth="2.5" />
              ) : (
                <path d="M8 1L15 8L8 15L1 8Z" fill="currentColor" />
              )}
            </svg>
            <p>
              <span className="font-semibold">{r.what}.</span> {r.reason}
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** What ends up in and on the cloth: a section, its heights to scale. */
function Section({ drawing }: { drawing: Method }) {
  const { ref, width, height } = useSize();
  const onTop = drawing.layers.filter((l) => l.role !== "cloth");
  const scale = Math.max(0.1, (height - 50) / SHOWN_UM);
  const left = 24;
  const right = Math.max(left + 200, width - 300);
  const clothTop = height - 40 - 400 * scale;
  const yarns = Math.max(4, Math.round((right - left) / (YARN_UM * scale)));
  const pitch = (right - left) / yarns;
  let y = clothTop;
  const rows = onTop.map((layer) => {
    const high = Math.max(2, layer.thickness_um * scale);
    y -= high;
    return { layer, y, high };
  });
  const labels = spread(
    rows.map((r) => r.y + r.high / 2),
    44,
    26,
  );
  return (
    <div ref={ref} className="min-h-[180px] grow overflow-hidden">
      {width > 0 && (
        <svg width={width} height={height} role="img" aria-label="Section through the cloth and what is pressed on it">
          <defs>
            <pattern
              id="section-white"
              width="6"
              height="6"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <rect width="6" height="6" fill="#ffffff" />
              <path d="M0 0V6" stroke="#9aa7ad" strokeWidth="1.6" />
            </pattern>
            <clipPath id="section-cut">
              <rect x={left} y={0} width={right - left} height={height} />
            </clipPath>
          </defs>
          <g clipPath="url(#section-cut)">
            {[1.55, 0.62].map((drop, layer) =>
              Array.from({ length: yarns + layer }, (_, i) => (
                <ellipse
                  key={`${drop}-${i}`}
                  cx={left + (i + (layer ? 0 : 0.5)) * pitch}
                  cy={clothTop + drop * 150 * scale}
                  rx={pitch * 0.56}
                  ry={112 * scale}
                  fill={drawing.cloth}
                  stroke="#8d949c"
                />
              )),
            )}
          </g>
          {rows.map(({ layer, y: top, high }, i) =>
            layer.role === "bond" ? (
              <path
                key={layer.what}
                d={bonded(left + 10, right - 10, top, top + high, pitch, 46 * scale, left)}
                fill={LOOK.bond}
                stroke="#8d949c"
                strokeWidth={0.8}
              />
            ) : (
              <rect
                key={layer.what}
                x={left + 22 + i * 8}
                y={top}
                width={right - left - 44 - i * 16}
                height={high}
                fill={LOOK[layer.role as keyof typeof LOOK]}
                stroke="#8d949c"
                strokeWidth={0.6}
              />
            ),
          )}
          {rows.map(({ layer, y: top, high }, i) => (
            <Label
              key={layer.what}
              x={right}
              y={top + high / 2}
              labelY={labels[i] ?? 0}
              what={layer.what}
              said={`${layer.thickness_um.toFixed(0)} µm, ${layer.source}`}
            />
          ))}
          <Label
            x={right}
            y={clothTop + 150 * scale}
            labelY={clothTop + 170 * scale}
            what={drawing.layers[0]?.what ?? ""}
            said={`${((drawing.layers[0]?.thickness_um ?? 0) / 1000).toFixed(2)} mm, cut through the yarns`}
          />
          <g transform={`translate(${left} ${height - 10})`} stroke="var(--soft)" fill="var(--soft)">
            <path d={`M0 0H${200 * scale}M0 -5V5M${200 * scale} -5V5`} />
            <text x={200 * scale + 10} y={5} fontSize={14} stroke="none" className="num">
              0.2 mm
            </text>
          </g>
        </svg>
      )}
    </div>
  );
}

function Label({ x, y, labelY, what, said }: { x: number; y: number; labelY: number; what: string; said: string }) {
  return (
    <g>
      <path d={`M${x - 30} ${y}L${x + 18} ${labelY}H${x + 26}`} fill="none" stroke="var(--hair2)" />
      <text x={x + 32} y={labelY - 2} fontSize={15} fontWeight={650} fill="var(--ink)">
        {what}
      </text>
      <text x={x + 32} y={labelY + 16} fontSize={14} fill="var(--soft)">
        {said}
      </text>
    </g>
  );
}

/** The melted powder: flat on top, sunk between the yarns below. */
function bonded(
  left: number,
  right: number,
  top: number,
  bottom: number,
  pitch: number,
  sink: number,
  origin: number,
): string {
  const steps = Array.from({ length: 200 }, (_, i) => {
    const x = right - ((right - left) * i) / 199;
    const wave = (1 - Math.cos(((x - origin) / pitch) * 2 * Math.PI)) / 2;
    return `L${x.toFixed(1)} ${(bottom + sink * wave * wave).toFixed(1)}`;
  });
  return `M${left} ${top}H${right}${steps.join("")}Z`;
}

/** Label heights near the wished ones, never nearer than gap. Wished ones come from bottom to top. */
function spread(wished: number[], gap: number, least: number): number[] {
  const placed: number[] = [];
  for (const y of wished) {
    const above = placed.at(-1);
    placed.push(above === undefined ? y : Math.min(y, above - gap));
  }
  const over = Math.max(0, least - Math.min(...placed, least));
  return placed.map((y) => y + over);
}

export function MethodCard({ station, jobLine, flips, onFlip }: StationProps) {
  const { shop } = useShop();
  const drawing = drawingOf(station, "method");
  const way = jobLine.document("method");
  const printer = shop?.printers.find((p) => p.id === way.printer);
  const named = <T extends { id: string; name: string }>(all: readonly T[] | undefined) =>
    (all ?? []).map((o) => ({ id: o.id, name: o.name }));
  const set = (changes: Record<string, unknown>) => jobLine.done("method", changes);
  return (
    <>
      <div className="flex items-end gap-2">
        <div className="grow">
          <Choice
            label="On the bench"
            value={lookAt(flips)}
            options={[...LOOKS]}
            onChange={(v) => v !== lookAt(flips) && onFlip()}
          />
        </div>
        <Key>F</Key>
      </div>
      <Schools
        questions={drawing?.schools ?? []}
        chosen={way.schools ?? {}}
        onChoose={(question, choice) => set({ schools: { ...way.schools, [question]: choice } })}
      />
      <div className="grid grid-cols-2 gap-3">
        <Pick
          label="Printer"
          value={way.printer}
          options={named(shop?.printers)}
          onChange={(v) => set({ printer: v, mode: shop?.printers.find((p) => p.id === v)?.modes[0]?.id })}
        />
        <Pick label="Mode" value={way.mode} options={named(printer?.modes)} onChange={(v) => set({ mode: v })} />
        <Pick label="Press" value={way.press} options={named(shop?.presses)} onChange={(v) => set({ press: v })} />
        <Pick label="Oven" value={way.oven} options={named(shop?.ovens)} onChange={(v) => set({ oven: v })} />
      </div>
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}
