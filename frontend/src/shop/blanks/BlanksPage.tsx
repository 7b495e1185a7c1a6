import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, told } from "../../api/client";
import type { Blank, BlankView } from "../../api/types";
import { useShop } from "../../api/useShop";
import { Bench } from "../../bench/Bench";
import { GarmentPicture } from "../../bench/GarmentPicture";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { useMoney } from "../../ui/money";
import { Button, Choice } from "../../ui/parts";
import { Tables } from "../../ui/Tables";
import { when } from "../../ui/when";
import { BlankForm } from "./BlankForm";

/** What is decorated: each blank to scale, with what its cloth, colour and obstacles allow. */
export default function BlanksPage() {
  const { blank = "" } = useParams();
  const navigate = useNavigate();
  const { shop } = useShop();
  const me = useMe();
  const [isNew, setNew] = useState(false);
  useEffect(() => {
    document.title = say("Blanks · Offsetter");
  }, []);
  const open = blank || shop?.blanks[0]?.id || "";
  return (
    <div className="grid min-h-0 grow grid-cols-[250px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside
        aria-label={say("Blanks")}
        className="flex min-h-0 flex-col border-r border-hair bg-panel max-[900px]:max-h-60"
      >
        <ul className="min-h-0 grow overflow-auto py-3">
          {articles(shop?.blanks ?? []).map((colours) => (
            <li key={colours[0]?.id} className="border-b border-hair last:border-b-0">
              {colours.map((b) => (
                <button
                  key={b.id}
                  type="button"
                  aria-current={b.id === open ? "true" : undefined}
                  onClick={() => navigate(`/blanks/${b.id}`)}
                  className={`flex w-full items-center gap-2.5 border-l-4 px-3 py-1.5 text-left ${b.id === open ? "border-act bg-act-soft" : "border-transparent"}`}
                >
                  <span className="size-6 shrink-0 rounded border border-hair2" style={{ background: b.colour }} />
                  <span>
                    <span className="block leading-tight font-semibold">{b.name}</span>
                    <span className="block text-sm text-soft">{b.colour_name}</span>
                  </span>
                </button>
              ))}
            </li>
          ))}
        </ul>
        {me.role !== "viewer" && (
          <div className="border-t border-hair px-4 py-3">
            <Button onClick={() => setNew(true)}>{say("A blank of our own")}</Button>
            <p className="mt-2">
              <Tables
                list="blanks"
                brings="blanks"
                hint={say(
                  "The columns like (a general kind, such as Cotton tee) and colour name; colour as #1A2B3C where it is another one than the kind's own; name, price and code besides, if you like.",
                )}
              />
            </p>
          </div>
        )}
      </aside>
      {open ? <OneBlank key={open} id={open} /> : <main className="p-6 text-soft">{say("Opening…")}</main>}
      {isNew && <BlankForm onClose={() => setNew(false)} onSaved={(id) => navigate(`/blanks/${id}`)} />}
    </div>
  );
}

/** Colours of one article together, in the order of the first. */
function articles(blanks: Blank[]): Blank[][] {
  const found = new Map<string, Blank[]>();
  for (const b of blanks) {
    const key = b.article || b.id;
    found.set(key, [...(found.get(key) ?? []), b]);
  }
  return [...found.values()];
}

const MARK = { good: say("goes"), caution: say("with care"), "ruled-out": say("does not go") } as const;

function OneBlank({ id }: { id: string }) {
  const { money } = useMoney();
  const units = useUnits();
  const me = useMe();
  const [size, setSize] = useState("");
  const [isChanging, setChanging] = useState(false);
  const [isColouring, setColouring] = useState(false);
  const navigate = useNavigate();
  const query = useQuery({
    queryKey: ["blank", id, size],
    queryFn: () =>
      told<BlankView>(api.GET("/api/blanks/{blank_id}", { params: { path: { blank_id: id }, query: { size } } })),
    placeholderData: (before) => (before?.blank.id === id ? before : undefined),
  });
  const seen = query.data;
  if (!seen) return <main className="p-6 text-soft">{query.error?.message ?? say("Opening the blank…")}</main>;
  const { blank, drawing } = seen;
  const sizes = Object.keys(blank.sizes);
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_370px] max-[1100px]:grid-cols-1 max-[1100px]:overflow-auto">
      <section aria-label={say("The blank")} className="flex min-h-0 flex-col bg-bench max-[1100px]:min-h-[420px]">
        <div className="px-6 pt-4">
          <h1 className="text-[17px] leading-snug font-bold">
            {say("{name}, {colour}: {fitting} of {all} ways go on it", {
              name: blank.name,
              colour: blank.colour_name,
              fitting: seen.fits.filter((f) => f.verdict !== "ruled-out").length,
              all: seen.fits.length,
            })}
          </h1>
          <p className="text-sm text-soft">{saidOf(blank, units)}</p>
        </div>
        <Bench
          label={say("{name}, size {size}, to scale", { name: blank.name, size: drawing.size })}
          bounds={drawing.bounds_mm}
          pad={[30, 120, 44, 60]}
        >
          <GarmentPicture garment={drawing} />
        </Bench>
      </section>
      <aside aria-label={say("What it is")} className="min-h-0 overflow-auto border-l border-hair bg-panel px-5 py-4">
        {sizes.length > 1 && (
          <Choice
            label={say("Size")}
            value={drawing.size}
            options={sizes.map((s) => ({ id: s, name: s }))}
            onChange={setSize}
          />
        )}
        <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
          <dt className="text-soft">{say("Colour")}</dt>
          <dd className="num">
            {blank.colour}, L* {seen.lab[0]} a* {seen.lab[1]} b* {seen.lab[2]}
          </dd>
          {seen.changed_by && seen.changed_at && (
            <>
              <dt className="text-soft">{say("Changed")}</dt>
              <dd>
                {say("by {changed_by}, {changed_at}", {
                  changed_by: seen.changed_by,
                  changed_at: when(seen.changed_at),
                })}
              </dd>
            </>
          )}
          <dt className="text-soft">{say("Thick")}</dt>
          <dd className="num">{units.length(blank.thickness_mm, 2)}</dd>
          <dt className="text-soft">{say("Scorches at")}</dt>
          <dd className="num">{units.bothHeats(blank.scorch_c)}</dd>
          <dt className="text-soft">{say("Stretch")}</dt>
          <dd>{worded(blank.stretch)}</dd>
          {blank.kind === "hard" && (
            <>
              <dt className="text-soft">{say("Made of")}</dt>
              <dd className={blank.material ? "" : "text-need"}>
                {(blank.material && worded(blank.material)) || say("not known yet")}
              </dd>
              <dt className="text-soft">{say("Coating")}</dt>
              <dd>{blank.coated ? say("takes dye") : say("none")}</dd>
            </>
          )}
          <dt className="text-soft">{say("Costs")}</dt>
          <dd className="num">{money(blank.price)}</dd>
        </dl>
        {me.role !== "viewer" && (
          <div className="mt-2 flex flex-wrap gap-2">
            <Button onClick={() => setChanging(true)}>{say("Change it")}</Button>
            <Button onClick={() => setColouring(true)}>{say("Another colour of it")}</Button>
          </div>
        )}
        <h2 className="mt-4 font-semibold">{say("What goes on it")}</h2>
        <ul>
          {[...seen.fits]
            .sort((a, b) => rank(a.verdict) - rank(b.verdict))
            .map((f) => (
              <li key={f.method} className="border-b border-hair py-1">
                <span className={f.verdict === "ruled-out" ? "text-soft" : "font-semibold"}>{f.name}</span>{" "}
                <span className={f.verdict === "caution" ? "text-need" : "text-soft"}>
                  {MARK[f.verdict]}
                  {f.why && `: ${f.why}`}
                </span>
              </li>
            ))}
        </ul>
      </aside>
      {isColouring && (
        <BlankForm like={blank} onClose={() => setColouring(false)} onSaved={(made) => navigate(`/blanks/${made}`)} />
      )}
      {isChanging && <BlankForm blank={blank} onClose={() => setChanging(false)} onSaved={() => query.refetch()} />}
    </main>
  );
}

function rank(verdict: keyof typeof MARK): number {
  return { good: 0, caution: 1, "ruled-out": 2 }[verdict];
}

function saidOf(blank: Blank, units: ReturnType<typeof useUnits>): string {
  const fibres = Object.entries(blank.fibres ?? {})
    .map(([f, share]) => `${Math.round(share * 100)} % ${f}`)
    .join(", ");
  const stands = (blank.obstacles ?? [])
    .map((o) => say("{kind} {stands_mm} high", { kind: o.kind, stands_mm: units.length(o.stands_mm, 1) }))
    .join(", ");
  const up = blank.up_by ? say("its {up_by} says which way is up", { up_by: blank.up_by }) : "";
  return [fibres || say("hard"), stands, up].filter(Boolean).join(" · ");
}
