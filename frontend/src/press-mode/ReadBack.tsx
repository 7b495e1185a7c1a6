import type { PressCard } from "../api/types";
import { useUnits } from "../settings/settings";
import { say } from "../texts/say";
import { worded } from "../texts/words";

/** Before piece one: only what differs from how the press was left, read back against the card. */
export function ReadBack({ card }: { card: PressCard }) {
  const units = useUnits();
  const { wanted } = card;
  return (
    <section aria-label={say("Change over")} className="min-h-0 grow overflow-auto px-8 py-6">
      <h1 className="text-[52px] leading-tight font-extrabold" data-say>
        {card.rows.length
          ? say("Change {press_name}, then read it back", { press_name: card.press_name })
          : say("Read {press_name} back", { press_name: card.press_name })}
      </h1>
      {card.rows.length > 0 ? (
        <table className="mt-5 w-full max-w-6xl text-left text-4xl">
          <thead>
            <tr className="text-xl text-soft">
              <th className="font-normal">{say("What")}</th>
              <th className="font-normal">{say("as it was left")}</th>
              <th className="font-normal">{say("set it to")}</th>
            </tr>
          </thead>
          <tbody>
            {card.rows.map((row) => (
              <tr key={row.what} className="border-t border-hair">
                <th scope="row" className="py-4 pr-8">
                  {worded(row.what)}
                </th>
                <td className="py-4 pr-8 text-soft">{row.left}</td>
                <td className="py-4 font-bold text-heat">{row.wanted}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="mt-4 text-4xl">{say("Nothing changes.")}</p>
      )}
      <p className="mt-6 text-3xl">
        {card.rows.length ? say("Then it shows") : say("It must show")}{" "}
        <span className="font-bold text-heat">
          {wanted.temperature_c != null && units.bothHeats(wanted.temperature_c)}, {wanted.time_s} s
          {wanted.pressure ? `, ${worded(wanted.pressure)}` : ""}
        </span>
        .
      </p>
      {(card.turn || card.shield) && (
        <p className="mt-5 border-l-8 border-act pl-4 text-3xl">
          {card.turn} {card.shield} {card.heats}
        </p>
      )}
      <p className="mt-5 border-l-8 border-need pl-4 text-xl text-need">
        {card.is_oven
          ? say("Let it come to its heat before the first one goes in. Rack and film are hot: gloves.")
          : card.part === "prepare"
            ? say("The platen burns: gloves.")
            : say(
                "Set height and pressure with a blank under the press, before any transfer is on it. The platen burns: gloves.",
              )}
      </p>
    </section>
  );
}
