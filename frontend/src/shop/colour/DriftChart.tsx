import type { Measured } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { say } from "../../texts/say";
import { day } from "./useColour";

const HIGH = 230;
const LEFT = 46;
const RIGHT = 120;

type Props = {
  measurements: Measured[];
  limit: number;
  shown: string | null;
  onShow: (id: string) => void;
  version: number;
};

/** How far off over the weeks: against the profile as bars, against the last correction as the line with the limit. */
export function DriftChart({ measurements, limit, shown, onShow, version }: Props) {
  const { ref, width } = useSize();
  const times = measurements.map((m) => new Date(m.at).getTime());
  const first = Math.min(...times);
  const span = Math.max(86_400_000 * 7, Math.max(...times) - first);
  const top = Math.max(limit * 1.5, ...measurements.map((m) => m.mean)) * 1.08;
  const x = (at: string) =>
    LEFT + 14 + ((new Date(at).getTime() - first) / span) * Math.max(1, width - LEFT - RIGHT - 28);
  const y = (v: number) => HIGH - 32 - (v / top) * (HIGH - 48);
  const since = measurements.filter((m) => m.condition_version === version);
  const ticks = Array.from({ length: Math.floor(top) + 1 }, (_, i) => i);
  // Dates that would run into the next one are left to the mark's own name; the newest is always said.
  let next = Number.POSITIVE_INFINITY;
  const dated = [...measurements].reverse().filter((m) => {
    if (next - x(m.at) < 62) return false;
    next = x(m.at);
    return true;
  });
  return (
    <section aria-label={say("Over the weeks")} className="mt-4">
      <h2 className="font-semibold">{say("Over the weeks, in mean ΔE")}</h2>
      <div ref={ref} className="h-[230px]">
        {width > 0 && (
          // biome-ignore lint/a11y/useSemanticElements: a drawing cannot be a fieldset
          <svg width={width} height={HIGH} role="group" aria-label={say("Measurements over time")}>
            {ticks.map((v) => (
              <g key={v}>
                <path d={`M${LEFT} ${y(v)}H${width - RIGHT}`} stroke="var(--hair)" />
                <text x={LEFT - 8} y={y(v) + 5} textAnchor="end" fontSize={14} fill="var(--soft)" className="num">
                  {v}
                </text>
              </g>
            ))}
            <path
              d={`M${LEFT} ${y(limit)}H${width - RIGHT}`}
              stroke="var(--need)"
              strokeWidth={2}
              strokeDasharray="7 5"
            />
            <text x={width - RIGHT + 6} y={y(limit) + 5} fontSize={14} fill="var(--need)">
              {say("limit of drift")}
            </text>
            {since.length > 1 && (
              <path
                d={`M${since.map((m) => `${x(m.at)} ${y(m.drift ?? 0)}`).join("L")}`}
                fill="none"
                stroke="var(--act)"
                strokeWidth={3}
              />
            )}
            {measurements.map((m) => (
              // biome-ignore lint/a11y/useSemanticElements: a mark in a drawing cannot be a button element
              <g
                key={m.id}
                role="button"
                tabIndex={0}
                aria-pressed={m.id === shown}
                aria-label={
                  m.drift == null
                    ? say("{at}: mean {mean} off its profile", { at: day(m.at), mean: m.mean.toFixed(1) })
                    : say("{at}: mean {mean} off its profile, wandered {drift}", {
                        at: day(m.at),
                        mean: m.mean.toFixed(1),
                        drift: m.drift.toFixed(1),
                      })
                }
                onClick={() => onShow(m.id)}
                onKeyDown={(e) => {
                  if (e.key !== "Enter" && e.key !== " ") return;
                  e.preventDefault();
                  onShow(m.id);
                }}
                style={{ cursor: "pointer" }}
                className="divider"
              >
                <rect x={x(m.at) - 22} y={0} width={44} height={HIGH - 26} fill="transparent" />
                {m.id === shown && (
                  <rect x={x(m.at) - 14} y={8} width={28} height={HIGH - 38} fill="var(--act-soft)" rx={5} />
                )}
                <rect
                  x={x(m.at) - 5}
                  y={y(m.mean)}
                  width={10}
                  height={Math.max(1, y(0) - y(m.mean))}
                  fill={m.condition_version === version ? "var(--hair2)" : "none"}
                  stroke="var(--hair2)"
                  strokeWidth={1.5}
                />
                {m.condition_version === version && (
                  <circle
                    cx={x(m.at)}
                    cy={y(m.drift ?? 0)}
                    r={5}
                    fill="var(--panel)"
                    stroke="var(--act)"
                    strokeWidth={2.5}
                  />
                )}
              </g>
            ))}
            {dated.map((m) => (
              <text
                key={m.id}
                x={x(m.at)}
                y={HIGH - 10}
                textAnchor="middle"
                fontSize={14}
                fill="var(--soft)"
                className="num"
              >
                {day(m.at)}
              </text>
            ))}
          </svg>
        )}
      </div>
      <p className="flex flex-wrap gap-x-6 text-sm text-soft">
        <span>{say("▮ off its profile")}</span>
        <span>{say("▯ before the correction in force")}</span>
        <span className="text-act">{say("○ wandered since the correction")}</span>
      </p>
    </section>
  );
}
