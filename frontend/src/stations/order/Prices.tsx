import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client";
import type { PriceRow, Promised } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { say } from "../../texts/say";
import { useMoney } from "../../ui/money";
import { Button } from "../../ui/parts";
import { TicketLink } from "../../ui/Ticket";
import { when } from "../../ui/when";
import { Agreed } from "./Agreed";

/** What a piece costs at other quantities, what it must be sold at, and what the quoted price leaves. */
export function Prices({ jobLine }: { jobLine: JobLine }) {
  const { sign } = useMoney();
  const { job } = jobLine;
  const query = useQuery({
    queryKey: ["price", job.id, job.print, job.kind, job.revisions],
    queryFn: () =>
      told<PriceRow[]>(
        api.GET("/api/jobs/{job_id}/price", {
          params: { path: { job_id: job.id }, query: { print: job.print, kind: job.kind } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const rows = query.data ?? [];
  if (!rows.length) return null;
  const ordered = rows.find((r) => r.is_ordered);
  const hasQuote = rows.some((r) => r.margin_share != null);
  return (
    <details open>
      <summary className="font-semibold">{say("Money by quantity, {sign} a piece", { sign })}</summary>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-hair text-sm text-soft">
            <th className="text-left font-normal">{say("Pieces")}</th>
            <th className="text-right font-normal">{say("costs")}</th>
            <th className="text-right font-normal">{say("no blank")}</th>
            <th className="text-right font-normal">{say("sell at")}</th>
            {hasQuote && <th className="text-right font-normal">{say("quote leaves")}</th>}
          </tr>
        </thead>
        <tbody className="num">
          {rows.map((r) => (
            <tr key={r.quantity} className={`border-b border-hair ${r.is_ordered ? "font-semibold" : ""}`}>
              <th scope="row" className="text-left font-normal">
                {r.quantity}
                {r.is_ordered && <span className="font-sans text-sm"> {say("ordered")}</span>}
              </th>
              <td className="text-right">{Number(r.cost).toFixed(2)}</td>
              <td className="text-right">{Number(r.without_blank).toFixed(2)}</td>
              <td className="text-right">{Number(r.price).toFixed(2)}</td>
              {hasQuote && (
                <td className={`text-right ${Number(r.margin_share) < 0 ? "text-need" : ""}`}>
                  {r.margin_share == null ? "" : `${(Number(r.margin_share) * 100).toFixed(0)} %`}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1.5 flex flex-wrap gap-x-4">
        <a
          href={`/api/jobs/${job.id}/quotation.pdf`}
          target="_blank"
          rel="noreferrer"
          className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-4"
        >
          {say("Quotation, valid 30 days")}
        </a>
        <TicketLink job={job.id} />
        {ordered && job.line.decisions.order.quoted == null && (
          <Button kind="quiet" onClick={() => jobLine.done("order", { quoted: Number(ordered.price) })}>
            {say("Quote {price} {sign} a piece", { price: Number(ordered.price).toFixed(2), sign })}
          </Button>
        )}
      </p>
      <Agreed key={`${job.id}${ordered?.quantity}`} jobLine={jobLine} rows={rows} />
      <HonestDate jobLine={jobLine} />
      {ordered && <Parts row={ordered} isAlone={job.prints.length === 1} />}
    </details>
  );
}

/** When it could be done, tried against everything else that is planned: before it is promised to anybody. */
function HonestDate({ jobLine }: { jobLine: JobLine }) {
  const { job } = jobLine;
  const isBegun = job.ledger.printed > 0;
  const { data } = useQuery({
    queryKey: ["promise", job.id, job.revisions],
    queryFn: () =>
      told<{ promise: Promised | null }>(
        api.GET("/api/jobs/{job_id}/promise", { params: { path: { job_id: job.id } } }),
      ),
    enabled: !isBegun,
    staleTime: 300_000,
    retry: false,
  });
  const found = data?.promise;
  if (isBegun || !found) return null;
  const due = new Date(job.line.decisions.order.due).getTime();
  const isLate = new Date(found.quietly).getTime() > due;
  return (
    <p className={`mt-1.5 border-l-4 pl-2 ${isLate ? "border-need" : "border-hair2"}`}>
      <span className="font-semibold">{say("Honest date: {at}", { at: when(found.quietly) })}</span>
      {say(", without moving what is planned{isLate}.", { isLate: isLate ? say(": later than it is due") : "" })}
      {isLate && found.soonest !== found.quietly && (
        <>
          {" "}
          {say("Before all else: {soonest}. {pushed}", {
            soonest: when(found.soonest),
            pushed: found.pushes.length ? found.pushes.join(" ") : say("Nothing else would leave late."),
          })}
        </>
      )}
    </p>
  );
}

const PARTS: [keyof PriceRow["parts"], string][] = [
  ["blank", say("blank")],
  ["media", say("media and waste")],
  ["ink", say("ink")],
  ["powder", say("powder")],
  ["covers", say("counted sheets")],
  ["hands", say("hands")],
  ["machines", say("machines")],
  ["spoilage", say("allowed for spoiling")],
];

/** What a piece is made of, part by part: a sum of one's own can be held against it. */
function Parts({ row, isAlone }: { row: PriceRow; isAlone: boolean }) {
  const parts = PARTS.filter(([key]) => Number(row.parts[key]) > 0);
  return (
    <p className="mt-1 text-sm text-soft">
      {parts.map(([key, said], i) => (
        <span key={key}>
          {i > 0 && " + "}
          {said} <span className="num text-ink">{Number(row.parts[key]).toFixed(2)}</span>
        </span>
      ))}
      {isAlone ? "" : say("; this print alone")}.
    </p>
  );
}
