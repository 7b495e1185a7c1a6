import { say } from "../texts/say";
import { useView } from "./Bench";

/** The finding that says a picture has holes of its own. */
export const OWN_HOLES = "own-holes";
export const HOLES_COLOUR = "#d24bd6";

type Box = { x_mm: number; y_mm: number; width_mm: number; height_mm: number };

/** Holes that the picture brought along, marked where they are. */
export function OwnHoles({ href, box }: { href: string; box: Box }) {
  const view = useView();
  const at = {
    x: view.x(box.x_mm),
    y: view.y(box.y_mm),
    width: box.width_mm * view.scale,
    height: box.height_mm * view.scale,
  };
  return (
    <>
      <mask id="own-holes">
        <image href={href} {...at} preserveAspectRatio="none" />
      </mask>
      <rect {...at} fill={HOLES_COLOUR} mask="url(#own-holes)" />
    </>
  );
}

type PictureProps = { cloth: string; holes: string; wide: number; high: number };

/** The print with its own holes marked, for whoever looks at a pressed piece. */
export function HolesPicture({ cloth, holes, wide, high }: PictureProps) {
  const whole = { width: wide, height: high, preserveAspectRatio: "none" };
  return (
    <figure className="mt-3 flex items-end gap-4">
      <svg
        viewBox={`0 0 ${wide} ${high}`}
        className="h-56 max-w-full"
        role="img"
        aria-label={say("The print, its own holes marked")}
      >
        <image href={cloth} {...whole} />
        <mask id="holes-of-print">
          <image href={holes} {...whole} />
        </mask>
        <rect width={wide} height={high} fill={HOLES_COLOUR} mask="url(#holes-of-print)" />
      </svg>
      <figcaption className="max-w-xs text-soft">
        {say("Marked: holes that came with the picture. What is open anywhere else did not come from it.")}
      </figcaption>
    </figure>
  );
}
