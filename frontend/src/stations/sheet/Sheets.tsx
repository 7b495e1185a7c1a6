import type { CutView, RunLayout } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { useSteady } from "../../bench/steady";
import { say, sayMany } from "../../texts/say";
import { several } from "../../ui/several";
import { PART_SAID, Prints } from "./Prints";
import { UNDER_PX, Under } from "./Under";

type SheetsProps = {
  layout: RunLayout;
  hrefs: string[];
  names: string[];
  /** Colour of the garment that is printed itself; empty: paper. */
  cloth: string;
  mirrored: boolean;
  said: string;
  label: string;
  lines?: CutView[] | undefined;
};

const GAP = 26;
const RULER = 24;
const SHOWN = 12;

/** The run on sheets seen from above, or on garments over the printer's platen: to scale, in the order they leave it. */
export function Sheets(props: SheetsProps) {
  const { layout, hrefs, cloth, said } = props;
  return cloth ? <Garments layout={layout} href={hrefs[0] ?? ""} cloth={cloth} said={said} /> : <Paper {...props} />;
}

function Paper({ layout, hrefs, names, mirrored, said, label, lines }: SheetsProps) {
  const { ref, width, height } = useSize();
  const [wide, long] = [layout.media_um / 1000, (layout.sheet_um ?? 0) / 1000];
  const count = layout.cut_lengths_um.length;
  const shown = Math.min(count, SHOWN);
  const { scale, across } = fit(shown, long, wide, width - 48, height - UNDER_PX);
  const margin = ((layout.media_um - layout.printable_um) / 2000) * scale;
  return (
    <div ref={ref} className="min-h-0 grow overflow-auto">
      {width > 0 && (
        <svg
          width={width}
          height={Math.ceil(shown / across) * (wide * scale + RULER + 14) + 10}
          role="img"
          aria-label={
            mirrored
              ? say("The run: {prints} on {sheets}, mirrored", {
                  prints: several(layout.places.length, "print"),
                  sheets: several(count, "sheet"),
                })
              : say("The run: {prints} on {sheets}, not mirrored", {
                  prints: several(layout.places.length, "print"),
                  sheets: several(count, "sheet"),
                })
          }
        >
          <defs>
            <pattern id="margin-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V6" stroke="#5d6b71" strokeWidth="1.5" />
            </pattern>
          </defs>
          {Array.from({ length: shown }, (_, i) => {
            const x = 24 + (i % across) * (long * scale + GAP);
            const y = 10 + RULER + Math.floor(i / across) * (wide * scale + RULER + 14);
            return (
              <g key={i}>
                <rect x={x} y={y} width={long * scale} height={wide * scale} fill="#f4f2ec" stroke="#5d6b71" />
                {margin > 0.5 && (
                  <>
                    <rect x={x} y={y} width={long * scale} height={margin} fill="url(#margin-hatch)" />
                    <rect
                      x={x}
                      y={y + wide * scale - margin}
                      width={long * scale}
                      height={margin}
                      fill="url(#margin-hatch)"
                    />
                  </>
                )}
                <Prints
                  layout={layout}
                  cut={i + 1}
                  hrefs={hrefs}
                  names={names}
                  x={x}
                  y={y}
                  scale={scale}
                  lines={lines}
                />
                <text x={x + 4} y={y - 7} fontSize={14} fill="var(--ink)" className="num">
                  {say("sheet {i}", { i: i + 1 })}
                </text>
                {i === 0 && (
                  <path d={`M${x - 4} ${y + 12}h-16m6 -6l-6 6l6 6`} fill="none" stroke="var(--act)" strokeWidth={2.5} />
                )}
              </g>
            );
          })}
        </svg>
      )}
      <Under mirrored={mirrored} said={said}>
        <p>
          {[
            count > shown
              ? say("The arrow shows the edge that goes in first; {more} more like these.", { more: count - shown })
              : say("The arrow shows the edge that goes in first."),
            layout.tiles?.length
              ? PART_SAID
              : say("Around each print, cut away later: “{label}”, its number, the fold's ticks.", { label }),
          ].join(" ")}
        </p>
      </Under>
    </div>
  );
}

type GarmentsProps = { layout: RunLayout; href: string; cloth: string; said: string };

/** Garments over the printer's platen, one after the other: upright, as they are worn. */
function Garments({ layout, href, cloth, said }: GarmentsProps) {
  const { ref, width, height } = useSize();
  const steady = useSteady(href);
  const [wide, long] = [layout.media_um / 1000, (layout.sheet_um ?? 0) / 1000];
  const count = layout.cut_lengths_um.length;
  const shown = Math.min(count, SHOWN);
  const { scale, across } = fit(shown, wide, long, width - 48, height - UNDER_PX);
  const size = layout.sorts[0];
  return (
    <div ref={ref} className="min-h-0 grow overflow-auto">
      {width > 0 && size && (
        <svg
          width={width}
          height={Math.ceil(shown / across) * (long * scale + RULER + 14) + 10}
          role="img"
          aria-label={sayMany(count, "{count} garment", "{count} garments, printed one after the other")}
        >
          {layout.places.slice(0, shown).map((p, i) => {
            const x = 24 + (i % across) * (wide * scale + GAP);
            const y = 10 + RULER + Math.floor(i / across) * (long * scale + RULER + 14);
            const [w, h] = [(size.width_um / 1000) * scale, (size.height_um / 1000) * scale];
            const px = x + (p.x_um / 1000) * scale;
            const py = y + long * scale - (p.y_um / 1000) * scale - h;
            return (
              <g key={p.number}>
                <rect x={x} y={y} width={wide * scale} height={long * scale} rx={14} fill={cloth} stroke="#5d6b71" />
                <image href={steady} x={px} y={py} width={w} height={h} preserveAspectRatio="none" />
                <rect x={px} y={py} width={w} height={h} fill="none" stroke="#7fd0da" strokeDasharray="3 3" />
                <text x={x + 4} y={y - 7} fontSize={14} fill="var(--ink)" className="num">
                  {say("garment {i}", { i: i + 1 })}
                </text>
              </g>
            );
          })}
        </svg>
      )}
      <Under
        mirrored={false}
        said={[
          said,
          count > shown
            ? say("The collar lies at the platen's back edge; {more} more like these.", { more: count - shown })
            : say("The collar lies at the platen's back edge."),
        ].join(" ")}
      />
    </div>
  );
}

/** As many side by side as make them largest. */
function fit(count: number, long: number, wide: number, width: number, height: number) {
  let best = { scale: 0.02, across: 1 };
  for (let across = 1; across <= count; across++) {
    const rows = Math.ceil(count / across);
    const scale = Math.min((width - GAP * (across - 1)) / (across * long), (height / rows - RULER - 14) / wide);
    if (scale > best.scale) best = { scale, across };
  }
  return best;
}
