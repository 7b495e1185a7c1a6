import type { Stage } from "../api/types";
import { useUnits } from "../settings/settings";
import { say } from "../texts/say";

export function StageTabs({
  stages,
  chosen,
  onChoose,
}: {
  stages: Stage[];
  chosen: number;
  onChoose: (i: number) => void;
}) {
  const units = useUnits();
  return (
    <div role="tablist" aria-label={say("Stages")} className="flex flex-wrap gap-2">
      {stages.map((s, i) => (
        <button
          key={s.id}
          type="button"
          role="tab"
          aria-selected={i === chosen}
          onClick={() => onChoose(i)}
          onKeyDown={(e) => {
            const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
            if (!step) return;
            e.preventDefault();
            const next = (i + step + stages.length) % stages.length;
            onChoose(next);
            (e.currentTarget.parentElement?.children[next] as HTMLElement | undefined)?.focus();
          }}
          tabIndex={i === chosen ? 0 : -1}
          className={`rounded-lg border px-3 py-1 text-left leading-tight ${i === chosen ? "border-act bg-act text-on-act" : "border-hair2 bg-raise"}`}
        >
          <span className="block font-semibold">
            {i + 1} {s.name}
          </span>
          <span className="num block text-sm">
            {[
              s.missing?.length ? say("a value is missing") : s.temperature_c ? units.heat(s.temperature_c) : "",
              s.time_s ? duration(s.time_s) : s.missing?.length ? "" : say("by hand"),
            ]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </button>
      ))}
    </div>
  );
}

export function duration(seconds: number): string {
  return seconds < 60
    ? `${seconds} s`
    : `${Math.floor(seconds / 60)}:${String(Math.round(seconds % 60)).padStart(2, "0")} min`;
}
