import type { PlatenLayout } from "../api/types";
import { useUnits } from "../settings/settings";
import { say } from "../texts/say";

type PlatenPictureProps = { platen: PlatenLayout; laid?: number; cloth: string };

const HIGH = 230;

/** The lower platen from above, to scale, with the things of one pressing on it. */
export function PlatenPicture({ platen, laid, cloth }: PlatenPictureProps) {
  const units = useUnits();
  const count = laid ?? platen.spots.length;
  const { width_mm: wide, height_mm: high, thing_width_mm: w, thing_height_mm: h } = platen;
  const line = wide / 130;
  return (
    <figure className="flex shrink-0 flex-col justify-center">
      <svg
        viewBox={`0 0 ${wide} ${high}`}
        width={(HIGH * wide) / high}
        height={HIGH}
        role="img"
        aria-label={say("{count} in one pressing on {wide} x {high}", {
          count,
          wide: units.length(wide),
          high: units.length(high),
        })}
      >
        <rect width={wide} height={high} rx={8} fill="var(--panel)" stroke="var(--hair2)" strokeWidth={line * 1.5} />
        {platen.spots.map((s, i) => (
          <rect
            key={`${s.x_mm} ${s.y_mm}`}
            x={s.x_mm}
            y={s.y_mm}
            width={w}
            height={h}
            rx={platen.is_round ? Math.min(w, h) / 2 : 3}
            fill={i < count ? cloth : "none"}
            stroke={i < count ? "var(--ink)" : "var(--hair2)"}
            strokeWidth={line}
            strokeDasharray={i < count ? undefined : `${4 * line} ${3 * line}`}
          />
        ))}
      </svg>
      <figcaption className="mt-1 text-center text-soft">
        <span className="num font-semibold text-ink">{count}</span> {say("in one pressing")}
      </figcaption>
    </figure>
  );
}
