import type { PointView } from "../../api/types";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";

const lab = (v: readonly number[]) => v.map((n) => (Math.round(n * 10) / 10 + 0).toFixed(1)).join(" ");

/** Kept free from the start: the bench above stays as large as it is when figures come. */
const ROOM = "h-[74px] shrink-0 px-6 max-[1200px]:h-[136px]";

type FiguresProps = { point: PointView | undefined; isDriven: boolean; colorant: "ink" | "toner" };

/** What one point is made of, in a row under the bench. */
export function Figures({ point, isDriven, colorant }: FiguresProps) {
  if (!point)
    return (
      <p className={`${ROOM} text-soft`}>{say("Move over the print: a glass shows one point with its figures.")}</p>
    );
  if (!point.is_printed)
    return (
      <p className={`${ROOM} text-soft`} aria-live="polite">
        {say("Nothing is printed there: the ground is seen,")} <span className="num">{point.on_cloth}</span>
        {say(", Lab")} <span className="num">{lab(point.on_cloth_lab)}</span>.
      </p>
    );
  const asked = `rgb(${point.asked_rgb.join(" ")})`;
  return (
    <dl
      aria-label={say("The point under the glass")}
      className={`${ROOM} flex flex-wrap content-start gap-x-5 gap-y-1 leading-tight`}
    >
      <Figure
        name={say("asked")}
        swatch={asked}
        first={say("RGB {asked_rgb}", { asked_rgb: point.asked_rgb.join(" ") })}
        second={say("Lab {lab}", { lab: lab(point.asked_lab) })}
      />
      <Figure
        name={isDriven ? say("sent to the driver") : say("{colorant} in %", { colorant: worded(colorant) })}
        first={Object.entries(point.ink_pct)
          .map(([n, v]) => `${n} ${v.toFixed(0)}`)
          .join(" ")}
        second={isDriven ? say("RGB in its own profile") : ""}
      />
      <Figure
        name={say("printed, on full white")}
        first={`ΔE ${point.delta_e.toFixed(1)}`}
        second={say("Lab {lab}", { lab: lab(point.printed_lab) })}
        isOff={point.delta_e > 3}
      />
      <Figure
        name={say("on this piece")}
        swatch={point.on_cloth}
        first={point.on_cloth}
        second={say("Lab {lab}", { lab: lab(point.on_cloth_lab) })}
      />
    </dl>
  );
}

type FigureProps = { name: string; first: string; second: string; swatch?: string; isOff?: boolean };

function Figure({ name, first, second, swatch, isOff }: FigureProps) {
  return (
    <div className="flex items-center gap-2.5">
      {swatch && <span className="size-10 shrink-0 rounded-md border border-hair2" style={{ background: swatch }} />}
      <div>
        <dt className="text-sm text-soft">{name}</dt>
        <dd className="num whitespace-pre">
          <span className={`font-semibold ${isOff ? "text-need" : ""}`}>{first}</span>
          {second && <span className="block text-sm text-soft">{second}</span>}
        </dd>
      </div>
    </div>
  );
}
