import { createContext, type ReactNode, useContext, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Garment } from "../api/types";
import { useUnits } from "../settings/settings";

export type View = {
  width: number;
  height: number;
  /** Pixels a millimetre. */
  scale: number;
  x: (mm: number) => number;
  y: (mm: number) => number;
};

const ViewContext = createContext<View>({ width: 0, height: 0, scale: 1, x: (v) => v, y: (v) => v });
export const useView = () => useContext(ViewContext);

type BenchProps = {
  label: string;
  /** Left, top, right, bottom in millimetres of what must be seen. */
  bounds: readonly [number, number, number, number];
  /** Pixels kept free: top, right, bottom, left. */
  pad?: readonly [number, number, number, number];
  children: ReactNode;
  scaleBar?: boolean;
  /** Something in the drawing can be taken hold of. */
  movable?: boolean;
};

/** The bench: a drawing in millimetres, truly to scale, with a bar that says how large. */
export function Bench({
  label,
  bounds,
  pad = [16, 90, 40, 60],
  children,
  scaleBar = true,
  movable = false,
}: BenchProps) {
  const { ref, width, height } = useSize();
  const [left, top, right, bottom] = bounds;
  const view = useMemo<View>(() => {
    const free = { w: Math.max(50, width - pad[1] - pad[3]), h: Math.max(50, height - pad[0] - pad[2]) };
    const scale = Math.min(free.w / (right - left), free.h / (bottom - top));
    const x0 = pad[3] + (free.w - (right - left) * scale) / 2 - left * scale;
    const y0 = pad[0] + (free.h - (bottom - top) * scale) / 2 - top * scale;
    return { width, height, scale, x: (mm) => x0 + mm * scale, y: (mm) => y0 + mm * scale };
  }, [width, height, left, top, right, bottom, pad]);
  return (
    <div ref={ref} className="relative min-h-0 grow overflow-hidden">
      {width > 0 && (
        <svg width={width} height={height} className="block" role={movable ? "group" : "img"} aria-label={label}>
          <ViewContext.Provider value={view}>
            {children}
            {scaleBar && <ScaleBar />}
          </ViewContext.Provider>
        </svg>
      )}
    </div>
  );
}

export function useSize() {
  const ref = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const at = ref.current;
    if (!at) return;
    const measure = () => setSize({ width: at.clientWidth, height: at.clientHeight });
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(at);
    return () => watch.disconnect();
  }, []);
  return { ref, ...size };
}

function ScaleBar() {
  const { scale, height } = useView();
  const { unit } = useUnits();
  const steps =
    unit === "mm" ? [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000] : [0.1, 0.5, 1, 2, 4, 8, 20, 40].map((i) => i * 25.4);
  const mm = steps.find((s) => s * scale >= 70) ?? steps[steps.length - 1] ?? 100;
  const wide = mm * scale;
  const said = unit === "mm" ? `${mm} mm` : `${+(mm / 25.4).toFixed(1)} in`;
  return (
    <g
      data-scale
      transform={`translate(20 ${height - 12})`}
      className="text-soft"
      stroke="currentColor"
      fill="currentColor"
    >
      <rect
        x={-10}
        y={-28}
        width={Math.max(wide, 70) + 22}
        height={38}
        rx={6}
        fill="var(--bench)"
        stroke="none"
        opacity={0.88}
      />
      <path d={`M0 0H${wide}M0 -5V5M${wide} -5V5M${wide / 2} -3V3`} />
      <text x={0} y={-10} fontSize={14} stroke="none" className="num">
        {said}
      </text>
    </g>
  );
}

type DimensionProps = {
  /** Along which axis, between two points in millimetres, drawn at a third. */
  along: "x" | "y";
  from: number;
  to: number;
  at: number;
  /** Pixels to move the line away from `at`. */
  away?: number;
  said: string;
  tone?: Tone;
};

/** What a line is drawn on: dark cloth, light cloth, or the bench. */
export type Tone = "cloth" | "light-cloth" | "paper";
const TONES: Record<Tone, string> = { cloth: "#d5dde0", "light-cloth": "#1b2124", paper: "var(--ink)" };

/** Around a figure that may reach beyond its cloth, over whatever lies there. */
const HALO: Record<Tone, string> = { cloth: "#1b2124", "light-cloth": "#f4f1ea", paper: "none" };

/** A dimension line with its figure. */
export function Dimension({ along, from, to, at, away = 0, said, tone = "paper" }: DimensionProps) {
  const view = useView();
  const colour = TONES[tone];
  const wide = said.length * 8.6 + 10;
  if (along === "x") {
    const [a, b, y] = [view.x(from), view.x(to), view.y(at) + away];
    const inside = b - a > wide + 20;
    return (
      <g stroke={colour} fill={colour}>
        <path
          d={
            inside
              ? `M${a} ${y}H${(a + b - wide) / 2}M${(a + b + wide) / 2} ${y}H${b}M${a} ${y - 7}V${y + 7}M${b} ${y - 7}V${y + 7}`
              : `M${a} ${y}H${b}M${a} ${y - 7}V${y + 7}M${b} ${y - 7}V${y + 7}`
          }
          fill="none"
        />
        <text
          x={inside ? (a + b) / 2 : b + 8}
          y={y + 5}
          textAnchor={inside ? "middle" : "start"}
          fontSize={14}
          stroke={HALO[tone]}
          strokeWidth={3}
          paintOrder="stroke"
          className="num"
        >
          {said}
        </text>
      </g>
    );
  }
  const [a, b, x] = [view.y(from), view.y(to), view.x(at) + away];
  const middle = (a + b) / 2;
  const inside = b - a > wide + 16;
  return (
    <g stroke={colour} fill={colour}>
      <path
        d={
          inside
            ? `M${x} ${a}V${middle - wide / 2}M${x} ${middle + wide / 2}V${b}M${x - 7} ${a}H${x + 7}M${x - 7} ${b}H${x + 7}`
            : `M${x} ${a}V${b}M${x - 7} ${a}H${x + 7}M${x - 7} ${b}H${x + 7}`
        }
        fill="none"
      />
      {inside ? (
        <text
          transform={`translate(${x} ${middle}) rotate(-90)`}
          y={5}
          textAnchor="middle"
          fontSize={14}
          stroke={HALO[tone]}
          strokeWidth={3}
          paintOrder="stroke"
          className="num"
        >
          {said}
        </text>
      ) : (
        <text
          x={x + 12}
          y={middle + 5}
          fontSize={14}
          stroke={HALO[tone]}
          strokeWidth={3}
          paintOrder="stroke"
          className="num"
        >
          {said}
        </text>
      )}
    </g>
  );
}

/** Hatches that mean something without colour. */
export function Hatches() {
  return (
    <defs>
      <pattern id="hatch-white" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="7" height="7" fill="#f4f6f7" />
        <path d="M0 0V7" stroke="#8fa0a8" strokeWidth="2" />
      </pattern>
      <pattern id="hatch-over" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
        <path d="M0 0V8" stroke="#ff6a3d" strokeWidth="4" />
      </pattern>
      <pattern id="hatch-vanish" width="8" height="8" patternUnits="userSpaceOnUse">
        <circle cx="4" cy="4" r="2" fill="#ffd166" />
      </pattern>
    </defs>
  );
}

/** How wide a print is, and how high, drawn beside it. */
export function PrintDimensions({ garment, high = true }: { garment: Garment; high?: boolean }) {
  const units = useUnits();
  const box = garment.box;
  if (!box) return null;
  return (
    <>
      <Dimension
        along="x"
        from={box.x_mm}
        to={box.x_mm + box.width_mm}
        at={box.y_mm + box.height_mm}
        away={20}
        tone={toneAt(garment, 0, box.y_mm + box.height_mm + 6)}
        said={units.length(box.width_mm)}
      />
      {high && (
        <Dimension
          along="y"
          from={box.y_mm}
          to={box.y_mm + box.height_mm}
          at={box.x_mm + box.width_mm}
          away={20}
          tone={toneAt(garment, box.x_mm + box.width_mm + 6, box.y_mm)}
          said={units.length(box.height_mm)}
        />
      )}
    </>
  );
}

/** Whether a point lies on the blank, and whether that is dark. */
export function toneAt(garment: Garment, x: number, y: number): Tone {
  const [left, top, right, bottom] = garment.bounds_mm;
  if (x < left || x > right || y < top || y > bottom) return "paper";
  return isDark(garment.colour) ? "cloth" : "light-cloth";
}

/** A colour darker than its middle. */
export function isDark(hex: string): boolean {
  const [r, g, b] = [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b < 128;
}
