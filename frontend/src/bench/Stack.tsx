import type { Layer } from "../api/types";
import { say } from "../texts/say";
import { worded } from "../texts/words";

const FILL: Record<NonNullable<Layer["kind"]>, string> = {
  platen: "#5f686d",
  cover: "#cfc3a6",
  carrier: "#8fb9c3",
  blank: "#3a4048",
  pad: "#8b7359",
  tray: "#a9b1b5",
  powder: "#ece5d3",
  air: "none",
};

type StackProps = {
  layers: Layer[];
  hot: boolean;
  cloth: string;
  width: number;
  height: number;
  large?: boolean;
  hover?: boolean;
  /** Seen from below: every layer's underside, the lowest first. */
  below?: boolean;
};

const SKEW = 0.26;

function wordsOf(layer: Layer): string {
  const face = layer.printed_face ?? "none";
  return face === "none"
    ? layer.what
    : say("{what}: print {face}", { what: layer.what, face: worded(face).toUpperCase() });
}

/** What lies on what, top first: an exploded drawing; the face that carries the print is hatched and named. */
export function Stack({ layers: given, hot, cloth, width, height, large, hover, below }: StackProps) {
  const layers = below ? [...given].reverse() : given;
  const seen = below ? "down" : "up";
  const size = large ? 26 : 17;
  const small = large ? 20 : 14;
  // Room for the arrow of a print that looks up.
  const top0 = layers[0]?.printed_face === seen ? 24 : 8;
  const step = Math.min(large ? 118 : 84, (height - 12 - top0) / layers.length);
  // The words come first: a face that cannot be read is a spoiled piece.
  const words = Math.max(
    ...layers.map((l) => Math.max(wordsOf(l).length * size * 0.6, (l.note ?? "").length * small * 0.5)),
  );
  const slabWide = Math.max(70, Math.min(width * (large ? 0.42 : 0.48), 380, (width - words - 44) / (1 + SKEW)));
  const skew = slabWide * SKEW;
  const deep = Math.min(step * 0.52, skew * 0.42);
  const left = 16;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={
        below
          ? say("Stack, from below, lowest first: {layers}", { layers: layers.map(said).join("; ") })
          : say("Stack, top first: {layers}", { layers: layers.map(said).join("; ") })
      }
    >
      <defs>
        <pattern id="face" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="9" height="9" fill="#ffffff" />
          <path d="M0 0V9" stroke="#101416" strokeWidth="4" />
        </pattern>
      </defs>
      {layers.map((layer, i) => {
        const y = top0 + i * step;
        const thick =
          layer.kind === "platen" || layer.kind === "tray"
            ? step * 0.2
            : layer.kind === "pad"
              ? step * 0.16
              : step * 0.09;
        const isHot = hot && layer.kind === "platen" && i === (below ? layers.length - 1 : 0);
        const fill = isHot ? "#b2481c" : layer.kind === "blank" ? cloth : FILL[layer.kind ?? "cover"];
        const top = `M${left} ${y + deep}L${left + skew} ${y}H${left + skew + slabWide}L${left + slabWide} ${y + deep}Z`;
        const front = `M${left} ${y + deep}H${left + slabWide}v${thick}H${left}Z`;
        const side = `M${left + slabWide} ${y + deep}L${left + skew + slabWide} ${y}v${thick}L${left + slabWide} ${y + deep + thick}Z`;
        const face = layer.printed_face ?? "none";
        const isAir = layer.kind === "air";
        const lineX = left + skew + slabWide;
        return (
          <g key={`${layer.what}-${i}`} stroke={isAir ? "var(--heat)" : "#8d979c"} strokeWidth={1}>
            <path
              d={top}
              fill={face === seen ? "url(#face)" : isAir ? "none" : fill}
              strokeDasharray={isAir ? "5 5" : undefined}
            />
            {!isAir && <path d={front} fill={face !== "none" && face !== seen ? "url(#face)" : fill} />}
            {!isAir && <path d={side} fill={face !== "none" && face !== seen ? "url(#face)" : fill} opacity={0.85} />}
            {face !== "none" && (
              <FaceArrow
                x={left + slabWide * 0.3}
                y={face !== seen ? y + deep + thick + 2 : y - 1}
                down={face !== seen}
              />
            )}
            <path d={`M${lineX - 14} ${y + deep * 0.5}H${lineX + 14}`} stroke="var(--soft)" />
            <text
              x={lineX + 22}
              y={y + deep * 0.5 + 4}
              fontSize={face !== "none" ? size * 1.08 : size}
              fontWeight={700}
              fill="var(--ink)"
              stroke="none"
            >
              {wordsOf(layer)}
            </text>
            <text x={lineX + 22} y={y + deep * 0.5 + 6 + small} fontSize={small} fill="var(--soft)" stroke="none">
              {layer.note}
            </text>
          </g>
        );
      })}
      {hover && (
        <text x={left} y={height - 6} fontSize={small} fontWeight={700} fill="var(--heat)">
          {say("open: nothing touches")}
        </text>
      )}
    </svg>
  );
}

function FaceArrow({ x, y, down }: { x: number; y: number; down: boolean }) {
  return (
    <path
      d={down ? `M${x} ${y}v16m-7 -7l7 8l7 -8` : `M${x} ${y}v-16m-7 7l7 -8l7 8`}
      fill="none"
      stroke="var(--act)"
      strokeWidth={3.5}
    />
  );
}

function said(layer: Layer): string {
  const face =
    layer.printed_face && layer.printed_face !== "none"
      ? say(", print {printed_face}", { printed_face: worded(layer.printed_face) })
      : "";
  return `${layer.what}${face}${layer.note ? `, ${layer.note}` : ""}`;
}
