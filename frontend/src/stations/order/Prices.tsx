import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client";
import type { PriceRow } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { useShop } from "../../shop/useShop";

/** What a piece costs at other quantities, what it must be sold at, and what the quoted price leaves. */
export function Prices({ jobLine }: { jobLine: JobLine }) {
  const { shop } = useShop();
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
  const sign = shop?.currency === "EUR" ? "€" : shop?.currency;
  const hasQuote = rows.some((r) => r.margin_share != null);
  return (
    <details open>
      <summary className="font-semibold">Money by quantity, {sign} a piece</summary>
      <table className="mt-1 w-full">
        <thead>
          <tr className="border-b border-hair text-sm text-soft">
            <th className="text-left font-normal">Pieces</th>
            <th className="text-right font-normal">costs</th>
            <th className="text-right font-normal">sell at</th>
            {hasQuote && <th className="text-right font-normal">quote leaves</th>}
          </tr>
        </thead>
        <tbody className="num">
          {rows.map((r) => (
            <tr key={r.quantity} className={`border-b border-hair ${r.is_ordered ? "font-semibold" : ""}`}>
              <th scope="row" className="text-left font-normal">
                {r.quantity}
                {r.is_ordered && <span className="font-sans text-sm"> ordered</span>}
              </th>
              <td className="text-right">{Number(r.cost).toFixed(2)}</td>
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
      <p className="text-sm text-soft">
        With the blank, media and waste, ink, counted sheets, hands, machines and spoilage
        {job.prints.length > 1 ? "; this print alone" : ""}.
      </p>
    </details>
  );
}
