import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, told } from "../../api/client";
import type { PricesView } from "../../api/types";
import { may, useMe } from "../../settings/me";
import { say, sayMany } from "../../texts/say";
import { useInkNames } from "../../ui/inks";
import { useMoney } from "../../ui/money";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Plain, Words } from "../machines/Value";

type Values = PricesView["prices"];

/** What hands, machines and materials cost, and what a plain piece makes of it while a figure moves. */
export default function PricesPage() {
  const { money: priced } = useMoney();
  const { nameOf } = useInkNames();
  const me = useMe();
  useEffect(() => {
    document.title = say("Prices · Offsetter");
  }, []);
  const { view, wrong, change, checked } = usePrices();
  if (!view) return <main className="p-6 text-soft">{say("Opening…")}</main>;
  const { prices } = view;
  const open = Object.keys(prices.sources ?? {}).length;
  const said = { sources: prices.sources };
  const money = (field: keyof Values, label: string, decimals = 2) => (
    <Plain
      key={field}
      label={label}
      value={Number(prices[field])}
      decimals={decimals}
      field={field}
      {...said}
      onDone={(v) => void change({ [field]: v.toFixed(decimals) })}
    />
  );
  const percent = (field: "margin_share" | "spoil_share", label: string) => (
    <Plain
      label={label}
      unit="%"
      decimals={1}
      value={Number(prices[field]) * 100}
      field={field}
      {...said}
      onDone={(v) => void change({ [field]: (v / 100).toFixed(4) })}
    />
  );
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <h1 className="text-2xl font-bold">
        {say("A plain piece costs this shop {cost}, and is sold for {price}", {
          cost: priced(view.example.cost),
          price: priced(view.example.price),
        })}
      </h1>
      <Example view={view} />
      {open > 0 && (
        <div className="mt-3 flex flex-wrap items-center gap-3 border-l-4 border-need pl-3">
          <p>
            <span className="font-semibold">
              {sayMany(open, "{count} price comes from memory.", "{count} prices come from memory.")}
            </span>{" "}
            {say("Put right what is different; then say that the rest is so.")}
          </p>
          {may(me, "prices") && <Button onClick={() => void checked()}>{say("The rest is so here")}</Button>}
        </div>
      )}
      <Refused said={wrong} />
      {!may(me, "prices") && <p className="mt-2 text-soft">{say("What things cost is the owner's to say.")}</p>}
      <fieldset disabled={!may(me, "prices")} className="mt-4 grid max-w-5xl grid-cols-3 gap-6 max-[900px]:grid-cols-1">
        <section className="flex flex-col gap-3" aria-label={say("Hours and margin")}>
          <h2 className="font-semibold">{say("Hours and margin")}</h2>
          <Words
            label={say("Currency, three letters")}
            value={prices.currency}
            onDone={(v) => void change({ currency: v.toUpperCase() })}
          />
          {money("hands_hour", say("An hour of hands"))}
          {money("machine_hour", say("An hour of a machine"))}
          {percent("margin_share", say("Of the price, kept as margin"))}
          {percent("spoil_share", say("Spoiled on the way, until the shop knows better"))}
        </section>
        <section className="flex flex-col gap-3" aria-label={say("Ink and media")}>
          <h2 className="font-semibold">{say("Ink, powder, film")}</h2>
          {money("media_m", say("A metre of film, where a medium has no price of its own"))}
          {Object.entries(prices.ink_ml).map(([channel, price]) => (
            <Plain
              key={channel}
              label={say("A mL of {ink}", { ink: nameOf(channel) })}
              value={Number(price)}
              decimals={3}
              field="ink_ml"
              {...said}
              onDone={(v) => void change({ ink_ml: { ...prices.ink_ml, [channel]: v.toFixed(3) } })}
            />
          ))}
          {money("powder_g", say("A gram of powder"), 3)}
          {money("powder_g_m2", say("Powder that stays, g on a m² of white"), 0)}
        </section>
        <section aria-label={say("Sheets that are used up by counting")}>
          <h2 className="font-semibold">{say("Sheets that are used up by counting")}</h2>
          <table className="mt-1 w-full">
            <thead>
              <tr className="text-left text-sm text-soft">
                <th className="font-normal">{say("Sheet")}</th>
                <th className="font-normal">{say("costs")}</th>
                <th className="font-normal">{say("presses")}</th>
              </tr>
            </thead>
            <tbody>
              {Object.entries(prices.cover_uses).map(([cover, [price, uses]]) => {
                const put = (p: string, u: number) =>
                  void change({ cover_uses: { ...prices.cover_uses, [cover]: [p, u] } });
                return (
                  <tr key={cover}>
                    <th scope="row" className="py-1 pr-2 text-left font-normal">
                      {cover}
                    </th>
                    <td className="pr-2">
                      <Plain
                        label={say("{cover} costs", { cover })}
                        hideLabel
                        value={Number(price)}
                        decimals={2}
                        sources={undefined}
                        field=""
                        onDone={(v) => put(v.toFixed(2), uses)}
                      />
                    </td>
                    <td>
                      <Plain
                        label={say("{cover}, presses", { cover })}
                        hideLabel
                        value={uses}
                        sources={undefined}
                        field=""
                        onDone={(v) => put(price, Math.round(v))}
                      />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </section>
      </fieldset>
    </main>
  );
}

/** The sum, part by part. */
export function Example({ view }: { view: PricesView }) {
  const e = view.example;
  return (
    <p className="max-w-3xl text-soft">
      {say(
        "{hands_min} min of hands {hands}, {machine_min} min of machines {machines}, a blank {blank}, materials {materials}, spoilage {spoilage}: {cost}. What was quoted or closed keeps the prices of its day.",
        {
          hands_min: e.hands_min.toFixed(0),
          hands: e.hands,
          machine_min: e.machine_min.toFixed(0),
          machines: e.machines,
          blank: e.blank,
          materials: e.materials,
          spoilage: e.spoilage,
          cost: e.cost,
        },
      )}
    </p>
  );
}

export function usePrices() {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const query = useQuery({ queryKey: ["prices"], queryFn: () => told<PricesView>(api.GET("/api/prices")) });
  const after = () => queries.invalidateQueries();
  return {
    view: query.data,
    wrong,
    change: (body: Record<string, unknown>) => tell(told(api.PUT("/api/prices", { body })).then(after)),
    checked: () => tell(told(api.POST("/api/prices/checked")).then(after)),
  };
}
