import { useRef, useState } from "react";
import { ProblemError, sent } from "../../api/client";
import { slotOf, useOutbox } from "../../api/outbox";
import type { Job } from "../../api/types";
import { useSeenFrom } from "../../line/PrintTabs";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button, NumberField, Switch } from "../../ui/parts";

/** Every piece its own text: a customer's list makes numbered pieces. */
export function Names({ jobLine }: { jobLine: JobLine }) {
  const units = useUnits();
  const outbox = useOutbox();
  const picker = useRef<HTMLInputElement>(null);
  const [isReading, setIsReading] = useState(false);
  const { kind, see } = useSeenFrom();
  const { job } = jobLine;
  const place = jobLine.document("place");
  const names = jobLine.document("order").names ?? [];
  const take = async (file: File | undefined) => {
    if (!file) return;
    setIsReading(true);
    try {
      outbox.accept(await sent<Job>(`/api/jobs/${job.id}/names?print=${job.print}`, file));
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    } finally {
      setIsReading(false);
      if (picker.current) picker.current.value = "";
    }
  };
  const text = place.text;
  return (
    <section aria-label={say("Names")}>
      <Switch
        label={say("A name on every piece")}
        hint={say("instead of a file: each numbered piece gets its own text")}
        value={Boolean(text)}
        onChange={(on) => jobLine.done("place", { text: on ? { height_um: 30_000, colour: "#FFFFFF" } : null })}
      />
      {text && (
        <>
          <div className="mt-2 grid grid-cols-2 gap-3">
            <NumberField
              label={say("Capital height")}
              unit={units.unit}
              decimals={units.unit === "mm" ? 0 : 2}
              value={units.toShown((text.height_um ?? 30_000) / 1000)}
              error={jobLine.fieldErrors["text.height_um"]}
              onDone={(v) => jobLine.done("place", { text: { ...text, height_um: Math.round(units.toMm(v) * 1000) } })}
            />
            <label>
              <span className="font-semibold">{say("Colour")}</span>
              <input
                type="color"
                className="field h-10"
                value={(text.colour ?? "#FFFFFF").toLowerCase()}
                onChange={(e) => jobLine.done("place", { text: { ...text, colour: e.target.value.toUpperCase() } })}
              />
            </label>
          </div>
          <input
            ref={picker}
            type="file"
            className="hidden"
            accept=".csv,text/csv"
            aria-label={say("List of names")}
            onChange={(e) => void take(e.target.files?.[0])}
          />
          <div className="mt-2 flex items-center gap-3">
            <Button kind={names.length ? "plain" : "go"} onClick={() => picker.current?.click()}>
              {isReading ? say("Reading the list…") : names.length ? say("Another list") : say("Add the list (CSV)")}
            </Button>
            <span className="text-sm text-soft">
              {names.length
                ? say("{count} numbered pieces", { count: names.length })
                : say("columns: name, size (and colour)")}
            </span>
          </div>
          {names.length > 0 && (
            <ol
              className="mt-2 max-h-40 overflow-auto border-t border-hair text-sm"
              aria-label={say("Numbered pieces")}
            >
              {names.map((n) => (
                <li key={n.number} className="border-b border-hair">
                  <button
                    type="button"
                    aria-pressed={kind === slotOf(n)}
                    onClick={() => see({ kind: slotOf(n) })}
                    className={`grid min-h-7 w-full grid-cols-[34px_1fr_40px] items-center text-left ${kind === slotOf(n) ? "bg-ground font-semibold" : ""}`}
                  >
                    <span className="num text-soft">{n.number}</span>
                    <span className="truncate">{n.text}</span>
                    <span>{n.size}</span>
                  </button>
                </li>
              ))}
            </ol>
          )}
        </>
      )}
    </section>
  );
}
