import { useState } from "react";
import { api, newId, problemOf, told } from "../../api/client";
import type { BrandColour, ColourRoom } from "../../api/types";
import { useMe } from "../../settings/me";
import { say, sayMany } from "../../texts/say";
import { Button } from "../../ui/parts";
import { Typed } from "../../ui/Typed";
import { useDeed } from "./useColour";
import { Wrong } from "./Wrong";

/** Colours that customers hold the shop to: found in their artwork, and reported at the job's Colour. */
export function Brands({ room }: { room: ColourRoom }) {
  const { run, wrong } = useDeed();
  const me = useMe();
  const customers = [...new Set(room.brands.map((b) => b.customer))];
  const [isAdding, setAdding] = useState(false);
  const remove = (brand: string) =>
    void run(async () => {
      const answer = await api.DELETE("/api/colour/brands/{brand}", { params: { path: { brand } } });
      if (!answer.response.ok) throw problemOf(answer.error);
    });
  return (
    <main className="min-h-0 overflow-auto px-6 py-4">
      <h1 className="text-2xl font-bold">
        {room.brands.length
          ? sayMany(
              customers.length,
              "{colours} colours of one customer are watched for",
              "{colours} colours of {count} customers are watched for",
              { colours: room.brands.length },
            )
          : say("No customer's colour is watched for yet")}
      </h1>
      <p className="max-w-3xl text-soft">
        {say(
          "A job of that customer says at Colour whether its artwork holds the colour, how near the print comes, and what comes nearest where it is not met.",
        )}
      </p>
      {me.role !== "viewer" && !isAdding && (
        <div className="mt-3">
          <Button kind="go" onClick={() => setAdding(true)}>
            {say("Add a colour")}
          </Button>
        </div>
      )}
      {isAdding && <NewBrand customers={customers} onClose={() => setAdding(false)} />}
      <Wrong said={wrong} />
      {customers.map((customer) => (
        <section key={customer} aria-label={customer} className="mt-4">
          <h2 className="font-semibold">{customer}</h2>
          <ul className="mt-1 grid max-w-5xl gap-3 min-[900px]:grid-cols-3">
            {room.brands
              .filter((b) => b.customer === customer)
              .map((b) => (
                <li key={b.id} className="overflow-hidden rounded-lg border border-hair2 bg-panel">
                  <span className="block h-20" style={{ background: room.shown_brands[b.id] }} />
                  <div className="p-3">
                    <p className="font-bold">{b.name}</p>
                    <p className="num text-soft">{say("Lab {lab}", { lab: b.lab.join("  ") })}</p>
                    <p className="text-soft">
                      {say("within ΔE")} <span className="num">{b.within_delta_e}</span>
                    </p>
                    {me.role !== "viewer" && (
                      <Button
                        kind="quiet"
                        onClick={() => remove(b.id)}
                        label={say("Take it away: {name}", { name: b.name })}
                      >
                        {say("Take it away")}
                      </Button>
                    )}
                  </div>
                </li>
              ))}
          </ul>
        </section>
      ))}
    </main>
  );
}

function NewBrand({ customers, onClose }: { customers: string[]; onClose: () => void }) {
  const { run, wrong } = useDeed();
  const [customer, setCustomer] = useState(customers[0] ?? "");
  const [name, setName] = useState("");
  const [lab, setLab] = useState(["", "", ""]);
  const [within, setWithin] = useState("3");
  const save = () =>
    void run(() =>
      told<BrandColour>(
        api.PUT("/api/colour/brands/{brand}", {
          params: { path: { brand: newId().slice(0, 16) } },
          body: {
            customer: customer.trim(),
            name: name.trim(),
            lab: lab.map((v) => (v.trim() ? Number(v.replace(",", ".")) : null)),
            within_delta_e: Number(within.replace(",", ".")),
          },
        }),
      ),
    ).then((made) => made && onClose());
  return (
    <form
      className="mt-3 max-w-2xl rounded-lg border border-hair2 p-4"
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <Typed label={say("Customer, as the orders name it")} value={customer} onChange={setCustomer} />
        <Typed label={say("The colour's name")} value={name} onChange={setName} />
      </div>
      <div className="mt-2 grid grid-cols-4 gap-3">
        {["L", "a", "b"].map((axis, i) => (
          <label key={axis}>
            <span className="font-semibold">{axis}</span>
            <input
              className="field num"
              inputMode="decimal"
              value={lab[i]}
              onChange={(e) => setLab(lab.map((v, n) => (n === i ? e.target.value : v)))}
            />
          </label>
        ))}
        <label>
          <span className="font-semibold">{say("within ΔE")}</span>
          <input className="field num" inputMode="decimal" value={within} onChange={(e) => setWithin(e.target.value)} />
        </label>
      </div>
      <p className="mt-1 text-sm text-soft">{say("Lab under D50, measured or from the customer's own sheet.")}</p>
      <Wrong said={wrong} />
      <div className="mt-3 flex gap-2">
        <Button kind="go" type="submit">
          {say("Watch for it")}
        </Button>
        <Button onClick={onClose}>{say("Leave it")}</Button>
      </div>
    </form>
  );
}
