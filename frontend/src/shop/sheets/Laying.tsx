import { type PointerEvent, useMemo, useRef } from "react";
import type { SheetPiece, SheetView } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { angleOf, CORE, Core, fitRoll, LEAD, Leading, lying, Numbered, RULER, Torn } from "../../bench/roll";
import { useSteady } from "../../bench/steady";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { several } from "../../ui/several";
import type { Move, useMoving } from "./useMoving";

/** What a lot is called in the drawing. */
export const letterOf = (lot: number) => "ABCDEFGHIJKLMNOPQRSTUVWXYZ"[lot] ?? `${lot + 1}.`;

const LEGEND = 72;
const GAP = 26;
/** Hands that only touch a print do not move it. */
const MEANT_PX = 4;

type LayingProps = {
  sheet: SheetView;
  chosen: string | null;
  onChoose: (piece: string | null) => void;
  moving: ReturnType<typeof useMoving>;
  onMove: (to: Move) => void;
  canMove: boolean;
};

type At = { x: number; y: number };

/** The run from above, to scale, its feed to the left: every print can be taken hold of. */
export function Laying({ sheet, chosen, onChoose, moving, onMove, canMove }: LayingProps) {
  const units = useUnits();
  const { ref, width, height } = useSize();
  const { room } = sheet;
  const isRoll = !room.sheet_um;
  const plan = useMemo(
    () =>
      fitRoll(
        isRoll ? sheet.cut_lengths_um : sheet.cut_lengths_um.map((l) => l + GAP * 1000),
        room.media_um,
        width - 48 - (isRoll ? CORE + LEAD : 0),
        height - LEGEND,
      ),
    [sheet.cut_lengths_um, room.media_um, isRoll, width, height],
  );
  const { scale, rows } = plan;
  const mm = (um: number) => (um / 1000) * scale;
  const wide = mm(room.media_um);
  const rowHigh = wide + RULER + 14;
  const margin = mm((room.media_um - room.printable_um) / 2);
  const outside = mm((room.media_um - room.usable_um) / 2);
  const held = useRef<{ piece: SheetPiece; from: At; to: Move | null } | null>(null);
  const origin = new Map<number, At>();
  rows.forEach((row, r) => {
    let along = 0;
    for (const cut of row.cuts) {
      origin.set(cut + 1, { x: 24 + (isRoll ? LEAD : 0) + along, y: 10 + RULER + r * rowHigh });
      along += mm(sheet.cut_lengths_um[cut] ?? 0) + (isRoll ? 0 : GAP);
    }
  });

  const begin = (piece: SheetPiece) => (e: PointerEvent<SVGGElement>) => {
    onChoose(piece.id);
    if (!canMove) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    held.current = { piece, from: { x: e.clientX, y: e.clientY }, to: null };
  };
  const drag = (e: PointerEvent<SVGGElement>) => {
    const now = held.current;
    if (!now) return;
    const [dx, dy] = [e.clientX - now.from.x, e.clientY - now.from.y];
    if (!now.to && Math.hypot(dx, dy) < MEANT_PX) return;
    const was = origin.get(now.piece.cut) ?? { x: 0, y: 0 };
    const [px, py] = [was.x + mm(now.piece.y_um) + dx, was.y + mm(now.piece.x_um) + dy];
    // Over another length it goes there.
    const centre = { x: px + mm(now.piece.height_um) / 2, y: py + mm(now.piece.width_um) / 2 };
    const over = [...origin].find(
      ([cut, o]) =>
        centre.x >= o.x &&
        centre.x < o.x + mm(sheet.cut_lengths_um[cut - 1] ?? 0) &&
        centre.y >= o.y &&
        centre.y < o.y + wide,
    );
    const cut = over?.[0] ?? now.piece.cut;
    const o = origin.get(cut) ?? was;
    now.to = {
      piece: now.piece.id,
      cut,
      x_um: Math.round(((py - o.y) / scale) * 1000),
      y_um: Math.round(((px - o.x) / scale) * 1000),
      turned: now.piece.turned,
      half: now.piece.half,
      slant: now.piece.slant,
    };
    void moving.onTry(now.to);
  };
  const drop = () => {
    const to = held.current?.to;
    held.current = null;
    void moving.onTry(null);
    if (to) onMove(to);
  };
  const ghost = moving.shown;
  const lifted = ghost && sheet.pieces.find((p) => p.id === ghost.piece);
  return (
    <div ref={ref} className="min-h-0 grow overflow-auto">
      {width > 0 && rows.length > 0 && (
        <svg
          width={width}
          height={Math.max(height, rows.length * rowHigh + LEGEND)}
          role={rows.length ? "group" : "img"}
          aria-label={say("{pieces} as they lie", { pieces: several(sheet.pieces.length, "print") })}
        >
          <defs>
            <pattern id="not-used" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V6" stroke="#5d6b71" strokeWidth="1.5" />
            </pattern>
          </defs>
          {rows.map((row, r) => {
            const first = origin.get((row.cuts[0] ?? 0) + 1) ?? { x: 0, y: 0 };
            const last = origin.get((row.cuts.at(-1) ?? 0) + 1) ?? first;
            const end = last.x + mm(sheet.cut_lengths_um[row.cuts.at(-1) ?? 0] ?? 0);
            return (
              <g key={row.from}>
                {row.cuts.map((cut) => {
                  const at = origin.get(cut + 1) ?? first;
                  const long = mm(sheet.cut_lengths_um[cut] ?? 0);
                  return (
                    <g key={cut}>
                      <rect
                        x={at.x}
                        y={at.y}
                        width={long}
                        height={wide}
                        fill={isRoll ? "#8a9ca3" : "#f4f2ec"}
                        stroke="#5d6b71"
                      />
                      {margin > 0.5 &&
                        [at.y, at.y + wide - margin].map((y) => (
                          <rect key={y} x={at.x} y={y} width={long} height={margin} fill="url(#not-used)" />
                        ))}
                      {outside > margin + 1 &&
                        [at.y + outside, at.y + wide - outside].map((y) => (
                          <path key={y} d={`M${at.x} ${y}h${long}`} stroke="#5d6b71" strokeDasharray="2 4" />
                        ))}
                      {isRoll && (
                        <path
                          d={`M${at.x + long} ${at.y - 9}v${wide + 18}`}
                          stroke="var(--heat)"
                          strokeWidth={2}
                          strokeDasharray="7 4"
                        />
                      )}
                      <text x={at.x + 4} y={at.y - 9} fontSize={14} fill="var(--ink)" className="num">
                        {cut + 1} · {units.length((sheet.cut_lengths_um[cut] ?? 0) / 1000)}
                      </text>
                    </g>
                  );
                })}
                {isRoll &&
                  (r === 0 ? (
                    <Leading x={first.x} y={first.y} wide={wide} />
                  ) : (
                    <Torn x={first.x} y={first.y} wide={wide} />
                  ))}
                {isRoll &&
                  (r === rows.length - 1 ? (
                    <Core x={end} y={first.y} wide={wide} />
                  ) : (
                    <Torn x={end + 6} y={first.y} wide={wide} />
                  ))}
              </g>
            );
          })}
          {sheet.pieces.map((p) => {
            const o = origin.get(p.cut);
            return (
              o && (
                // biome-ignore lint/a11y/useSemanticElements: a print in a drawing
                <g
                  key={p.id}
                  role="button"
                  tabIndex={0}
                  aria-label={`${letterOf(p.lot)}${p.number} ${sheet.lots[p.lot]?.title}${p.pinned ? say(", pinned") : ""}`}
                  aria-pressed={chosen === p.id}
                  onFocus={() => onChoose(p.id)}
                  onPointerDown={begin(p)}
                  onPointerMove={drag}
                  onPointerUp={drop}
                  onPointerCancel={drop}
                  className="cursor-grab outline-none"
                  style={{ touchAction: "none" }}
                  opacity={lifted?.id === p.id ? 0.35 : 1}
                >
                  <Print
                    sheet={sheet}
                    piece={p}
                    x={o.x + mm(p.y_um)}
                    y={o.y + mm(p.x_um)}
                    scale={scale}
                    isChosen={chosen === p.id}
                  />
                </g>
              )
            );
          })}
          {ghost && lifted && (
            <g pointerEvents="none">
              <Ghost
                x={(origin.get(ghost.cut)?.x ?? 0) + mm(ghost.y_um)}
                y={(origin.get(ghost.cut)?.y ?? 0) + mm(ghost.x_um)}
                w={mm(lifted.height_um)}
                h={mm(lifted.width_um)}
                outline={outlineOf(lifted, scale)}
                refused={ghost.refused}
              />
            </g>
          )}
          <g transform={`translate(24 ${rows.length * rowHigh + 26})`} fontSize={14} fill="var(--soft)">
            <text fontWeight={650} fill="var(--ink)">
              {sheet.mirrored ? say("MIRRORED: it must read backwards here.") : say("Not mirrored: it reads as worn.")}
            </text>
            <text y={20}>
              {isRoll
                ? say("Feed runs to the left. Dashed = cut here. A print that is moved stays where it is put.")
                : say("Feed runs to the left. A print that is moved stays where it is put.")}
            </text>
          </g>
        </svg>
      )}
    </div>
  );
}

type PrintProps = { sheet: SheetView; piece: SheetPiece; x: number; y: number; scale: number; isChosen: boolean };

function Print({ sheet, piece, x, y, scale, isChosen }: PrintProps) {
  const href = useSteady(sheet.lots[piece.lot]?.picture ?? "");
  const [w, h] = [(piece.width_um / 1000) * scale, (piece.height_um / 1000) * scale];
  const label = (sheet.room.label_um / 1000) * scale;
  const lot = sheet.lots[piece.lot];
  const own: [number, number] = [((lot?.width_um ?? 0) / 1000) * scale, ((lot?.height_um ?? 0) / 1000) * scale];
  const at = lying(angleOf(piece, piece.slant), x, y, h, w, piece.slant ? own : undefined);
  const outline = outlineOf(piece, scale);
  // By its outline a print's corner may be another's: it is numbered in its middle.
  const edge = {
    stroke: isChosen ? "var(--act)" : "#d8e2e5",
    strokeWidth: isChosen ? 3 : 1,
    ...(isChosen ? {} : { strokeDasharray: "3 3" }),
  };
  return (
    <>
      {!outline && <rect x={x - label} y={y} width={h + label} height={w} fill="transparent" />}
      <g transform={at.turn}>
        <image href={href} width={at.width} height={at.height} preserveAspectRatio="none" />
      </g>
      {outline ? (
        <path d={outline} transform={`translate(${x} ${y})`} fill="transparent" {...edge} />
      ) : (
        <>
          <rect x={x - label * 0.75} y={y} width={Math.max(1.5, label * 0.4)} height={w * 0.55} fill="#1b2124" />
          <rect x={x} y={y} width={h} height={w} fill="none" {...edge} />
        </>
      )}
      {h > 24 && w > 20 && (
        <Numbered x={outline ? x + h / 2 - 16 : x} y={outline ? y + w / 2 - 14 : y}>
          {`${letterOf(piece.lot)}${piece.number}`}
        </Numbered>
      )}
      {piece.pinned && (
        <g transform={`translate(${x + h - 12} ${y + 4})`}>
          <circle cx={4} cy={4} r={5} fill="var(--act)" stroke="#ffffff" strokeWidth={1.5} />
          <path d="M4 9v8" stroke="#1b2124" strokeWidth={2} />
        </g>
      )}
    </>
  );
}

/** What a print and its label take, from the corner of its box; empty where it is the box. */
const outlineOf = (p: SheetPiece, scale: number) =>
  p.outline.length
    ? `M${p.outline.map((at) => `${((at[1] ?? 0) / 1000) * scale} ${((at[0] ?? 0) / 1000) * scale}`).join("L")}Z`
    : "";

type GhostProps = { x: number; y: number; w: number; h: number; outline: string; refused: string };

function Ghost({ x, y, w, h, outline, refused }: GhostProps) {
  const colour = refused ? "var(--stop)" : "var(--act)";
  const drawn = { fill: colour, fillOpacity: 0.18, stroke: colour, strokeWidth: 2.5 };
  return (
    <>
      {outline ? (
        <path d={outline} transform={`translate(${x} ${y})`} {...drawn} />
      ) : (
        <rect x={x} y={y} width={w} height={h} {...drawn} />
      )}
      {refused && (
        <text
          x={x + 6}
          y={y + h / 2 + 5}
          fontSize={15}
          fontWeight={700}
          fill={colour}
          stroke="var(--panel)"
          strokeWidth={4}
          paintOrder="stroke"
        >
          {refused}
        </text>
      )}
    </>
  );
}
