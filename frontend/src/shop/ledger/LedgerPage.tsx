import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { useOutbox } from "../../api/outbox";
import type { Act, Job, TransferRow } from "../../api/types";
import { useJobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { when } from "../../ui/when";
import { said } from "./said";

/** The ledger in the open: what was laid, printed, cured, pressed, good and spoiled; and every act behind it. */
export default function LedgerPage() {
  const { id = "" } = useParams();
  const { line, error } = useJobLine(id);
  useEffect(() => {
    document.title = say("Ledger · Offsetter");
  }, []);
  if (error) return <p className="p-6">{say("{message} Press J for Jobs.", { message: error.message })}</p>;
  if (!line) return <p className="p-6 text-soft">{say("Opening the ledger…")}</p>;
  const { job } = line;
  const { ledger } = job;
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <p>
        <Link to={`/jobs/${job.id}/inspect`} className="font-semibold text-act underline underline-offset-2">
          {line.line.decisions.order.title}
        </Link>
      </p>
      <h1 className="text-2xl font-bold">{verdict(job)}</h1>
      <Transfers job={job} />
      <Pieces job={job} />
      <p className="mt-3 max-w-3xl text-sm text-soft">
        {say(
          "In hand = printed and out of the store, less pressed, spoiled, put aside and into the store. To print = what pieces still wait for, less in hand. {transfers}",
          { transfers: ledger.books.transfers.length > 1 ? say("Sizes of one width share a row.") : "" },
        )}
      </p>
      <Acts job={job} />
      <p className="mt-4">
        <a
          href={`/api/jobs/${job.id}/file.zip`}
          download
          className="font-semibold text-act underline underline-offset-2"
        >
          {say("The whole job as a file (zip)")}
        </a>{" "}
        <span className="text-sm text-soft">
          {say("Decisions, pictures, runs and acts; any Offsetter takes it in again at Jobs.")}
        </span>
      </p>
    </main>
  );
}

function verdict(job: Job): string {
  const { good, ordered, to_print, books } = job.ledger;
  const waiting = Object.values(job.ledger.to_inspect).reduce((a, b) => a + b, 0);
  const find = books.pieces.filter((p) => p.blanks_to_find > 0);
  const parts = [say("{good} of {ordered} good", { good, ordered })];
  if (waiting) parts.push(say("{waiting} to look at", { waiting }));
  parts.push(to_print ? say("the next run needs {to_print}", { to_print }) : say("nothing left to print"));
  if (find.length)
    parts.push(
      say("find blanks: {blanks}", { blanks: find.map((p) => `${p.blanks_to_find} x ${p.label}`).join(", ") }),
    );
  return parts.join(", ");
}

const NUMBERS = "num border-b border-hair px-2 py-1 text-right";

type Column = { name: string; of: (row: TransferRow) => number; isBold?: boolean; isRare?: boolean };

const COLUMNS: Column[] = [
  { name: say("laid"), of: (r) => r.laid },
  { name: say("printed"), of: (r) => r.printed },
  { name: say("cured"), of: (r) => r.cured },
  { name: say("from store"), of: (r) => r.fetched, isRare: true },
  { name: say("in hand"), of: (r) => r.in_hand, isBold: true },
  { name: say("spoiled"), of: (r) => r.spoiled },
  { name: say("put aside"), of: (r) => r.put_aside, isRare: true },
  { name: say("into store"), of: (r) => r.stored, isRare: true },
  { name: say("to print"), of: (r) => r.to_print, isBold: true },
];

function Transfers({ job }: { job: Job }) {
  const units = useUnits();
  const rows = job.ledger.books.transfers;
  // What this job never saw takes no room.
  const columns = COLUMNS.filter((c) => !c.isRare || rows.some((r) => c.of(r) > 0));
  return (
    <div className="mt-4 overflow-x-auto">
      <table className="w-full max-w-6xl min-w-[860px]">
        <caption className="pb-1 text-left text-lg font-bold">{say("Prints")}</caption>
        <thead>
          <tr className="text-sm text-soft">
            <th className="border-b border-hair py-1 text-left font-normal">{say("Print and width")}</th>
            {columns.map((c) => (
              <th key={c.name} className="border-b border-hair px-2 text-right font-normal">
                {c.name}
              </th>
            ))}
            <th className="border-b border-hair px-2 pl-8 text-left font-normal">{say("for")}</th>
            <th className="border-b border-hair px-2 text-right font-normal">{say("ordered")}</th>
            <th className="border-b border-hair px-2 text-right font-normal">{say("pressed")}</th>
            <th className="border-b border-hair px-2 text-right font-normal">{say("to press")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.flatMap((row) =>
            row.slots.map((slot, i) => (
              <tr key={`${row.print}${slot.slot}`}>
                {i === 0 && (
                  <>
                    <th scope="rowgroup" rowSpan={row.slots.length} className="border-b border-hair py-1 text-left">
                      {row.name} <span className="font-normal text-soft">{units.length(row.width_mm)}</span>
                    </th>
                    {columns.map((c) => (
                      <td
                        key={c.name}
                        rowSpan={row.slots.length}
                        className={`${NUMBERS} ${c.of(row) ? (c.isBold ? "font-bold" : "") : "text-soft"}`}
                      >
                        {c.of(row)}
                      </td>
                    ))}
                  </>
                )}
                <td className="border-b border-hair px-2 py-1 pl-8">{slot.label}</td>
                <td className={NUMBERS}>{slot.ordered}</td>
                <td className={`${NUMBERS} ${slot.pressed ? "" : "text-soft"}`}>{slot.pressed}</td>
                <td className={`${NUMBERS} ${slot.to_press ? "font-bold" : "text-soft"}`}>{slot.to_press}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </div>
  );
}

function Pieces({ job }: { job: Job }) {
  return (
    <table className="mt-5 w-full max-w-4xl">
      <caption className="pb-1 text-left text-lg font-bold">{say("Pieces")}</caption>
      <thead>
        <tr className="text-sm text-soft">
          <th className="border-b border-hair py-1 text-left font-normal">{say("Blank and size")}</th>
          {[
            say("ordered"),
            say("begun"),
            say("complete"),
            say("to inspect"),
            say("good"),
            say("spoiled pieces"),
            say("spoiled blanks"),
            say("blanks to find"),
          ].map((h) => (
            <th key={h} className="border-b border-hair px-2 text-right font-normal">
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {job.ledger.books.pieces.map((p) => (
          <tr key={p.kind}>
            <th scope="row" className="border-b border-hair py-1 text-left">
              {p.label}
            </th>
            {[
              p.ordered,
              p.begun,
              p.complete,
              p.to_inspect,
              p.good,
              p.spoiled_pieces,
              p.spoiled_blanks,
              p.blanks_to_find,
            ].map((n, k) => (
              <td key={k} className={`${NUMBERS} ${n ? "" : "text-soft"} ${k === 4 ? "font-bold" : ""}`}>
                {n}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Every act, newest first; one can be taken back, with a reason. */
function Acts({ job }: { job: Job }) {
  const outbox = useOutbox();
  const [voiding, setVoiding] = useState<string | null>(null);
  const [reason, setReason] = useState("");
  const voided = new Map(job.acts.flatMap((a) => (a.body.kind === "voided" ? [[a.body.voids, a] as const] : [])));
  const shown = [...job.acts].reverse().filter((a) => a.body.kind !== "voided");
  return (
    <section aria-label={say("Acts")} className="mt-6 max-w-4xl">
      <h2 className="text-lg font-bold">{say("What hands did, newest first")}</h2>
      <p className="text-sm text-soft">
        {say("Nothing here is ever changed or deleted; an act is taken back by another one.")}
      </p>
      <ol className="mt-1">
        {shown.map((act: Act) => {
          const back = voided.get(act.id);
          return (
            <li key={act.id} className="border-b border-hair py-1.5">
              <div className="flex items-center justify-between gap-4">
                <span className={back ? "text-soft line-through" : ""}>
                  <span className="text-soft">{when(act.at)}</span> <span className="font-semibold">{act.actor}</span>{" "}
                  {said(act, job.ledger.books.labels)}
                </span>
                {!back && voiding !== act.id && (
                  <Button
                    kind="quiet"
                    label={say("Take back: {said}", { said: said(act, job.ledger.books.labels) })}
                    onClick={() => setVoiding(act.id)}
                  >
                    {say("Take back")}
                  </Button>
                )}
              </div>
              {back?.body.kind === "voided" && (
                <p className="text-sm text-soft">
                  {say("taken back by {actor}: {reason}", {
                    actor: back.actor,
                    reason: back.body.reason || say("at once"),
                  })}
                </p>
              )}
              {voiding === act.id && (
                <form
                  className="mt-1 flex items-end gap-2"
                  onSubmit={(e) => {
                    e.preventDefault();
                    outbox.act(job.id, { kind: "voided", voids: act.id, reason: reason.trim() }, job.print);
                    setVoiding(null);
                    setReason("");
                  }}
                >
                  <label className="grow">
                    <span className="font-semibold">{say("Why is it taken back?")}</span>
                    <input
                      className="field"
                      maxLength={200}
                      value={reason}
                      onChange={(e) => setReason(e.target.value)}
                    />
                  </label>
                  <Button kind="stop" type="submit" disabled={!reason.trim()}>
                    {say("Take it back")}
                  </Button>
                  <Button onClick={() => setVoiding(null)}>{say("Leave it")}</Button>
                </form>
              )}
            </li>
          );
        })}
      </ol>
    </section>
  );
}
