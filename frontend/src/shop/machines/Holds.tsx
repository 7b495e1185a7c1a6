import type { Printer } from "../../api/types";
import { say } from "../../texts/say";
import { useAtWork } from "../../ui/atMachine";
import { INKS, useInkNames } from "../../ui/inks";
import type { Changes } from "./machines";
import { Plain, Source } from "./Value";

/** The inks beside the four: each has its own plate, tank, price and row on a nozzle sheet. */
export function Inks({ printer, changes }: { printer: Printer; changes: Changes }) {
  const { names, nameOf } = useInkNames();
  const held = printer.inks ?? [];
  if (Object.keys(printer.yields ?? {}).length) return null;
  const set = (ink: string, isHeld: boolean) =>
    void changes.change({ inks: Object.keys(names).filter((c) => (c === ink ? isHeld : held.includes(c))) });
  return (
    <fieldset>
      <legend className="font-semibold">{say("Inks besides cyan, magenta, yellow and black")}</legend>
      <div className="mt-1 flex flex-wrap gap-2">
        {Object.keys(names)
          .filter((c) => !["C", "M", "Y", "K", "W"].includes(c))
          .map((c) => (
            <button
              key={c}
              type="button"
              aria-pressed={held.includes(c)}
              onClick={() => set(c, !held.includes(c))}
              className="flex min-h-9 items-center gap-1.5 rounded-md border border-hair2 bg-panel px-2 text-sm aria-pressed:border-act aria-pressed:bg-act-soft aria-pressed:font-semibold"
            >
              <span className="size-3 rounded-full" style={{ background: INKS[c]?.fill }} />
              {nameOf(c)}
            </button>
          ))}
      </div>
      <p className="mt-1 text-sm text-soft">
        {say(
          "Light inks share the tones of their full ones by themselves; others want a profile made for all its inks.",
        )}
      </p>
    </fieldset>
  );
}

/** What each container holds when it is full: with it, levels become millilitres, pages and days. */
export function Holds({ printer, changes }: { printer: Printer; changes: Changes }) {
  const tanks = printer.tanks_ml ?? {};
  const yields = printer.yields ?? {};
  const now = useAtWork(printer.id);
  const known = [
    ...new Set([...Object.keys(tanks), ...Object.keys(yields), ...(now?.supplies ?? []).map((s) => s.channel)]),
  ];
  if (!known.length) return null;
  known.push(...(printer.inks ?? []).filter((c) => !known.includes(c)));
  const isToner = Object.keys(yields).length > 0;
  const field = isToner ? "yields" : "tanks_ml";
  const kept = isToner ? yields : tanks;
  return (
    <fieldset>
      <legend className="font-semibold">
        {isToner ? say("A full cartridge gives, in A4 pages at 5 %") : say("Holds when full, mL")}
      </legend>
      <Source sources={printer.sources} field={field} />
      <div className="grid grid-cols-5 gap-2">
        {known.map((c) => (
          <Plain
            key={c}
            label={c}
            value={kept[c] ?? 0}
            sources={undefined}
            field=""
            onDone={(v) => {
              const { [c]: _, ...rest } = kept;
              void changes.change({ [field]: v > 0 ? { ...rest, [c]: isToner ? Math.round(v) : v } : rest });
            }}
          />
        ))}
      </div>
    </fieldset>
  );
}

const PARTS = [
  ["drum", say("Drum")],
  ["belt", say("Transfer belt")],
  ["fuser", say("Fuser")],
  ["waste", say("Waste box")],
] as const;

/** How many pages each worn part is good for: with it, what the printer says becomes pages and days. */
export function Parts({ printer, changes }: { printer: Printer; changes: Changes }) {
  const kept = printer.part_pages ?? {};
  if (!Object.keys(printer.yields ?? {}).length) return null;
  return (
    <fieldset>
      <legend className="font-semibold">{say("Its parts are good for, in A4 pages")}</legend>
      <Source sources={printer.sources} field="part_pages" />
      <div className="grid grid-cols-2 gap-2">
        {PARTS.map(([part, name]) => (
          <Plain
            key={part}
            label={name}
            value={kept[part] ?? 0}
            sources={undefined}
            field=""
            onDone={(v) => {
              const { [part]: _, ...rest } = kept;
              void changes.change({ part_pages: v > 0 ? { ...rest, [part]: Math.round(v) } : rest });
            }}
          />
        ))}
      </div>
    </fieldset>
  );
}
