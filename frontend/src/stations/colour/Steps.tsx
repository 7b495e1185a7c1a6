import { useState } from "react";
import type { DrawingOf } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { CameOutOff } from "./CameOutOff";

type Colours = DrawingOf<"colour">;

/** Four inks in their order; of more, those that are laid, by name. */
function inksSaid(inks: Record<string, number>): string {
  const told = Object.entries(inks).map(([ink, v]) => [ink, v.toFixed(0)] as const);
  if (told.length === 4) return told.map(([, v]) => v).join(" ");
  return (
    told
      .filter(([, v]) => v !== "0")
      .map(([ink, v]) => `${ink}\u00a0${v}`)
      .join(" ") || say("none")
  );
}

/** The picture's own main colours, and the customer's: asked, printed on white, on this cloth, and how far apart. */
export function Steps({ drawing, jobLine }: { drawing: Colours; jobLine: JobLine }) {
  const [off, setOff] = useState<string | null>(null);
  const me = useMe();
  return (
    <section aria-label={say("Main colours")} className="w-[350px] shrink-0 overflow-auto py-4 pr-6">
      <div className="grid grid-cols-[repeat(3,58px)_1fr] gap-x-0 text-sm text-soft">
        <span>{say("asked")}</span>
        <span>{say("on white")}</span>
        <span>{say("on piece")}</span>
        <span className="pl-3">{say("difference · {colorant}", { colorant: worded(drawing.colorant ?? "ink") })}</span>
      </div>
      <ul className="mt-1 flex flex-col gap-1.5">
        {drawing.colours.map((c) => (
          <li key={c.asked} className="grid grid-cols-[repeat(3,58px)_1fr_auto] items-center">
            {[c.asked, c.printed, c.on_cloth].map((colour, i) => (
              <span
                key={i}
                className="h-11 border-y border-hair2 first:rounded-l-md first:border-l"
                style={{ background: colour }}
                title={colour}
              />
            ))}
            <span className="pl-3 leading-tight">
              <span className={`num block font-semibold ${c.delta_e_2000 > 3 ? "text-need" : ""}`}>
                ΔE {c.delta_e_2000.toFixed(1)}
              </span>
              <span className="num block text-sm text-soft">{inksSaid(c.ink_pct)}</span>
            </span>
            {me.role !== "viewer" && (
              <button
                type="button"
                className="rounded-md border border-hair2 bg-raise px-2 py-1 text-sm text-act"
                aria-label={say("{asked} came out off", { asked: c.asked })}
                onClick={() => setOff(c.asked)}
              >
                {say("off?")}
              </button>
            )}
          </li>
        ))}
      </ul>
      {(drawing.brands?.length ?? 0) > 0 && (
        <>
          <h3 className="mt-4 font-semibold">{say("The customer's own colours")}</h3>
          <ul className="mt-1 flex flex-col gap-2">
            {drawing.brands?.map((b) => (
              <li key={b.name} className="grid grid-cols-[repeat(3,58px)_1fr] items-center">
                {[b.shown, b.printed, b.nearest].map((colour, i) => (
                  <span
                    key={i}
                    className="h-11 border-y border-hair2 first:rounded-l-md first:border-l"
                    style={{ background: colour }}
                    title={[say("wanted"), say("printed"), say("nearest that is reached")][i]}
                  />
                ))}
                <span className="pl-3 leading-tight">
                  <span className="block font-semibold">{b.name}</span>
                  <span className={`num block text-sm ${b.delta_e > b.within_delta_e ? "text-need" : "text-soft"}`}>
                    {say("ΔE {delta_e} of {within_delta_e}, nearest {nearest_delta_e}", {
                      delta_e: b.delta_e.toFixed(1),
                      within_delta_e: b.within_delta_e.toFixed(0),
                      nearest_delta_e: b.nearest_delta_e.toFixed(1),
                    })}
                  </span>
                </span>
              </li>
            ))}
          </ul>
          <p className="mt-1 text-sm text-soft">{say("wanted, printed now, nearest that these inks reach")}</p>
        </>
      )}
      <p className="mt-2 text-sm text-soft">
        {drawing.colorant === "toner"
          ? drawing.is_driven
            ? say(
                "Toner as C M Y K in %, an estimate: the driver separates by itself. ΔE is CIEDE2000 between asked and printed on full white.",
              )
            : say("Toner as C M Y K in %. ΔE is CIEDE2000 between asked and printed on full white.")
          : drawing.is_driven
            ? say(
                "Ink as C M Y K in %, an estimate: the driver separates by itself. ΔE is CIEDE2000 between asked and printed on full white.",
              )
            : say("Ink as C M Y K in %. ΔE is CIEDE2000 between asked and printed on full white.")}
      </p>
      {off && <CameOutOff colour={off} jobLine={jobLine} onClose={() => setOff(null)} />}
    </section>
  );
}
