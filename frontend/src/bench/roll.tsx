import { say } from "../texts/say";

/** Parts of a roll seen from above, lying on its side: its leading edge at the left. */

type Row = { cuts: number[]; from: number };

export const CORE = 46;
export const LEAD = 34;
export const RULER = 26;

/** As many rows as make the drawing largest; every cut length stays whole. */
export function fitRoll(
  lengthsUm: number[],
  mediaUm: number,
  width: number,
  height: number,
): { scale: number; rows: Row[] } {
  const lengths = lengthsUm.map((l) => l / 1000);
  const media = mediaUm / 1000;
  let best: { scale: number; rows: Row[] } = { scale: 0, rows: [] };
  for (let perRow = lengths.length; perRow >= 1; perRow--) {
    const rows: Row[] = [];
    for (let i = 0; i < lengths.length; i += perRow) {
      rows.push({ from: i, cuts: lengths.slice(i, i + perRow).map((_, k) => i + k) });
    }
    const longest = Math.max(...rows.map((r) => r.cuts.reduce((sum, c) => sum + (lengths[c] ?? 0), 0)));
    const scale = Math.min(width / longest, (height / rows.length - RULER - 14) / media);
    if (scale > best.scale) best = { scale, rows };
  }
  return best.rows.length ? { ...best, scale: Math.max(0.02, best.scale) } : { scale: 0.1, rows: [] };
}

export function Leading({ x, y, wide }: { x: number; y: number; wide: number }) {
  return (
    <g>
      <path d={`M${x - 6} ${y + 10}H${x - 28}m7 -6l-7 6l7 6`} fill="none" stroke="var(--act)" strokeWidth={2.5} />
      <text transform={`translate(${x - 11} ${y + wide}) rotate(-90)`} fontSize={14} fill="var(--soft)">
        {say("leading edge")}
      </text>
    </g>
  );
}

export function Torn({ x, y, wide }: { x: number; y: number; wide: number }) {
  return (
    <path
      d={`M${x - 4} ${y - 4}l6 ${wide / 4}l-6 ${wide / 4}l6 ${wide / 4}l-6 ${wide / 4 + 8}`}
      fill="none"
      stroke="var(--soft)"
      strokeWidth={1.5}
    />
  );
}

export function Core({ x, y, wide }: { x: number; y: number; wide: number }) {
  return (
    <g stroke="#7c868b">
      <rect x={x + 2} y={y} width={12} height={wide} fill="#eef2f3" />
      <rect x={x + 10} y={y - 3} width={26} height={wide + 6} rx={6} fill="#c9d1d4" />
      <rect x={x + 18} y={y - 9} width={10} height={wide + 18} rx={3} fill="#a98f6b" />
    </g>
  );
}

/** A print's number, readable on whatever it lies. */
export function Numbered({ x, y, children }: { x: number; y: number; children: string }) {
  return (
    <text
      x={x + 5}
      y={y + 16}
      fontSize={14}
      fontWeight={700}
      fill="#0f1416"
      stroke="#ffffff"
      strokeWidth={3}
      paintOrder="stroke"
      className="num"
    >
      {children}
    </text>
  );
}

/** Against the clock, in degrees. slant: besides the quarters. */
export const angleOf = (p: { turned: boolean; half?: boolean }, slant = 0) =>
  (p.turned ? 90 : 0) + (p.half ? 180 : 0) + slant;

/** How a print's picture lies on a roll that lies on its side: upright its top looks along the roll, away from the leading edge.
 * angle: against the clock; along and across: of its box as it is drawn; own: its width and height before it was turned, where it
 * lies at a slant. */
export function lying(angle: number, x: number, y: number, along: number, across: number, own?: [number, number]) {
  const [width, height] = own ?? (angle % 180 ? [along, across] : [across, along]);
  const turn = `translate(${x + along / 2} ${y + across / 2}) rotate(${90 - angle}) translate(${-width / 2} ${-height / 2})`;
  return { turn, width, height };
}
