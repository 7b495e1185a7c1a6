import { say } from "../texts/say";

const YARNS = 6;
const WIDE = 240;
const HIGH = 96;
const PITCH = WIDE / YARNS;
const CLOTH_TOP = 52;
const COLOUR = "#2e8fb8";
const LINE = "#8d949c";

type WaySectionProps = { cloth: string; lies: string; white: string; isHard?: boolean };

/** Where a method's colour ends up, as a section: in the yarn, on it as ink, as a coat, a film that grips, a sheet. */
export function WaySection({ cloth, lies, white, isHard = false }: WaySectionProps) {
  const yarns = Array.from({ length: YARNS }, (_, i) => (i + 0.5) * PITCH);
  const hasWhite = white !== "none";
  if (isHard) return <HardSection ground={cloth} lies={lies} hasWhite={hasWhite} />;
  return (
    <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className="w-full" role="img" aria-label={said(lies, hasWhite)}>
      <defs>
        <pattern id="way-white" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill="#ffffff" />
          <path d="M0 0V5" stroke="#9aa7ad" strokeWidth="1.4" />
        </pattern>
      </defs>
      {yarns.map((x) => (
        <ellipse
          key={`low${x}`}
          cx={x + PITCH / 2}
          cy={CLOTH_TOP + 38}
          rx={PITCH * 0.56}
          ry={20}
          fill={cloth}
          stroke={LINE}
        />
      ))}
      {yarns.map((x) => (
        <ellipse key={x} cx={x} cy={CLOTH_TOP + 18} rx={PITCH * 0.56} ry={20} fill={cloth} stroke={LINE} />
      ))}
      {lies === "in" &&
        yarns.map((x) => (
          <path
            key={`dye${x}`}
            d={`M${x - PITCH * 0.5} ${CLOTH_TOP + 10}A${PITCH * 0.56} 20 0 0 1 ${x + PITCH * 0.5} ${CLOTH_TOP + 10}Z`}
            fill={COLOUR}
            opacity={0.85}
          />
        ))}
      {lies === "ink" && (
        <>
          {hasWhite && <path d={over(8)} fill="url(#way-white)" stroke={LINE} strokeWidth={0.6} />}
          <path d={over(hasWhite ? 12 : 6)} fill={COLOUR} stroke={LINE} strokeWidth={0.6} clipPath="inset(0 0 50% 0)" />
        </>
      )}
      {lies === "coat" && <path d={over(7)} fill={COLOUR} stroke={LINE} strokeWidth={0.6} />}
      {(lies === "film" || lies === "sheet") && (
        <>
          {lies === "film" && <path d={bonded()} fill="#cfc3a6" stroke={LINE} strokeWidth={0.6} />}
          <rect
            x={6}
            y={lies === "sheet" ? 38 : 32}
            width={WIDE - 12}
            height={lies === "sheet" ? 14 : hasWhite ? 6 : 0}
            fill="url(#way-white)"
            stroke={LINE}
            strokeWidth={0.6}
          />
          <rect x={10} y={lies === "sheet" ? 34 : 28} width={WIDE - 20} height={4} fill={COLOUR} />
        </>
      )}
    </svg>
  );
}

/** The same on a hard blank: its body, its coating, and the colour in or on it. */
function HardSection({ ground, lies, hasWhite }: { ground: string; lies: string; hasWhite: boolean }) {
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="w-full"
      role="img"
      aria-label={lies === "in" ? say("Section: colour in the coating itself") : say("Section: colour on the surface")}
    >
      <rect x={2} y={CLOTH_TOP} width={WIDE - 4} height={HIGH} fill={ground} stroke={LINE} />
      <rect x={2} y={CLOTH_TOP} width={WIDE - 4} height={14} fill="#e8e4da" stroke={LINE} strokeWidth={0.6} />
      {lies === "in" ? (
        <rect x={16} y={CLOTH_TOP} width={WIDE - 32} height={10} fill={COLOUR} opacity={0.85} />
      ) : (
        <>
          {hasWhite && <rect x={16} y={CLOTH_TOP - 8} width={WIDE - 32} height={8} fill="#ffffff" stroke={LINE} />}
          <rect x={16} y={CLOTH_TOP - (hasWhite ? 14 : 7)} width={WIDE - 32} height={7} fill={COLOUR} stroke={LINE} />
        </>
      )}
    </svg>
  );
}

/** A layer that follows the yarns, so thick. */
function over(thick: number): string {
  const steps = Array.from({ length: 61 }, (_, i) => (i / 60) * WIDE);
  const top = steps.map((x) => `${x.toFixed(1)} ${(surface(x) - thick).toFixed(1)}`);
  const low = [...steps].reverse().map((x) => `${x.toFixed(1)} ${surface(x).toFixed(1)}`);
  return `M${top.join("L")}L${low.join("L")}Z`;
}

function surface(x: number): number {
  const from = Math.abs((x % PITCH) - PITCH / 2) / (PITCH / 2);
  return CLOTH_TOP - 1 + 9 * from * from;
}

/** Melted glue, flat above and sunk between the yarns. */
function bonded(): string {
  const steps = Array.from({ length: 61 }, (_, i) => WIDE - 6 - (i / 60) * (WIDE - 12));
  return `M6 38H${WIDE - 6}${steps.map((x) => `L${x.toFixed(1)} ${(surface(x) + 2).toFixed(1)}`).join("")}Z`;
}

function said(lies: string, hasWhite: boolean): string {
  const where = {
    in: say("colour in the fibre itself"),
    ink: say("ink on the yarns"),
    coat: say("a thin coat over the yarns"),
    film: say("a film that grips the yarns"),
    sheet: say("a sheet glued on the cloth"),
  }[lies];
  return hasWhite ? say("Section: {where}, white under the colour", { where }) : say("Section: {where}", { where });
}
