import type { Job } from "../api/types";
import { say } from "../texts/say";

/** Pieces by size: how far each is. */
export function PieceTable({ job }: { job: Job }) {
  const toPress = job.ledger.to_press[job.print] ?? {};
  return (
    <table className="w-full">
      <thead>
        <tr className="border-b border-hair text-sm text-soft">
          <th className="text-left font-normal">{say("Piece")}</th>
          <th className="text-right font-normal">{say("ordered")}</th>
          <th className="text-right font-normal">{say("to press")}</th>
          <th className="text-right font-normal">{say("to inspect")}</th>
          <th className="text-right font-normal">{say("good")}</th>
        </tr>
      </thead>
      <tbody className="num">
        {job.ledger.books.pieces.map((row) => (
          <tr key={row.kind} className="border-b border-hair">
            <th scope="row" className="py-0.5 text-left font-semibold">
              {row.label}
            </th>
            <td className="text-right">{row.ordered}</td>
            <td className="text-right">
              {Object.entries(toPress).reduce((n, [slot, k]) => n + (slot.split("#")[0] === row.kind ? k : 0), 0)}
            </td>
            <td className="text-right">{row.to_inspect}</td>
            <td className="text-right font-semibold">{row.good}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
