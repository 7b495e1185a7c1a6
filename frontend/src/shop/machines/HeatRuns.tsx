import type { PressHeat } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";

const HIGH = 300;
const LEFT = 64;

/** Both runs of a press: readings as marks, its model as the line through them. */
export function HeatRuns({ heat }: { heat: Pick<PressHeat, "name" | "curves" | "readings"> }) {
  const units = useUnits();
  const { ref, width } = useSize();
  const points = [
    ...Object.values(heat.curves).flat(),
    ...heat.readings.map((r) => [r.minute, r.celsius] as [number, number]),
  ];
  const last = Math.max(1, ...points.map(([m]) => m ?? 0));
  const top = Math.max(100, ...points.map(([, c]) => c ?? 0)) + 10;
  const x = (m: number) => LEFT + (m / last) * (width - LEFT - 110);
  const y = (c: number) => HIGH - 34 - (c / top) * (HIGH - 50);
  const step = [1, 2, 5, 10, 20, 60].find((s) => (s / last) * (width - LEFT) > 60) ?? 240;
  return (
    <div ref={ref} className="mt-3 h-[300px] shrink-0">
      {width > 0 && (
        <svg
          width={width}
          height={HIGH}
          role="img"
          aria-label={say("{name}: heat over {minutes} minutes, readings and fitted curves", {
            name: heat.name,
            minutes: Math.round(last),
          })}
        >
          {[0, 50, 100, 150, 200]
            .filter((c) => c <= top)
            .map((c) => (
              <g key={c}>
                <path d={`M${LEFT} ${y(c)}H${width - 100}`} stroke="var(--hair)" />
                <text x={LEFT - 8} y={y(c) + 5} textAnchor="end" fontSize={14} fill="var(--soft)" className="num">
                  {units.heat(c)}
                </text>
              </g>
            ))}
          {Array.from({ length: Math.floor(last / step) + 1 }, (_, i) => (
            <text
              key={i}
              x={x(i * step)}
              y={HIGH - 12}
              textAnchor="middle"
              fontSize={14}
              fill="var(--soft)"
              className="num"
            >
              {i * step}
              {i === 0 ? say(" min") : ""}
            </text>
          ))}
          {Object.entries(heat.curves).map(([run, curve]) => {
            const end = curve.at(-1) as [number, number] | undefined;
            return (
              <g key={run}>
                <path
                  d={`M${curve.map(([m, c]) => `${x(m as number).toFixed(1)} ${y(c as number).toFixed(1)}`).join("L")}`}
                  fill="none"
                  stroke={run === "cooling" ? "var(--act)" : "var(--heat)"}
                  strokeWidth={3}
                  strokeDasharray={run === "cooling" ? "9 5" : undefined}
                />
                {end && (
                  <text x={x(end[0]) + 8} y={y(end[1]) + 5} fontSize={15} fontWeight={650} fill="var(--ink)">
                    {run}
                  </text>
                )}
              </g>
            );
          })}
          {heat.readings.map((r) =>
            r.run === "heating" ? (
              <circle
                key={`${r.run}${r.minute}`}
                cx={x(r.minute)}
                cy={y(r.celsius)}
                r={4}
                fill="var(--panel)"
                stroke="var(--ink)"
                strokeWidth={1.6}
              />
            ) : (
              <rect
                key={`${r.run}${r.minute}`}
                x={x(r.minute) - 4}
                y={y(r.celsius) - 4}
                width={8}
                height={8}
                fill="var(--panel)"
                stroke="var(--ink)"
                strokeWidth={1.6}
              />
            ),
          )}
        </svg>
      )}
    </div>
  );
}
