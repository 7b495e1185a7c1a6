import { useState } from "react";
import type { Feed, Printer } from "../../api/types";
import { useShop } from "../../api/useShop";
import { Bench, useView } from "../../bench/Bench";
import { may, useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { useAtWork } from "../../ui/atMachine";
import { useMoney } from "../../ui/money";
import { Button, Pick, Switch } from "../../ui/parts";
import { usePrices } from "../prices/PricesPage";
import { Holds, Inks, Parts } from "./Holds";
import { type Changes, useChanges, useKinds } from "./machines";
import { Now } from "./Now";
import { OneMachine } from "./OneMachine";
import { Length, Plain, Source, Words } from "./Value";

const GAP_MM = 70;
/** A roll is drawn as far as it hangs out. */
const ROLL_MM = 620;

/** A printer: how it stands now, and behind that what it takes. */
export function OnePrinter({ printer }: { printer: Printer }) {
  const now = useAtWork(printer.id);
  const [isOpen, setOpen] = useState(false);
  if (!isOpen && now) return <Now printer={printer} now={now} onValues={() => setOpen(true)} />;
  return <Taken printer={printer} onBack={() => setOpen(false)} />;
}

/** A printer: each medium that it takes, to one scale, with what its heads reach; and the values of the one chosen. */
function Taken({ printer, onBack }: { printer: Printer; onBack: () => void }) {
  const { shop } = useShop();
  const changes = useChanges("printers", printer.id);
  const [method, setMethod] = useState(printer.feeds[0]?.method ?? "");
  const feed = printer.feeds.find((f) => f.method === method) ?? printer.feeds[0];
  const called = (m: string) => shop?.method_names[m] ?? m;
  const offered = printer.feeds.filter((f) => f.offered);
  const put = (changed: Feed) =>
    void changes.change({ feeds: printer.feeds.map((f) => (f.method === changed.method ? changed : f)) });
  const said = { sources: printer.sources };
  return (
    <OneMachine
      machine={printer}
      changes={changes}
      verdict={
        offered.length
          ? say("{name} prints for {ways}", {
              name: printer.name,
              ways: offered.map((f) => called(f.method).toLowerCase()).join(", "),
            })
          : say("{name} is offered for nothing", { name: printer.name })
      }
      sub={
        printer.takes === "rgb"
          ? say("Its driver separates: it is sent RGB in its own profile.")
          : say("It is sent ink shares, plate by plate.")
      }
      drawing={<Feeds printer={printer} chosen={feed?.method ?? ""} onChoose={setMethod} />}
    >
      <div>
        <Button onClick={onBack}>{say("How it stands now")}</Button>
      </div>
      {printer.feeds.length > 1 && feed && (
        <Pick
          label={say("Medium for")}
          value={feed.method}
          options={printer.feeds.map((f) => ({ id: f.method, name: called(f.method) }))}
          onChange={setMethod}
        />
      )}
      {feed && <FeedValues key={feed.method} feed={feed} printer={printer} put={put} />}
      <AnotherWay printer={printer} changes={changes} onAdded={setMethod} />
      <h2 className="border-t border-hair pt-3 font-semibold">{say("The printer")}</h2>
      <div className="grid grid-cols-2 gap-3">
        <Length
          label={say("Plates shift up to")}
          fine
          value={printer.plate_shift_mm}
          field="plate_shift_mm"
          {...said}
          onDone={(v) => void changes.change({ plate_shift_mm: v })}
        />
        <Pick
          label={say("Is sent")}
          value={printer.takes ?? "inks"}
          options={[
            { id: "inks", name: say("ink shares") },
            { id: "rgb", name: say("RGB") },
          ]}
          onChange={(takes) => void changes.change({ takes })}
        />
      </div>
      <Inks printer={printer} changes={changes} />
      <Holds printer={printer} changes={changes} />
      <Parts printer={printer} changes={changes} />
      <Words
        label={say("Before the first job of the day")}
        lines={2}
        value={printer.care_before}
        field="care_before"
        {...said}
        onDone={(v) => void changes.change({ care_before: v })}
      />
      <Modes printer={printer} changes={changes} />
    </OneMachine>
  );
}

function Feeds({
  printer,
  chosen,
  onChoose,
}: {
  printer: Printer;
  chosen: string;
  onChoose: (method: string) => void;
}) {
  const high = (f: Feed) => (f.kind === "roll" ? ROLL_MM : f.length_mm);
  const wide = printer.feeds.reduce((w, f) => w + f.media_mm + GAP_MM, -GAP_MM);
  const tall = Math.max(...printer.feeds.map(high));
  let x = 0;
  const placed = printer.feeds.map((feed) => {
    const at = x;
    x += feed.media_mm + GAP_MM;
    return { feed, at, high: high(feed) };
  });
  return (
    <Bench
      label={say("What {name} takes, to scale", { name: printer.name })}
      bounds={[0, 0, wide, tall]}
      pad={[40, 60, 64, 60]}
      movable
    >
      {placed.map((p) => (
        <OneFeed
          key={p.feed.method}
          {...p}
          isChosen={p.feed.method === chosen}
          onChoose={() => onChoose(p.feed.method)}
        />
      ))}
    </Bench>
  );
}

type OneFeedProps = { feed: Feed; at: number; high: number; isChosen: boolean; onChoose: () => void };

function OneFeed({ feed, at, high, isChosen, onChoose }: OneFeedProps) {
  const view = useView();
  const units = useUnits();
  const { shop } = useShop();
  const [x, y, w, h] = [view.x(at), view.y(0), feed.media_mm * view.scale, high * view.scale];
  const side = ((feed.media_mm - feed.printable_mm) / 2) * view.scale;
  const end = feed.margin_mm * view.scale;
  const name = shop?.method_names[feed.method] ?? feed.method;
  const measure =
    feed.kind === "roll"
      ? units.length(feed.media_mm)
      : `${units.length(feed.media_mm)} x ${units.length(feed.length_mm)}`;
  const shown = w > 70 ? name : name.slice(0, 8);
  const prints = w > 110 ? say("prints {printable_mm}", { printable_mm: units.length(feed.printable_mm) }) : "";
  return (
    <g>
      {/* biome-ignore lint/a11y/useSemanticElements: a button cannot stand in a drawing. */}
      <g
        role="button"
        tabIndex={0}
        aria-pressed={isChosen}
        aria-label={`${name}: ${feed.media}, ${measure}`}
        className={`cursor-pointer ${feed.offered ? "" : "opacity-50"}`}
        onClick={onChoose}
        onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && onChoose()}
      >
        <rect
          x={x}
          y={y}
          width={w}
          height={h}
          className={isChosen ? "fill-act-soft stroke-act" : "fill-panel stroke-hair2"}
          strokeWidth={isChosen ? 2.5 : 1.5}
        />
        {feed.kind === "roll" && <ellipse cx={x + w / 2} cy={y} rx={w / 2} ry={9} className="fill-panel stroke-ink" />}
        <rect
          x={x + side}
          y={y + end}
          width={Math.max(1, w - 2 * side)}
          height={Math.max(1, h - 2 * end)}
          fill="none"
          className="stroke-ink"
          strokeDasharray="5 4"
        />
      </g>
      <text x={x + w / 2} y={y - 16} textAnchor="middle" className="num fill-ink text-sm">
        {measure}
      </text>
      <text x={x + w / 2} y={y + h + 18} textAnchor="middle" className="fill-ink text-sm font-semibold">
        {shown}
      </text>
      <text x={x + w / 2} y={y + h + 35} textAnchor="middle" className="fill-soft text-sm">
        {prints}
      </text>
    </g>
  );
}

function FeedValues({ feed, printer, put }: { feed: Feed; printer: Printer; put: (feed: Feed) => void }) {
  const me = useMe();
  const { sign } = useMoney();
  const { view: prices } = usePrices();
  const set = (part: Partial<Feed>) => put({ ...feed, ...part });
  const said = { sources: undefined, field: "" };
  return (
    <section aria-label={say("The medium")} className="flex flex-col gap-3">
      <Words label={say("Medium")} value={feed.media} onDone={(v) => set({ media: v })} />
      <Source sources={printer.sources} field={`feeds.${feed.method}`} />
      <Pick
        label={say("Comes as")}
        value={feed.kind ?? "roll"}
        options={[
          { id: "roll", name: say("a roll") },
          { id: "sheet", name: say("sheets") },
          { id: "garment", name: say("the garment itself") },
        ]}
        onChange={(kind) => set({ kind })}
      />
      <div className="grid grid-cols-2 gap-3">
        <Length
          label={say("Wide")}
          value={feed.media_mm}
          {...said}
          onDone={(v) => set({ media_mm: v, printable_mm: Math.min(v, feed.printable_mm) })}
        />
        <Length
          label={feed.kind === "roll" ? say("Cut off at most") : say("Long")}
          value={feed.length_mm}
          {...said}
          onDone={(v) => set({ length_mm: v })}
        />
        <Length
          label={say("Heads reach")}
          value={feed.printable_mm}
          {...said}
          onDone={(v) => set({ printable_mm: v })}
        />
        <Length
          label={say("Free at each end")}
          value={feed.margin_mm}
          {...said}
          onDone={(v) => set({ margin_mm: v })}
        />
      </div>
      {feed.kind !== "garment" && (
        <fieldset disabled={!may(me, "prices")}>
          <Plain
            label={
              feed.kind === "roll" ? say("Costs, {sign} a metre", { sign }) : say("Costs, {sign} a sheet", { sign })
            }
            value={Number(feed.price ?? (feed.kind === "roll" ? prices?.prices.media_m : 0))}
            decimals={2}
            {...said}
            onDone={(v) => set({ price: v.toFixed(2) })}
          />
          {feed.price == null && (
            <p className="text-sm text-soft">{say("From the shop's list of prices until it has its own.")}</p>
          )}
        </fieldset>
      )}
      <Words
        label={say("The one thing to do when loading")}
        value={feed.verdict ?? ""}
        onDone={(v) => set({ verdict: v })}
      />
      <div className="grid grid-cols-2 gap-3">
        <Words
          label={say("The face that is printed")}
          value={feed.faces?.[0] ?? ""}
          hint={say("how it is told")}
          onDone={(v) => set({ faces: v ? [v, ...(feed.faces?.slice(1) ?? [])] : [] })}
        />
        <Words
          label={say("The other face")}
          value={feed.faces?.[1] ?? ""}
          onDone={(v) => set({ faces: [feed.faces?.[0] ?? say("printed face"), ...(v ? [v] : [])] })}
        />
      </div>
      <Words
        label={say("How it is loaded, a line a step")}
        lines={4}
        value={feed.load_card.join("\n")}
        onDone={(v) =>
          set({
            load_card: v
              .split("\n")
              .map((l) => l.trim())
              .filter(Boolean),
          })
        }
      />
      <Switch
        label={say("Offered")}
        hint={say("Off: no new work goes this way on it.")}
        value={feed.offered ?? true}
        onChange={(offered) => set({ offered })}
      />
    </section>
  );
}

/** A further way that this printer can be used for: begins as the general kind's medium for it. */
function AnotherWay({
  printer,
  changes,
  onAdded,
}: {
  printer: Printer;
  changes: Changes;
  onAdded: (m: string) => void;
}) {
  const kinds = useKinds();
  const { shop } = useShop();
  const free = Object.keys(kinds?.feeds ?? {}).filter((m) => !printer.feeds.some((f) => f.method === m));
  if (!free.length) return null;
  return (
    <Pick
      label={say("Another way it prints for")}
      value=""
      options={[{ id: "", name: say("choose one") }, ...free.map((m) => ({ id: m, name: shop?.method_names[m] ?? m }))]}
      onChange={async (method) => {
        const begins = kinds?.feeds[method];
        if (begins && (await changes.change({ feeds: [...printer.feeds, { ...begins, price: null }] })))
          onAdded(method);
      }}
    />
  );
}

function Modes({ printer, changes }: { printer: Printer; changes: Changes }) {
  const set = (at: number, part: Partial<Printer["modes"][number]>) =>
    void changes.change({ modes: printer.modes.map((m, i) => (i === at ? { ...m, ...part } : m)) });
  const plain = { sources: undefined, field: "" };
  return (
    <fieldset>
      <legend className="font-semibold">{say("Its modes, the usual one first")}</legend>
      <Source sources={printer.sources} field="modes" />
      {printer.modes.map((m, at) => (
        <div key={m.id} className="mt-2 border-l-2 border-hair2 pl-3">
          <Words label={say("Called")} value={m.name} onDone={(name) => set(at, { name })} />
          <div className="mt-1 grid grid-cols-3 gap-2">
            <Plain label={say("dpi")} value={m.dpi} {...plain} onDone={(dpi) => set(at, { dpi: Math.round(dpi) })} />
            <Plain
              label={say("m² an hour")}
              value={m.m2_per_h}
              decimals={1}
              {...plain}
              onDone={(v) => set(at, { m2_per_h: v })}
            />
            <Plain
              label={say("white passes")}
              value={m.white_passes}
              {...plain}
              onDone={(v) => set(at, { white_passes: Math.round(v) })}
            />
          </div>
        </div>
      ))}
      <div className="mt-2">
        <Button
          onClick={() => {
            const last = printer.modes[printer.modes.length - 1];
            const id = `mode-${printer.modes.length + 1}`;
            if (last)
              void changes.change({
                modes: [...printer.modes, { ...last, id, name: say("{name}, another", { name: last.name }) }],
              });
          }}
        >
          {say("Another mode")}
        </Button>
      </div>
    </fieldset>
  );
}
