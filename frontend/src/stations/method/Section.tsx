import type { DrawingOf } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";

type Method = DrawingOf<"method">;
const SHOWN_UM = 640;
/** A yarn of a tee's knit is about a third of a millimetre across. */
const YARN_UM = 300;
const LOOK = { bond: "#cfc3a6", white: "url(#section-white)", colour: "#2e8fb8" } as const;

/** What ends up in and on the cloth: a section, its heights to scale. */
export function Section({ drawing }: { drawing: Method }) {
  const units = useUnits();
  const { ref, width, height } = useSize();
  const onTop = drawing.layers.filter((l) => l.role !== "cloth" && l.role !== "dye");
  const dye = drawing.layers.find((l) => l.role === "dye");
  const follows = drawing.lies === "ink" || drawing.lies === "coat";
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
        <svg
          width={width}
          height={height}
          role="img"
          aria-label={say("Section through the cloth and what is pressed on it")}
        >
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
          {drawing.is_hard && (
            <g>
              <rect
                x={left}
                y={clothTop}
                width={right - left}
                height={400 * scale}
                fill={drawing.cloth}
                stroke="#8d949c"
              />
              <rect
                x={left}
                y={clothTop}
                width={right - left}
                height={60 * scale}
                fill={dye ? LOOK.colour : "#e8e4da"}
                opacity={0.85}
                stroke="#8d949c"
              />
            </g>
          )}
          <g clipPath="url(#section-cut)" opacity={drawing.is_hard ? 0 : 1}>
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
            {dye &&
              Array.from({ length: yarns + 1 }, (_, i) => {
                const [cx, cy, rx, ry] = [left + i * pitch, clothTop + 0.62 * 150 * scale, pitch * 0.56, 112 * scale];
                const lift = ry * 0.2;
                return (
                  <path
                    key={`dye-${i}`}
                    d={`M${cx - rx * 0.98} ${cy - lift}A${rx} ${ry} 0 0 1 ${cx + rx * 0.98} ${cy - lift}Q${cx} ${cy - lift + ry * 0.45} ${cx - rx * 0.98} ${cy - lift}Z`}
                    fill={LOOK.colour}
                    opacity={0.85}
                  />
                );
              })}
          </g>
          {rows.map(({ layer, y: top, high }, i) =>
            follows ? (
              <path
                key={layer.what}
                d={followed(left + 10, right - 10, top, Math.max(4, high), pitch, 40 * scale, left)}
                fill={LOOK[layer.role as keyof typeof LOOK]}
                stroke="#8d949c"
                strokeWidth={0.6}
              />
            ) : layer.role === "bond" ? (
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
              said={`${layer.thickness_um.toFixed(0)} µm, ${worded(layer.source)}`}
            />
          ))}
          {dye && (
            <Label
              x={right}
              y={clothTop + 40 * scale}
              labelY={clothTop + 34 * scale}
              what={dye.what}
              said={say("about {thickness_um} µm deep, {source}", {
                thickness_um: dye.thickness_um.toFixed(0),
                source: worded(dye.source),
              })}
            />
          )}
          <Label
            x={right}
            y={clothTop + 150 * scale}
            labelY={clothTop + 170 * scale}
            what={drawing.layers[0]?.what ?? ""}
            said={`${units.length((drawing.layers[0]?.thickness_um ?? 0) / 1000, 2)}${drawing.is_hard ? say(", only its top is drawn") : say(", cut through the yarns")}`}
          />
          <g transform={`translate(${left} ${height - 10})`} stroke="var(--soft)" fill="var(--soft)">
            <path d={`M0 0H${200 * scale}M0 -5V5M${200 * scale} -5V5`} />
            <text x={200 * scale + 10} y={5} fontSize={14} stroke="none" className="num">
              {units.length(0.2, 1)}
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

/** A layer that goes up and down with the yarns. */
function followed(
  left: number,
  right: number,
  top: number,
  thick: number,
  pitch: number,
  sink: number,
  origin: number,
): string {
  const at = (x: number, y: number) => {
    const wave = (1 - Math.cos(((x - origin) / pitch) * 2 * Math.PI)) / 2;
    return `${x.toFixed(1)} ${(y + sink * wave * wave).toFixed(1)}`;
  };
  const steps = Array.from({ length: 160 }, (_, i) => left + ((right - left) * i) / 159);
  const low = [...steps].reverse().map((x) => at(x, top + thick));
  return `M${steps.map((x) => at(x, top)).join("L")}L${low.join("L")}Z`;
}
