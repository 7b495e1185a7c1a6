import type { Reading } from "../api/types";
import { useUnits } from "../settings/settings";
import { say } from "../texts/say";
import { worded } from "../texts/words";
import { useMoney } from "../ui/money";

/** The row along the bottom, always visible: the figure, the figure before, and what it counts. */
export function Readings({ readings, before }: { readings: Reading[]; before: Map<string, Reading> }) {
  if (!readings.length) {
    return (
      <footer className="border-t border-hair bg-panel px-5 py-3 text-soft">
        {say("Readings appear here as soon as there is an artwork: resolution, ink, film, cost, minutes.")}
      </footer>
    );
  }
  return (
    <section aria-label={say("Readings")} className="flex shrink-0 overflow-x-auto border-t border-hair bg-panel">
      {readings.map((r) => (
        <Figure key={r.key} reading={r} was={before.get(r.key)} />
      ))}
    </section>
  );
}

function Figure({ reading: r, was }: { reading: Reading; was: Reading | undefined }) {
  const { unit: ofMoney } = useMoney();
  const units = useUnits();
  const said = (v: Reading) => {
    const [value, unit] = units.figure(v.value, v.unit);
    return { figure: value.toFixed(v.decimals), unit: ofMoney(unit) };
  };
  const now = said(r);
  const then = was && said(was);
  const moved = then !== undefined && then.figure !== now.figure;
  return (
    <div className="min-w-[118px] flex-1 border-r border-hair px-3 py-1.5 leading-snug last:border-r-0">
      <div className="flex items-baseline justify-between gap-1 whitespace-nowrap text-sm text-soft">
        <span className="font-semibold text-ink">{r.label}</span>
        <span className="truncate">{worded(r.scope)}</span>
      </div>
      <div
        className={`num whitespace-nowrap text-[19px] font-semibold ${r.is_over ? "text-need" : ""}`}
        data-reading={r.key}
      >
        {r.quality === "preview" && "~"}
        {now.figure} <span className="text-sm font-normal">{now.unit}</span>
      </div>
      {/* While something moves, the figure before takes the note's line: there it is never cut off. */}
      <div className="truncate text-sm text-soft" title={r.note}>
        {r.is_over && <span className="font-semibold text-need">{say("over ·")} </span>}
        {moved && then ? (
          <span className="num">
            {say("was {figure}", { figure: then.unit === now.unit ? then.figure : `${then.figure} ${then.unit}` })}
          </span>
        ) : (
          r.note
        )}
      </div>
    </div>
  );
}
