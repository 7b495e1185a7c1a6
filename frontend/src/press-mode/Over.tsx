import type { Unsent } from "../api/outbox";
import type { Job, PressCard } from "../api/types";
import { say, sayMany } from "../texts/say";
import { several } from "../ui/several";

/** Nothing is left for this print: what that means, and where hands go now. */
export function Over({ job, card, unsent, said }: { job: Job; card: PressCard; unsent: Unsent; said: string }) {
  if (card.part === "prepare")
    return (
      <section className="grid min-h-0 grow place-items-center px-8 text-center" aria-label={say("Through")}>
        <h1 className="text-6xl font-extrabold" data-say>
          {say("Nothing waits to be prepared")}
        </h1>
      </section>
    );
  const rows = job.ledger.books.transfers.filter((t) => t.print === card.print);
  const makes = job.line.makes ?? "transfer";
  const left =
    rows.flatMap((t) => t.slots).reduce((n, s) => n + s.to_press, 0) - unsent.pressed.length + unsent.spoiled.length;
  const toPrint = rows.reduce((n, t) => n + t.to_print, 0);
  const spare = rows.reduce((n, t) => n + t.in_hand, 0) - unsent.pressed.length - unsent.lost.length;
  return (
    <section className="grid min-h-0 grow place-items-center px-8 text-center" aria-label={say("Through")}>
      <div>
        <h1 className="text-6xl font-extrabold" data-say>
          {left > 0
            ? makes === "garment"
              ? say("No garment is in hand")
              : say("No transfer is in hand")
            : say("All pieces are pressed")}
        </h1>
        <p className="mt-4 text-2xl text-soft">
          {left > 0
            ? say("{left} still to press, {toPrint} to print.", {
                left: several(left, "piece"),
                toPrint: several(toPrint, makes),
              })
            : makes === "garment"
              ? sayMany(spare, "{count} spare garment left.", "{count} spare garments left.")
              : sayMany(spare, "{count} spare transfer left.", "{count} spare transfers left.")}
        </p>
        {said && (
          <p className="mx-auto mt-6 max-w-3xl border-l-8 border-act pl-4 text-left text-3xl font-bold">{said}</p>
        )}
      </div>
    </section>
  );
}
