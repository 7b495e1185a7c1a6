import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Pictures } from "../../api/types";
import { useView } from "../../bench/Bench";
import { useSteady } from "../../bench/steady";
import { say } from "../../texts/say";
import { type Look, nameOf, pictureOf } from "./looks";

export type Point = { x: number; y: number };
type SplitProps = {
  pictures: Pictures;
  left: Look;
  right: Look;
  /** Where the line stands, 0 to 1 of the print's width. */
  at: number;
  onAt: (at: number) => void;
  point: Point | null;
  onPoint: (point: Point) => void;
  w: number;
  h: number;
  grounds: Record<Look, string>;
  isMirrored: boolean;
  hatch: string | null;
};

const STEP = 0.02;
const GLASS_PX = 54;
const ENLARGES = 6;

/** Two looks of one print with a line between them that can be moved, and a glass over one point. */
export function Split({
  pictures,
  left,
  right,
  at,
  onAt,
  point,
  onPoint,
  w,
  h,
  grounds,
  isMirrored,
  hatch,
}: SplitProps) {
  const view = useView();
  const isHeld = useRef(false);
  const shownLeft = useSteady(pictureOf(pictures, left));
  const shownRight = useSteady(pictureOf(pictures, right));
  const box = { x: view.x(0), y: view.y(0), width: w * view.scale, height: h * view.scale };
  const pad = 8 * view.scale;
  const line = box.x + at * box.width;
  const share = (event: PointerEvent<SVGElement>): Point => {
    const svg = event.currentTarget.ownerSVGElement ?? event.currentTarget;
    const edge = svg.getBoundingClientRect();
    return {
      x: Math.min(1, Math.max(0, (event.clientX - edge.left - box.x) / box.width)),
      y: Math.min(1, Math.max(0, (event.clientY - edge.top - box.y) / box.height)),
    };
  };
  const keys = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    onAt(Math.min(1, Math.max(0, at + by)));
  };
  const half = (side: "left" | "right", look: Look, href: string) => (
    <g clipPath={`url(#half-${side})`}>
      <rect
        x={box.x - pad}
        y={box.y - pad}
        width={box.width + 2 * pad}
        height={box.height + 2 * pad}
        fill={grounds[look]}
      />
      <image href={href} {...box} preserveAspectRatio="none" />
    </g>
  );
  return (
    <>
      <defs>
        <clipPath id="half-left">
          <rect x={box.x - pad} y={box.y - pad} width={Math.max(0, line - box.x + pad)} height={box.height + 2 * pad} />
        </clipPath>
        <clipPath id="half-right">
          <rect
            x={line}
            y={box.y - pad}
            width={Math.max(0, box.x + box.width + pad - line)}
            height={box.height + 2 * pad}
          />
        </clipPath>
      </defs>
      {half("left", left, shownLeft)}
      {half("right", right, shownRight)}
      {hatch && (
        <>
          <mask id="hatched">
            <image href={hatch} {...box} preserveAspectRatio="none" />
          </mask>
          <rect {...box} fill="url(#hatch-over)" mask="url(#hatched)" opacity={0.85} />
        </>
      )}
      <rect
        x={box.x - pad}
        y={box.y - pad}
        width={box.width + 2 * pad}
        height={box.height + 2 * pad}
        fill="transparent"
        stroke="var(--hair2)"
        style={{ cursor: "crosshair" }}
        onPointerMove={(e) => onPoint(share(e))}
        onPointerDown={(e) => onPoint(share(e))}
      />
      {point && (
        <Glass
          point={point}
          onPoint={onPoint}
          line={line}
          box={box}
          left={{ href: shownLeft, ground: grounds[left] }}
          right={{ href: shownRight, ground: grounds[right] }}
          flips={{ left: left === "carrier" && isMirrored, right: right === "carrier" && isMirrored }}
        />
      )}
      <g
        role="slider"
        tabIndex={0}
        aria-label={say("Line between the two looks")}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(at * 100)}
        aria-valuetext={say("{left} left of {at} %, {right} right of it", {
          left: nameOf(left),
          at: Math.round(at * 100),
          right: nameOf(right),
        })}
        onKeyDown={keys}
        onPointerDown={(e) => {
          isHeld.current = true;
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => isHeld.current && onAt(share(e).x)}
        onPointerUp={() => {
          isHeld.current = false;
        }}
        style={{ cursor: "ew-resize", touchAction: "none" }}
        className="divider"
      >
        <rect x={line - 14} y={box.y - pad} width={28} height={box.height + 2 * pad} fill="transparent" />
        <path d={`M${line} ${box.y - pad}V${box.y + box.height + pad}`} stroke="var(--act)" strokeWidth={2.5} />
        <rect x={line - 11} y={box.y + box.height + pad - 12} width={22} height={24} rx={6} fill="var(--act)" />
        <path
          d={`M${line - 3} ${box.y + box.height + pad - 5}l-4 5l4 5M${line + 3} ${box.y + box.height + pad - 5}l4 5l-4 5`}
          stroke="var(--on-act)"
          strokeWidth={2}
          fill="none"
        />
      </g>
    </>
  );
}

type Half = { href: string; ground: string };
type GlassProps = {
  point: Point;
  onPoint: (point: Point) => void;
  line: number;
  box: { x: number; y: number; width: number; height: number };
  left: Half;
  right: Half;
  flips: { left: boolean; right: boolean };
};

/** The point enlarged: its left half in one look, its right half in the other; arrow keys move it. */
function Glass({ point, onPoint, box, left, right, flips }: GlassProps) {
  const x = box.x + point.x * box.width;
  const y = box.y + point.y * box.height;
  const keys = (event: KeyboardEvent) => {
    const far = event.shiftKey ? 10 : 1;
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const move = (v: number, d: number, size: number) => Math.min(1, Math.max(0, v + (d * far) / size));
    onPoint({ x: move(point.x, by[0] ?? 0, box.width), y: move(point.y, by[1] ?? 0, box.height) });
  };
  // The carrier's picture lies mirrored: the same point of the print is found from its other edge.
  const enlarged = (flipped: boolean) => {
    const px = flipped ? 1 - point.x : point.x;
    return {
      x: x - px * box.width * ENLARGES,
      y: y - point.y * box.height * ENLARGES,
      width: box.width * ENLARGES,
      height: box.height * ENLARGES,
    };
  };
  const half = (side: "left" | "right", is: Half, flipped: boolean) => (
    <g clipPath={`url(#glass-${side})`}>
      <rect x={x - GLASS_PX} y={y - GLASS_PX} width={2 * GLASS_PX} height={2 * GLASS_PX} fill={is.ground} />
      <image
        href={is.href}
        {...enlarged(flipped)}
        preserveAspectRatio="none"
        transform={flipped ? `translate(${2 * x} 0) scale(-1 1)` : undefined}
      />
    </g>
  );
  return (
    <g pointerEvents="none">
      <defs>
        <clipPath id="glass-left">
          <path d={`M${x} ${y - GLASS_PX}A${GLASS_PX} ${GLASS_PX} 0 0 0 ${x} ${y + GLASS_PX}Z`} />
        </clipPath>
        <clipPath id="glass-right">
          <path d={`M${x} ${y - GLASS_PX}A${GLASS_PX} ${GLASS_PX} 0 0 1 ${x} ${y + GLASS_PX}Z`} />
        </clipPath>
      </defs>
      {half("left", left, flips.left)}
      {half("right", right, flips.right)}
      <g
        role="slider"
        tabIndex={0}
        aria-label={say("Glass over the print")}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(point.x * 100)}
        aria-valuetext={say("{x} % across, {y} % down", { x: Math.round(point.x * 100), y: Math.round(point.y * 100) })}
        onKeyDown={keys}
        className="divider"
      >
        <circle cx={x} cy={y} r={GLASS_PX} fill="none" stroke="var(--ink)" strokeWidth={2} />
        <circle cx={x} cy={y} r={GLASS_PX + 2} fill="none" stroke="var(--raise)" strokeWidth={2} />
      </g>
      <path
        d={`M${x - 7} ${y}h5M${x + 2} ${y}h5M${x} ${y - 7}v5M${x} ${y + 2}v5`}
        stroke="#fff"
        strokeWidth={3}
        strokeLinecap="round"
      />
      <path d={`M${x - 7} ${y}h5M${x + 2} ${y}h5M${x} ${y - 7}v5M${x} ${y + 2}v5`} stroke="#111" strokeWidth={1.4} />
    </g>
  );
}
