import { useState } from "react";
import type { AtWork, Printer, Tray } from "../../api/types";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { locale, say, sayMany } from "../../texts/say";
import { useHands } from "../../ui/atMachine";
import { Button, NumberField, Pick } from "../../ui/parts";
import { Refused } from "../../ui/saying";
import { Typed } from "../../ui/Typed";
import { when } from "../../ui/when";
import { Care } from "./Care";
import { Nozzles } from "./Nozzles";
import { Reached } from "./Reached";
import { days, Tanks } from "./Tanks";

/** A printer as it stands now: what it holds, what lies in it, its nozzles; beside it what it wants done. */
export function Now({ printer, now, onValues }: { printer: Printer; now: AtWork; onValues: () => void }) {
  const units = useUnits();
  const supplies = now.supplies ?? [];
  const unchecked = Object.keys(printer.sources ?? {}).length;
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_380px] max-[1100px]:block max-[1100px]:overflow-auto">
      <section
        aria-label={printer.name}
        className="min-h-0 overflow-auto bg-bench px-6 py-4 max-[1100px]:overflow-visible"
      >
        <h1 className="text-[17px] leading-snug font-bold">{now.verdict}</h1>
        <p className="mb-3 text-sm text-soft">{under(now, units)}</p>
        {now.problem && (
          <p className="mb-3 max-w-xl border-l-4 border-need pl-3">
            {say(
              "Look whether it is switched on and on the shop's network. What it said last is shown until it answers again.",
            )}
          </p>
        )}
        {supplies.length > 0 && <Tanks supplies={supplies} />}
        <Others now={now} />
        <Recording printer={printer} now={now} />
        <Trays printer={printer} now={now} />
        <Nozzles printer={printer} />
      </section>
      <aside
        aria-label={say("Care and how it is reached")}
        className="min-h-0 overflow-auto border-l border-hair bg-panel px-5 py-4"
      >
        {unchecked > 0 && (
          <p className="mb-4 border-l-4 border-need pl-3">
            <span className="font-semibold">
              {sayMany(unchecked, "{count} value comes from memory.", "{count} values come from memory.")}
            </span>{" "}
            <button type="button" onClick={onValues} className="text-act underline underline-offset-2">
              {say("Look at them")}
            </button>
          </p>
        )}
        <Care now={now} />
        <Reached printer={printer} now={now} />
        <div className="mt-4 border-t border-hair pt-3">
          <Button onClick={onValues}>{say("What it takes, and its values")}</Button>
        </div>
      </aside>
    </main>
  );
}

function under(now: AtWork, units: ReturnType<typeof useUnits>): string {
  const how = {
    network: now.told_at
      ? say("heard {told_at} over the network", { told_at: when(now.told_at) })
      : say("on the network, not heard yet"),
    folder: say("takes files from {folder}", { folder: now.folder }),
    hand: say("not on the network: levels are read and noted by hand"),
  }[now.reached];
  const m2 = now.totals?.m2;
  const [area, unit] = units.figure(m2 ?? 0, "m²");
  const done = m2
    ? say(" · {area} {unit} in {prints} prints since it is counted", {
        area: area.toFixed(1),
        unit,
        prints: Math.round(now.totals?.prints ?? 0),
      })
    : "";
  return `${how.charAt(0).toUpperCase()}${how.slice(1)}${done}`;
}

/** Waste and worn parts: no inks. */
function Others({ now }: { now: AtWork }) {
  const shown = (now.others ?? []).filter((o) => o.level_pct != null || o.has_some || o.lied);
  if (!shown.length) return null;
  return (
    <ul className="mt-3 flex flex-wrap gap-x-6 text-sm">
      {shown.map((o) => (
        <li key={o.name}>
          <span className="font-semibold">{o.name}</span>{" "}
          <span className="num text-soft">
            {o.lied
              ? say("says {lied}", { lied: o.lied })
              : o.level_pct == null
                ? say("some left")
                : o.fills_up
                  ? say("{share} % full", { share: o.level_pct })
                  : say("{share} % left", { share: o.level_pct })}
            {o.pages != null && say(", about {pages} pages", { pages: o.pages.toLocaleString(locale()) })}
            {o.lasts && `, ${days(o.lasts)}`}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** A tank filled or a level read, where hands do it. */
function Recording({ printer, now }: { printer: Printer; now: AtWork }) {
  const me = useMe();
  const hands = useHands(printer.id);
  const supplies = (now.supplies ?? []).filter((s) => s.holds);
  const [doing, setDoing] = useState<"" | "fill" | "read">("");
  const [channel, setChannel] = useState(supplies[0]?.channel ?? "");
  const [way, setWay] = useState<"poured" | "changed">("poured");
  const [amount, setAmount] = useState(0);
  const [lot, setLot] = useState("");
  const [expires, setExpires] = useState("");
  const [pct, setPct] = useState(50);
  if (me.role === "viewer" || !supplies.length) return null;
  const inks = supplies.map((s) => ({ id: s.channel, name: s.name }));
  const isToner = supplies.some((s) => s.unit === "pages");
  const close = (ok: boolean) => ok && setDoing("");
  return (
    <div className="mt-3">
      <Refused said={hands.wrong} />
      {doing === "" && (
        <div className="flex flex-wrap gap-2">
          <Button onClick={() => setDoing("fill")}>
            {isToner ? say("A cartridge was changed") : say("Ink was filled in")}
          </Button>
          {now.reached !== "network" && <Button onClick={() => setDoing("read")}>{say("Note a level")}</Button>}
        </div>
      )}
      {doing === "fill" && (
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            const poured = way === "poured" && amount > 0 ? amount : null;
            void hands
              .record({
                kind: "filled",
                channel,
                way: isToner ? "changed" : way,
                amount_ml: poured,
                lot: lot.trim(),
                expires: expires || null,
              })
              .then(close);
          }}
        >
          <Pick label={say("Which")} value={channel} options={inks} onChange={setChannel} />
          {!isToner && (
            <Pick
              label={say("How")}
              value={way}
              options={[
                { id: "poured", name: say("a bottle was poured in") },
                { id: "changed", name: say("the cartridge was changed") },
              ]}
              onChange={setWay}
            />
          )}
          {!isToner && way === "poured" && (
            <div className="w-40">
              <NumberField label={say("How much (0: full)")} unit={say("mL")} value={amount} onDone={setAmount} />
            </div>
          )}
          <div className="w-32">
            <Typed label={say("Lot")} value={lot} onChange={setLot} />
          </div>
          <label>
            <span className="font-semibold">{say("Expires")}</span>
            <input type="date" className="field" value={expires} onChange={(e) => setExpires(e.target.value)} />
          </label>
          <Button kind="go" type="submit">
            {say("Note it")}
          </Button>
          <Button onClick={() => setDoing("")}>{say("Leave it")}</Button>
        </form>
      )}
      {doing === "read" && (
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            void hands.record({ kind: "levels", pct: { [channel]: pct }, by_hand: true }).then(close);
          }}
        >
          <Pick label={say("Which")} value={channel} options={inks} onChange={setChannel} />
          <div className="w-28">
            <NumberField
              label={say("Left in it")}
              unit="%"
              value={pct}
              onDone={setPct}
              error={pct < 0 || pct > 100 ? say("0 to 100") : undefined}
            />
          </div>
          <Button kind="go" type="submit" disabled={pct < 0 || pct > 100}>
            {say("Note it")}
          </Button>
          <Button onClick={() => setDoing("")}>{say("Leave it")}</Button>
        </form>
      )}
    </div>
  );
}

/** Where sheets and rolls lie: its own word, and what somebody laid there. */
function Trays({ printer, now }: { printer: Printer; now: AtWork }) {
  const me = useMe();
  const hands = useHands(printer.id);
  const [loading, setLoading] = useState("");
  const media = [...new Set(printer.feeds.filter((f) => f.kind !== "garment").map((f) => f.media))];
  const [medium, setMedium] = useState(media[0] ?? "");
  const [lot, setLot] = useState("");
  if (!media.length) return null;
  const trays = now.trays?.length ? now.trays : [emptyTray(printer)];
  return (
    <section aria-label={say("Loaded")} className="mt-4">
      <h2 className="font-bold">{say("Loaded")}</h2>
      <Refused said={hands.wrong} />
      <ul className="mt-1 flex flex-wrap gap-3">
        {trays.map((t) => (
          <li key={t.id} className="rounded-lg border border-hair2 bg-raise px-3.5 py-2">
            <OneTray tray={t} />
            {me.role !== "viewer" && loading !== t.id && (
              <Button kind="quiet" onClick={() => setLoading(t.id)}>
                {t.media ? say("Something else was laid in") : say("Say what lies in it")}
                <span className="sr-only">: {t.name}</span>
              </Button>
            )}
            {loading === t.id && (
              <form
                className="mt-1 flex flex-wrap items-end gap-2"
                onSubmit={(e) => {
                  e.preventDefault();
                  void hands
                    .record({ kind: "loaded", tray: t.id, media: medium, lot: lot.trim() })
                    .then((ok) => ok && setLoading(""));
                }}
              >
                <Pick
                  label={say("Medium")}
                  value={medium}
                  options={media.map((m) => ({ id: m, name: m.replaceAll("-", " ") }))}
                  onChange={setMedium}
                />
                <div className="w-28">
                  <Typed label={say("Lot")} value={lot} onChange={setLot} />
                </div>
                <Button type="submit" kind="go">
                  {say("It lies there")}
                </Button>
              </form>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function emptyTray(printer: Printer): Tray {
  const id = printer.feeds.some((f) => f.kind === "roll") ? "main-roll" : "tray-1";
  return {
    id,
    name: id === "main-roll" ? say("roll") : say("tray"),
    width_mm: 0,
    length_mm: 0,
    level_pct: null,
  } as Tray;
}

function OneTray({ tray }: { tray: Tray }) {
  const units = useUnits();
  const isRoll = tray.length_mm > 1500;
  const size = tray.width_mm
    ? ` ${units.length(tray.width_mm)}${isRoll ? "" : ` x ${units.length(tray.length_mm)}`}`
    : "";
  return (
    <>
      <p>
        <span className="font-semibold">
          {tray.name.charAt(0).toUpperCase() + tray.name.slice(1)}
          {size}
        </span>
        {tray.level_pct != null && (
          <span className={`num text-sm ${tray.level_pct === 0 ? "text-need" : "text-soft"}`}>
            {" "}
            {tray.level_pct === 0 ? say("empty") : say("{share} % full", { share: tray.level_pct })}
          </span>
        )}
      </p>
      <p className="text-sm text-soft">
        {tray.media
          ? `${tray.media.replaceAll("-", " ")}${tray.lot ? say(", lot {lot}", { lot: tray.lot }) : ""}`
          : say("nobody said what lies in it")}
        {tray.loaded_at ? ` · ${when(tray.loaded_at)}, ${tray.loaded_by}` : ""}
      </p>
    </>
  );
}
