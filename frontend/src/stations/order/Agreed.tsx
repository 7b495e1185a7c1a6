import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { PriceRow } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { useMoney } from "../../ui/money";
import { Button, Pick } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";
import { Typed } from "../../ui/Typed";

/** The quotation's way to becoming the order: to how many, at which price, who said yes and how. */
export function Agreed({ jobLine, rows }: { jobLine: JobLine; rows: PriceRow[] }) {
  const me = useMe();
  const { money, sign } = useMoney();
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const order = jobLine.document("order");
  const ordered = rows.find((r) => r.is_ordered);
  const [isOpen, setOpen] = useState(false);
  const [pieces, setPieces] = useState(String(ordered?.quantity ?? rows[0]?.quantity ?? 1));
  const [price, setPrice] = useState<string | null>(null);
  const [by, setBy] = useState("");
  const chosen = rows.find((r) => String(r.quantity) === pieces);
  const asked =
    price ?? (chosen?.is_ordered && order.quoted != null ? order.quoted : Number(chosen?.price ?? 0)).toFixed(2);
  const value = Number(asked.replace(",", "."));
  const save = async () => {
    const { job } = jobLine;
    const ok = await tell(
      told(
        api.POST("/api/jobs/{job_id}/agreed", {
          params: { path: { job_id: job.id } },
          body: { pieces: Number(pieces), price: value, by: by.trim() },
        }),
      ).then(() => queries.invalidateQueries({ queryKey: ["job", job.id] })),
    );
    if (ok) setOpen(false);
  };
  return (
    <>
      {order.agreed && (
        <p className="mt-1.5 border-l-4 border-done pl-3">{say("Agreed: {agreed}", { agreed: order.agreed })}</p>
      )}
      {me.role !== "viewer" && !isOpen && (
        <Button kind="quiet" onClick={() => setOpen(true)}>
          {order.agreed ? say("They agreed to something else") : say("They said yes to it")}
        </Button>
      )}
      {isOpen && (
        <form
          aria-label={say("What they said yes to")}
          className="mt-2 flex flex-col gap-2 rounded-lg border border-hair2 p-3"
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <Pick
            label={say("To how many")}
            value={pieces}
            options={rows.map((r) => ({
              id: String(r.quantity),
              name: say("{quantity}, {price} each", { quantity: several(r.quantity, "piece"), price: money(r.price) }),
            }))}
            onChange={(n) => {
              setPieces(n);
              setPrice(null);
            }}
          />
          <Typed label={say("Price of a piece, {sign}", { sign })} value={asked} onChange={setPrice} />
          <Typed label={say("Who said yes, and how")} value={by} onChange={setBy} />
          <Refused said={wrong} />
          <div className="flex gap-2">
            <Button kind="go" type="submit" disabled={!by.trim() || !Number.isFinite(value)}>
              {say("Order it")}
            </Button>
            <Button onClick={() => setOpen(false)}>{say("Not yet")}</Button>
          </div>
        </form>
      )}
    </>
  );
}
