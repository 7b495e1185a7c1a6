import type { Job, PressCard } from "../api/types";

/** Nothing is left for this print: what that means, and where hands go now. */
export function Over({ job, card, unsent, said }: { job: Job; card: PressCard; unsent: number; said: string }) {
  const rows = job.ledger.books.transfers.filter((t) => t.print === card.print);
  const left = rows.flatMap((t) => t.slots).reduce((n, s) => n + s.to_press, 0) - unsent;
  const toPrint = rows.reduce((n, t) => n + t.to_print, 0);
  const spare = rows.reduce((n, t) => n + t.in_hand, 0) - unsent;
  return (
    <section className="grid min-h-0 grow place-items-center px-8 text-center" aria-label="Through">
      <div>
        <h1 className="text-6xl font-extrabold" data-say>
          {left > 0 ? "No transfer is in hand" : "All pieces are pressed"}
        </h1>
        <p className="mt-4 text-2xl text-soft">
          {left > 0
            ? `${left} ${left === 1 ? "piece is" : "pieces are"} still to press, ${toPrint} ${toPrint === 1 ? "transfer" : "transfers"} to print.`
            : `${spare} spare ${spare === 1 ? "transfer is" : "transfers are"} left.`}
        </p>
        {said && (
          <p className="mx-auto mt-6 max-w-3xl border-l-8 border-act pl-4 text-left text-3xl font-bold">{said}</p>
        )}
      </div>
    </section>
  );
}
