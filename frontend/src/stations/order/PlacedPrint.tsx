import { type PointerEvent, useRef } from "react";
import type { Garment } from "../../api/types";
import { useView } from "../../bench/Bench";
import { PrintPicture } from "../../bench/GarmentPicture";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";

const SNAP_MM = 4;
const NUDGE_UM = 1_000;

/** The print on the blank: dragged by hand, moved by arrows, snapping to the fold. */
export function PlacedPrint({ garment, href, jobLine }: { garment: Garment; href: string; jobLine: JobLine }) {
  const units = useUnits();
  const view = useView();
  const from = useRef<{ x: number; y: number; offset: number; below: number } | null>(null);
  const box = garment.box;
  if (!box) return null;
  const place = jobLine.document("place");
  const offset = place.offset_um ?? 0;
  const below = place.below_collar_um ?? 85_000;
  const least = garment.centre_y_mm == null ? 0 : -50_000;

  const moved = (e: PointerEvent) => {
    if (!from.current) return null;
    const x = from.current.offset / 1000 + (e.clientX - from.current.x) / view.scale;
    const y = from.current.below / 1000 + (e.clientY - from.current.y) / view.scale;
    return {
      offset_um: Math.abs(x) < SNAP_MM ? 0 : Math.round(x) * 1000,
      below_collar_um: Math.max(least, Math.round(y) * 1000),
    };
  };
  const arrows: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a movable thing inside a drawing has no HTML element of its own
    <g
      tabIndex={0}
      role="button"
      aria-label={say("Print, {y_mm} below the {origin}, {offset} off the middle. Arrows move it by 1 mm.", {
        y_mm: units.length(box.y_mm),
        origin: worded(garment.origin),
        offset: units.length(offset / 1000),
      })}
      className="cursor-move"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { x: e.clientX, y: e.clientY, offset, below };
      }}
      onPointerMove={(e) => {
        const to = moved(e);
        if (to) jobLine.move("place", to);
      }}
      onPointerUp={(e) => {
        const to = moved(e);
        const began = from.current;
        from.current = null;
        // Against where it was taken hold of: on the screen it stands where the hand is already.
        if (to && began && (to.offset_um !== began.offset || to.below_collar_um !== began.below))
          jobLine.done("place", to);
      }}
      onKeyDown={(e) => {
        const way = arrows[e.key];
        if (!way) return;
        e.preventDefault();
        e.stopPropagation();
        jobLine.done("place", {
          offset_um: offset + way[0] * NUDGE_UM,
          below_collar_um: Math.max(least, below + way[1] * NUDGE_UM),
        });
      }}
    >
      <PrintPicture garment={garment} href={href} />
      <rect
        x={view.x(box.x_mm)}
        y={view.y(box.y_mm)}
        width={box.width_mm * view.scale}
        height={box.height_mm * view.scale}
        fill="transparent"
        stroke="#7fd0da"
        strokeDasharray="3 4"
      />
    </g>
  );
}
