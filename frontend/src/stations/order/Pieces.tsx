import { useState } from "react";
import { useNavigate } from "react-router";
import { api, ProblemError, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import { type Decisions, drawingOf, type Job } from "../../api/types";
import { useShop } from "../../api/useShop";
import { useSeenFrom } from "../../line/PrintTabs";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button, NumberField, Pick } from "../../ui/parts";

/** Pieces by size, for every blank of the job; a size's name shows it on the bench. */
export function Pieces({ jobLine }: { jobLine: JobLine }) {
  const { shop } = useShop();
  const { see } = useSeenFrom();
  const order = jobLine.document("order");
  const hasNames = (order.names ?? []).length > 0;
  return (
    <>
      {order.lines.map((line) => {
        const blank = shop?.blanks.find((b) => b.id === line.blank);
        const sizes = Object.keys(blank?.sizes ?? line.counts);
        return (
          <fieldset key={line.id}>
            <legend className="font-semibold">
              {order.lines.length > 1
                ? say("{colour_name} by size", { colour_name: blank?.colour_name ?? line.blank })
                : say("Pieces by size")}
            </legend>
            <div className="mt-1 grid grid-cols-4 gap-2">
              {sizes.map((size) => {
                const kind = `${line.id}/${size}`;
                const isShown = kind === jobLine.job.kind;
                return (
                  <div key={size}>
                    <button
                      type="button"
                      disabled={!line.counts[size]}
                      onClick={() => see({ kind })}
                      aria-pressed={isShown}
                      className={`min-h-6 w-full rounded px-1 text-left text-sm whitespace-nowrap ${isShown ? "bg-ground font-semibold text-ink" : "text-soft"}`}
                    >
                      <span className="sr-only">{say("Show size")} </span>
                      {size}
                      {isShown ? say(" shown") : ""}
                    </button>
                    <NumberField
                      hideLabel
                      label={say("Size {size}", { size })}
                      value={line.counts[size] ?? 0}
                      error={jobLine.fieldErrors[`lines.${order.lines.indexOf(line)}.counts`]}
                      onDone={(n) =>
                        jobLine.done("order", {
                          lines: order.lines.map((l) =>
                            l === line ? { ...l, counts: { ...l.counts, [size]: n } } : l,
                          ),
                        })
                      }
                    />
                  </div>
                );
              })}
            </div>
          </fieldset>
        );
      })}
      {hasNames && <p className="text-sm text-soft">{say("The list of names set these counts.")}</p>}
    </>
  );
}

/** A width of its own for a size: one artwork over S to XL need not be one size. */
export function SizeWidths({ jobLine }: { jobLine: JobLine }) {
  const units = useUnits();
  const order = jobLine.document("order");
  const place = jobLine.document("place");
  const own = place.widths_um ?? {};
  const sizes = [...new Set(order.lines.flatMap((l) => Object.keys(l.counts).filter((s) => l.counts[s])))];
  const [isOpen, setIsOpen] = useState(Object.keys(own).length > 0);
  if (place.text || sizes.length < 2) return null;
  const usual = place.width_um ?? 210_000;
  const set = (size: string, mm: number) => {
    const width = Math.round(mm * 1000);
    const { [size]: _, ...rest } = own;
    jobLine.done("place", { widths_um: width === usual ? rest : { ...rest, [size]: width } });
  };
  return (
    <details open={isOpen} onToggle={(e) => setIsOpen(e.currentTarget.open)}>
      <summary className="font-semibold">{say("Width by size")}</summary>
      <div className="mt-1 grid grid-cols-4 gap-2">
        {sizes.map((size) => (
          <NumberField
            key={size}
            label={`${size}${own[size] ? "" : say(" (usual)")}`}
            decimals={units.unit === "mm" ? 0 : 2}
            value={units.toShown((own[size] ?? usual) / 1000)}
            error={jobLine.fieldErrors[`widths_um.${size}`]}
            onDone={(v) => set(size, units.toMm(v))}
          />
        ))}
      </div>
      <p className="mt-1 text-sm text-soft">
        {say("In {unit}. Sizes of one width share their transfers.", { unit: units.unit })}
      </p>
    </details>
  );
}

type PrintPlace = NonNullable<Decisions["place"]["place"]>;

/** The prints on a piece in the order of pressing, and one more. */
export function Prints({ jobLine }: { jobLine: JobLine }) {
  const outbox = useOutbox();
  const { shop } = useShop();
  const navigate = useNavigate();
  const { job } = jobLine;
  const order = jobLine.document("order");
  const place = jobLine.document("place");
  const prints = order.prints ?? ["front"];
  const drawing = jobLine.line.stations[0] ? drawingOf(jobLine.line.stations[0], "order") : null;
  const taken = new Set(job.prints.map((p) => p.place));
  const places = (drawing?.garment.places ?? []) as PrintPlace[];
  const free = [...places.filter((p) => !taken.has(p)), ...places.filter((p) => taken.has(p))];
  const [next, setNext] = useState<PrintPlace>("back");
  const chosen = free.includes(next) ? next : free[0];
  const at = prints.indexOf(job.print);
  const add = async () => {
    if (!chosen) return;
    try {
      const made = await told<Job>(
        api.POST("/api/jobs/{job_id}/prints", { params: { path: { job_id: job.id } }, body: { place: chosen } }),
      );
      outbox.accept(made);
      navigate(`/jobs/${job.id}/order?print=${made.print}`);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  const moved = (to: number) => {
    const next = prints.filter((p) => p !== job.print);
    next.splice(to, 0, job.print);
    jobLine.done("order", { prints: next });
  };
  const takeOut = () => {
    navigate(`/jobs/${job.id}/order`);
    outbox.decide(job.id, "", "order", job.revisions.order ?? 0, {
      ...order,
      prints: prints.filter((p) => p !== job.print),
    });
  };
  const here = job.passes.find((p) => p.print === job.print);
  const nameOf = (blank: string) => {
    const found = shop?.blanks.find((b) => b.id === blank);
    return found ? `${found.colour_name} ${found.name.toLowerCase()}` : blank;
  };
  return (
    <section aria-label={say("Prints on a piece")}>
      <h3 className="font-semibold">
        {prints.length > 1 ? say("Prints on a piece: {prints}", { prints: prints.length }) : say("Prints on a piece")}
      </h3>
      {order.lines.length > 1 && (
        <fieldset className="mt-1 flex flex-wrap gap-3">
          <legend className="text-sm text-soft">{say("This print goes on")}</legend>
          {order.lines.map((line) => {
            const on = place.lines?.length ? place.lines : order.lines.map((l) => l.id ?? "a");
            const isOn = on.includes(line.id ?? "a");
            return (
              <label key={line.id} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="size-5 accent-[var(--act)]"
                  checked={isOn}
                  disabled={isOn && on.length === 1}
                  onChange={() => {
                    const changed = isOn ? on.filter((i) => i !== line.id) : [...on, line.id ?? "a"];
                    jobLine.done("place", { lines: changed.length === order.lines.length ? [] : changed });
                  }}
                />
                {nameOf(line.blank)}
              </label>
            );
          })}
        </fieldset>
      )}
      {here && prints.length > 1 && (
        <>
          <p className="mt-1 text-sm">
            {say("Pressed {number} of {of}. {turn} {shield} {heats}", {
              number: here.number,
              of: here.of,
              turn: here.turn,
              shield: here.shield,
              heats: here.heats,
            })}
          </p>
          <div className="mt-1.5 flex flex-wrap gap-2">
            {at > 0 && <Button onClick={() => moved(at - 1)}>{say("Press it earlier")}</Button>}
            {at < prints.length - 1 && <Button onClick={() => moved(at + 1)}>{say("Press it later")}</Button>}
            <Button kind="quiet" onClick={takeOut}>
              {say("Take this print out")}
            </Button>
          </div>
        </>
      )}
      {chosen && (
        <div className="mt-2 grid grid-cols-[1fr_auto] items-end gap-2">
          <Pick
            label={say("One more print on the")}
            value={chosen}
            onChange={setNext}
            options={free.map((p) => ({ id: p, name: taken.has(p) ? say("{p}, beside the other", { p }) : p }))}
          />
          <Button onClick={() => void add()}>{say("Add it")}</Button>
        </div>
      )}
    </section>
  );
}
