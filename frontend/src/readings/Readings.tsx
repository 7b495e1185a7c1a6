import type { Reading } from "../api/types";
import { useMoney } from "../ui/money";

/** The row along the bottom, always visible: the figure, the figure before, and what it counts. */
export function Readings({ readings, before }: { readings: Reading[]; before: Map<string, Reading> }) {
  if (!readings.length) {
    return (
      <footer className="border-t border-hair bg-panel px-5 py-3 text-soft">
        Readings appear here as soon as there is an artwork: resolution, ink, film, cost, minutes.
      </footer>
    );
  }
  return (
    <section aria-label="Readings" className="flex shrink-0 overflow-x-auto border-t border-hair bg-panel">
      {readings.map((r) => (
        <Figure key={r.key} reading={r} was={before.get(r.key)} />
      ))}
    </section>
  );
}

function Figure({ reading: r, was }: { reading: Reading; was: Reading | undefined }) {
  const { unit } = useMoney();
  const figure = (v: Reading) => `${v.quality === "preview" ? "~" : ""}${v.value.toFixed(v.decimals)}`;
  const moved = was !== undefined && was.value.toFixed(was.decimals) !== r.value.toFixed(r.decimals);
  return (
    <div className="min-w-[118px] flex-1 border-r border-hair px-3 py-1.5 leading-snug last:border-r-0">
      <div className="flex items-baseline justify-between gap-1 whitespace-nowrap text-sm text-soft">
        <span className="font-semibold text-ink">{r.label}</span>
        <span className="truncate">{r.scope}</span>
      </div>
      <div
        className={`num whitespace-nowrap text-[19px] font-semibold ${r.is_over ? "text-need" : ""}`}
        data-reading={r.key}
      >
        {figure(r)} <span className="text-sm font-normal">{unit(r.unit)}</span>
      </div>
      {/* While something moves, the figure before takes the note's line: there it is never cut off. */}
      <div className="truncate text-sm text-soft" title={r.note}>
        {r.is_over && <span className="font-semibold text-need">over · </span>}
        {moved && was ? (
          <span className="num">{`was ${was.value.toFixed(was.decimals)}${was.unit === r.unit ? "" : ` ${unit(was.unit)}`}`}</span>
        ) : (
          r.note
        )}
      </div>
    </div>
  );
}
