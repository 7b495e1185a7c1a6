import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, told } from "../../api/client";
import type { Kinds, MachineKind, MachineSort, Shop } from "../../api/types";
import { useShop } from "../../api/useShop";
import { WaySection } from "../../bench/WaySection";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";
import { useKinds } from "../machines/machines";
import { NewMachine } from "../machines/NewMachine";
import { Plain } from "../machines/Value";
import { Example, usePrices } from "../prices/PricesPage";

const STEPS = ["ways", "printers", "presses", "blanks", "prices"] as const;
type Step = (typeof STEPS)[number];

/** A new shop filled by what a technician knows of it: five questions, in any order, left and gone on with at any time. */
export default function FirstDay() {
  const { shop } = useShop();
  const kinds = useKinds();
  const [step, setStep] = useState<Step>("ways");
  const [chosen, setChosen] = useState<ReadonlySet<string> | null>(null);
  useEffect(() => {
    document.title = say("First day · Offsetter");
  }, []);
  if (!shop || !kinds) return <main className="p-6 text-soft">{say("Opening…")}</main>;
  // What a printer of the shop's own does is chosen already.
  const ways = chosen ?? new Set(shop.printers.flatMap((p) => p.feeds.map((f) => f.method)));
  const answers: Record<Step, string> = {
    ways: ways.size ? [...ways].map((w) => shop.method_names[w] ?? w).join(", ") : say("not said yet"),
    printers: shop.printers.map((p) => p.name).join(", ") || say("none yet"),
    presses: [...shop.presses, ...shop.ovens, ...shop.cutters].map((p) => p.name).join(", ") || say("none yet"),
    blanks: shop.blanks.length ? several(shop.blanks.length, "blank") : say("none yet"),
    prices: say("in {currency}", { currency: shop.currency }),
  };
  const asked: Record<Step, string> = {
    ways: say("Which ways do you print?"),
    printers: say("What prints them?"),
    presses: say("What presses them?"),
    blanks: say("What do you print on?"),
    prices: say("What do hands and machines cost?"),
  };
  const next = () => setStep(STEPS[STEPS.indexOf(step) + 1] ?? "prices");
  return (
    <div className="grid min-h-0 grow grid-cols-[260px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside aria-label={say("The questions")} className="flex min-h-0 flex-col border-r border-hair bg-panel py-4">
        <ol className="min-h-0 grow overflow-auto">
          {STEPS.map((s) => (
            <li key={s}>
              <button
                type="button"
                aria-current={s === step ? "step" : undefined}
                onClick={() => setStep(s)}
                className={`w-full border-l-4 px-4 py-2 text-left ${s === step ? "border-act bg-act-soft" : "border-transparent"}`}
              >
                <span className="block font-semibold">{asked[s]}</span>
                <span className="block text-sm text-soft">{answers[s]}</span>
              </button>
            </li>
          ))}
        </ol>
        <Order shop={shop} />
      </aside>
      <main className="min-h-0 overflow-auto px-6 py-5">
        <div className="flex items-start justify-between gap-4">
          <h1 className="text-2xl font-bold">{asked[step]}</h1>
          {step !== "prices" && (
            <Button kind="go" onClick={next}>
              {say("Go on")}
            </Button>
          )}
        </div>
        {step === "ways" && <Ways kinds={kinds} ways={ways} onChange={setChosen} />}
        {step === "printers" && <Printers shop={shop} kinds={kinds} ways={ways} />}
        {step === "presses" && <Presses shop={shop} kinds={kinds} ways={ways} />}
        {step === "blanks" && <Blanks shop={shop} kinds={kinds} />}
        {step === "prices" && <Prices />}
      </main>
    </div>
  );
}

/** What an order still needs, and the order itself. */
function Order({ shop }: { shop: Shop }) {
  const navigate = useNavigate();
  const missing = [
    !shop.printers.length && say("a printer"),
    !shop.presses.length && say("a press"),
    !shop.blanks.length && say("a blank"),
  ].filter(Boolean);
  return (
    <div className="border-t border-hair px-4 pt-3">
      <Button kind="go" wide disabled={missing.length > 0} onClick={() => navigate("/jobs?new")}>
        {say("Take the first order")}
      </Button>
      <p className="mt-1 text-sm text-soft">
        {missing.length
          ? say("It wants {missing} first.", { missing: missing.join(", ") })
          : say("The rest can wait: it is asked when it first matters.")}
      </p>
    </div>
  );
}

type WaysProps = { kinds: Kinds; ways: ReadonlySet<string>; onChange: (ways: ReadonlySet<string>) => void };

function Ways({ kinds, ways, onChange }: WaysProps) {
  return (
    <>
      <p className="text-soft">{say("Each as what ends up in or on the piece. Choose all that your machines do.")}</p>
      <ul className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(200px,1fr))] gap-3">
        {kinds.ways.map((w) => {
          const isOn = ways.has(w.id);
          return (
            <li key={w.id}>
              <button
                type="button"
                aria-pressed={isOn}
                onClick={() => {
                  const changed = new Set(ways);
                  if (!changed.delete(w.id)) changed.add(w.id);
                  onChange(changed);
                }}
                className={`h-full w-full rounded-lg border p-3 text-left ${isOn ? "border-act bg-act-soft outline outline-2 outline-act" : "border-hair2 bg-panel"}`}
              >
                <WaySection cloth="#d9d4c7" lies={w.lies} white={w.white} isHard={w.is_hard_only} />
                <span className="mt-1 block font-semibold">{w.name}</span>
                <span className="block text-sm text-soft">{w.carrier}</span>
              </button>
            </li>
          );
        })}
      </ul>
    </>
  );
}

function Printers({ shop, kinds, ways }: { shop: Shop; kinds: Kinds; ways: ReadonlySet<string> }) {
  const have = new Set(shop.printers.flatMap((p) => p.feeds.map((f) => f.method)));
  const open = [...ways].filter((w) => !have.has(w));
  const fit = kinds.machines.filter((k) => k.sort === "printers" && (!ways.size || k.methods.some((m) => ways.has(m))));
  return (
    <>
      <p className="text-soft">
        {say("The nearest kind will do. What it usually is gets filled in and marked until you have looked at it.")}
      </p>
      {open.length > 0 && shop.printers.length > 0 && (
        <p className="mt-1 text-need">
          {say("Nothing prints")} {open.map((w) => shop.method_names[w] ?? w).join(", ")} {say("yet.")}
        </p>
      )}
      <KindList kinds={fit} shop={shop} sort="printers" />
    </>
  );
}

function Presses({ shop, kinds, ways }: { shop: Shop; kinds: Kinds; ways: ReadonlySet<string> }) {
  const cures = kinds.ways.some((w) => ways.has(w.id) && w.cures_in_oven);
  const of = (sort: MachineSort) => kinds.machines.filter((k) => k.sort === sort);
  return (
    <>
      <p className="text-soft">
        {say("Its platen and its highest heat matter first; how it heats is measured one quiet day.")}
      </p>
      <KindList kinds={of("presses")} shop={shop} sort="presses" />
      {ways.has("print-cut") && (
        <>
          <h2 className="mt-5 font-semibold">{say("Printed vinyl is cut by its printer, or on a cutter apart")}</h2>
          <KindList kinds={of("cutters")} shop={shop} sort="cutters" />
        </>
      )}
      {cures && (
        <>
          <h2 className="mt-5 font-semibold">{say("Powder is melted in an oven, or hovering under the press")}</h2>
          <KindList kinds={of("ovens")} shop={shop} sort="ovens" />
        </>
      )}
    </>
  );
}

function KindList({ kinds, shop, sort }: { kinds: MachineKind[]; shop: Shop; sort: MachineSort }) {
  const [open, setOpen] = useState("");
  return (
    <ul className="mt-2 max-w-3xl">
      {kinds.map((k) => {
        const have = shop[sort].filter((m) => m.began_as === k.id).map((m) => m.name);
        return (
          <Row key={k.id} name={k.name} said={k.said} have={have.join(", ")}>
            {open === k.id ? (
              <NewMachine kind={k} onAdded={() => setOpen((now) => (now === k.id ? "" : now))} />
            ) : (
              <Button onClick={() => setOpen(k.id)}>{have.length ? say("One more") : say("We have one")}</Button>
            )}
          </Row>
        );
      })}
    </ul>
  );
}

function Row({ name, said, have, children }: { name: string; said: string; have: string; children: ReactNode }) {
  return (
    <li className="flex flex-wrap items-center justify-between gap-3 border-b border-hair py-2">
      <div className="min-w-0">
        <p className="font-semibold">
          {name}
          {have && <span className="ml-2 text-done">✓ {have}</span>}
        </p>
        <p className="text-sm text-soft">{said}</p>
      </div>
      {children}
    </li>
  );
}

function Blanks({ shop, kinds }: { shop: Shop; kinds: Kinds }) {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const add = async (kind: string, colour: string) => {
    const asked = told(api.POST("/api/blanks/starter", { body: { kind, colours: [colour] } }));
    if (await tell(asked)) await queries.invalidateQueries();
  };
  return (
    <>
      <p className="text-soft">
        {say(
          "Press the colours that lie on your shelf; sizes, fibres and prices are filled in and can be put right at",
        )}{" "}
        <Link to="/blanks" className="text-act underline underline-offset-2">
          {say("Blanks")}
        </Link>
        .
      </p>
      <Refused said={wrong} />
      <ul className="mt-2 max-w-3xl">
        {kinds.blanks.map((b) => (
          <Row key={b.id} name={b.name} said={b.said} have="">
            <div className="flex flex-wrap gap-2">
              {b.colours.map(([name, rgb]) => {
                const isHere = shop.blanks.some((x) => x.article === b.id && x.colour_name === name);
                return (
                  <button
                    key={name}
                    type="button"
                    aria-pressed={isHere}
                    disabled={isHere}
                    onClick={() => void add(b.id, String(name))}
                    className={`flex min-h-10 items-center gap-2 rounded-lg border px-3 font-semibold ${isHere ? "border-act bg-act-soft" : "border-hair2 bg-raise"}`}
                  >
                    <span className="size-5 rounded border border-hair2" style={{ background: String(rgb) }} />
                    {name}
                    {isHere && <span className="text-done">✓</span>}
                  </button>
                );
              })}
            </div>
          </Row>
        ))}
      </ul>
    </>
  );
}

function Prices() {
  const { view, wrong, change } = usePrices();
  if (!view) return null;
  const { prices, example } = view;
  const said = { sources: prices.sources };
  return (
    <div className="max-w-xl">
      <p className="text-soft">
        {say("Two figures move everything else; the rest is at")}{" "}
        <Link to="/prices" className="text-act underline underline-offset-2">
          {say("Prices")}
        </Link>
        .
      </p>
      <Refused said={wrong} />
      <div className="mt-3 grid grid-cols-2 gap-4">
        <Plain
          label={say("An hour of hands, {currency}", { currency: prices.currency })}
          value={Number(prices.hands_hour)}
          decimals={2}
          field="hands_hour"
          {...said}
          onDone={(v) => void change({ hands_hour: v.toFixed(2) })}
        />
        <Plain
          label={say("An hour of a machine, {currency}", { currency: prices.currency })}
          value={Number(prices.machine_hour)}
          decimals={2}
          field="machine_hour"
          {...said}
          onDone={(v) => void change({ machine_hour: v.toFixed(2) })}
        />
        <Plain
          label={say("Of the price, kept as margin")}
          unit="%"
          value={Number(prices.margin_share) * 100}
          field="margin_share"
          {...said}
          onDone={(v) => void change({ margin_share: (v / 100).toFixed(4) })}
        />
      </div>
      <p className="mt-4 text-lg">
        {say("A plain piece would cost")} <span className="num font-bold">{example.cost}</span> {say("and be sold for")}{" "}
        <span className="num font-bold">{example.price}</span> {prices.currency}.
      </p>
      <Example view={view} />
    </div>
  );
}
