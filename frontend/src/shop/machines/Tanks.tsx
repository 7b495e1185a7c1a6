import { useState } from "react";
import type { Stands } from "../../api/types";
import { locale, say, sayMany } from "../../texts/say";
import { INKS } from "../../ui/inks";
import { several } from "../../ui/several";

const TALL = 180;
const WIDE = 74;
const APART = 112;
const SOON_DAYS = 7;

/** What each container holds, as it was read and after what waits; one chosen shows what it really took. */
export function Tanks({ supplies }: { supplies: Stands[] }) {
  const telling = [...supplies].sort((a, b) => off(b) - off(a))[0];
  const [chosen, setChosen] = useState("");
  const shown = supplies.find((s) => s.channel === chosen) ?? telling;
  return (
    <div className="flex flex-wrap gap-x-10 gap-y-4">
      <div>
        <h2 className="font-bold">{say("What it holds, and after the runs that wait")}</h2>
        <ul className="mt-2 flex flex-wrap">
          {supplies.map((s) => (
            <li key={s.channel} style={{ width: APART }}>
              <Tank stands={s} isChosen={s === shown} onChoose={() => setChosen(s.channel)} />
            </li>
          ))}
        </ul>
      </div>
      {shown && <Took stands={shown} />}
    </div>
  );
}

/** How far what it takes lies from what was expected. */
function off(s: Stands): number {
  return s.fit?.verdict === "corrected" ? Math.abs(s.fit.factor - 1) : s.fit ? -1 : -2;
}

function Tank({ stands: s, isChosen, onChoose }: { stands: Stands; isChosen: boolean; onChoose: () => void }) {
  const share = s.pct == null ? null : s.pct / 100;
  const after = share != null && s.holds && s.wanted ? Math.max(0, share - (s.wanted ?? 0) / s.holds) : share;
  const isLow = (s.left != null && (s.wanted ?? 0) > s.left) || (s.lasts && s.lasts[0] <= SOON_DAYS);
  const ink = INKS[s.channel] ?? { fill: "#8a949a", edge: "var(--ink)" };
  const amount =
    s.left != null
      ? `${Math.round(s.left).toLocaleString(locale())} ${s.unit}`
      : s.pct != null
        ? `${s.pct} %`
        : say("not read");
  return (
    <button type="button" aria-pressed={isChosen} onClick={onChoose} className="block text-center">
      <svg width={WIDE + 6} height={TALL + 6} aria-hidden="true" className="mx-auto">
        <defs>
          <pattern id="not-read" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <path d="M0 0V8" stroke="var(--hair2)" strokeWidth="2" />
          </pattern>
        </defs>
        <rect x="3" y="3" width={WIDE} height={TALL} rx="9" fill={share == null ? "url(#not-read)" : "var(--raise)"} />
        {share != null && after != null && (
          <>
            <rect
              x="4"
              y={3 + TALL * (1 - share)}
              width={WIDE - 2}
              height={TALL * share}
              fill={ink.fill}
              opacity="0.45"
            />
            <rect x="4" y={3 + TALL * (1 - after)} width={WIDE - 2} height={TALL * after} fill={ink.fill} />
            <path
              d={`M4 ${3 + TALL * (1 - after)}h${WIDE - 2}`}
              stroke={ink.edge}
              strokeDasharray="5 4"
              strokeWidth="1.5"
            />
          </>
        )}
        <rect
          x="3"
          y="3"
          width={WIDE}
          height={TALL}
          rx="9"
          fill="none"
          stroke={isChosen ? "var(--act)" : "var(--hair2)"}
          strokeWidth={isChosen ? 3 : 2}
        />
      </svg>
      <span className="block font-semibold">{s.name}</span>
      <span className={`num block text-sm ${isLow ? "text-need" : "text-soft"}`}>{amount}</span>
      <span className={`block text-sm ${isLow ? "text-need" : "text-soft"}`}>{s.lasts ? days(s.lasts) : ""}</span>
    </button>
  );
}

export function days([least, most]: [number, number] | number[]): string {
  const [a = 0, b = 0] = [least, most];
  if (b >= 365) return say("{a} days or more", { a });
  return a === b ? several(a, "day") : say("{a} to {b} days", { a, b });
}

const PLOT = 190;

/** Expected against read since the tank was filled, and what follows from all readings. */
function Took({ stands: s }: { stands: Stands }) {
  const points = s.points ?? [];
  const most = Math.max(1, ...points.flatMap((p) => [p.expected, p.read])) * 1.08;
  const x = (v: number) => 40 + (v / most) * (PLOT * 1.4);
  const y = (v: number) => 8 + (1 - v / most) * (PLOT - 30);
  const factor = s.fit?.verdict === "corrected" ? s.fit.factor : 1;
  const end = most / Math.max(1, factor);
  return (
    <div>
      <h2 className="font-bold">{say("What a print really took: {name}", { name: s.name.toLowerCase() })}</h2>
      <p className="text-soft">{learned(s)}</p>
      {points.length > 1 && (
        <svg
          width={PLOT * 1.4 + 60}
          height={PLOT}
          role="img"
          aria-label={say("{name}, expected against read: {learned}", { name: s.name, learned: learned(s) })}
        >
          <path d={`M${x(0)} ${y(most)}V${y(0)}H${x(most)}`} fill="none" stroke="var(--hair2)" />
          <path d={`M${x(0)} ${y(0)}L${x(most)} ${y(most)}`} stroke="var(--hair2)" strokeDasharray="5 4" />
          <path d={`M${x(0)} ${y(0)}L${x(end)} ${y(end * factor)}`} stroke="var(--act)" strokeWidth="2.5" />
          {points.map((p, i) => (
            <circle key={i} cx={x(p.expected)} cy={y(p.read)} r="4" fill="var(--act)" />
          ))}
          <text x={x(0) + 6} y={18} fontSize={14} fill="var(--soft)">
            {say("read, {unit}", { unit: s.unit })}
          </text>
          <text x={x(most)} y={PLOT - 4} fontSize={14} textAnchor="end" fill="var(--soft)">
            {say("expected, {unit}", { unit: s.unit })}
          </text>
        </svg>
      )}
      {s.said && <p className="mt-1 max-w-md border-l-4 border-need pl-2">{s.said}</p>}
      {s.store_ml != null && s.left != null && s.unit === "mL" && (
        <p className="mt-1 text-sm text-soft">
          {say("The store counts {all} mL in all: {inside} in the machine, {shelf} on the shelf.", {
            all: Math.round(s.store_ml),
            inside: Math.round(s.left),
            shelf: Math.max(0, Math.round(s.store_ml - s.left)),
          })}
        </p>
      )}
      {s.lot && <p className="text-sm text-soft">{say("Filled from lot {lot}.", { lot: s.lot })}</p>}
    </div>
  );
}

function learned(s: Stands): string {
  const fit = s.fit;
  if (!fit) return s.holds ? say("Nothing was read yet.") : say("Nobody said what it holds: see its values.");
  if (fit.verdict === "too few steps")
    return sayMany(
      fit.steps,
      "Its level fell by {count} step since readings began; from 5 on something is concluded.",
      "Its level fell by {count} steps since readings began; from 5 on something is concluded.",
    );
  if (fit.verdict === "readings do not fit")
    return say("Its readings do not fit what was printed: nothing is concluded.");
  const more = Math.round((fit.factor - 1) * 100);
  const sure = fit.error_pct != null ? ` (± ${Math.max(1, Math.round(fit.error_pct))} %)` : "";
  return more === 0
    ? say("It takes what its plates say{sure}.", { sure })
    : more > 0
      ? say("It takes {share} % more than its plates say{sure}: forecasts reckon with that.", { share: more, sure })
      : say("It takes {share} % less than its plates say{sure}: forecasts reckon with that.", { share: -more, sure });
}
