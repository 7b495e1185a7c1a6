import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import { drawingOf, type RecipeRow } from "../../api/types";
import { useShop } from "../../api/useShop";
import { Schools } from "../../bench/Schools";
import type { StationProps } from "../../line/station";
import { say } from "../../texts/say";
import { Choice, Key, Pick } from "../../ui/parts";
import { Findings } from "../Waits";
import { AllWays } from "./AllWays";
import { MissingValues } from "./MissingValues";
import { Section } from "./Section";

const LOOKS = [
  { id: "this", name: say("This way") },
  { id: "all", name: say("All ways") },
] as const;
type Look = (typeof LOOKS)[number]["id"];
const lookAt = (flips: number): Look => LOOKS[flips % LOOKS.length]?.id ?? "this";

export function MethodBench({ station, jobLine, flips, onFlip }: StationProps) {
  const drawing = drawingOf(station, "method");
  if (lookAt(flips) === "all") return <AllWays jobLine={jobLine} onChosen={onFlip} />;
  if (!drawing) return null;
  return (
    <div className="flex min-h-0 grow flex-col gap-3 px-6 pt-3 pb-4">
      <Section drawing={drawing} />
      <ul className="grid grid-cols-2 gap-x-8 gap-y-2.5 max-[1100px]:grid-cols-1">
        {drawing.reasons.map((r) => (
          <li key={r.what} className="flex gap-2.5">
            <svg
              width="16"
              height="16"
              viewBox="0 0 16 16"
              className={`mt-1 shrink-0 ${r.is_good ? "text-done" : "text-need"}`}
              aria-hidden="true"
            >
              {r.is_good ? (
                <path d="M2 8l4 4 8-9" fill="none" stroke="currentColor" strokeWidth="2.5" />
              ) : (
                <path d="M8 1L15 8L8 15L1 8Z" fill="currentColor" />
              )}
            </svg>
            <p>
              <span className="font-semibold">{r.what}.</span> {r.reason}
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}

type Stages = { stages?: { hover?: boolean; alone?: boolean }[] };

export function MethodCard({ station, jobLine, flips, onFlip }: StationProps) {
  const { shop } = useShop();
  const drawing = drawingOf(station, "method");
  const way = jobLine.document("method");
  const printer = shop?.printers.find((p) => p.id === way.printer);
  const all = useQuery({ queryKey: ["recipes"], queryFn: () => told<RecipeRow[]>(api.GET("/api/recipes")) });
  const recipes = (all.data ?? []).filter((r) => r.method === way.method);
  const doing = shop?.printers.filter((p) => p.feeds.some((f) => f.method === way.method));
  const cured = (jobLine.line.stations.find((s) => s.station === "prepare")?.drawing as Stages | null)?.stages?.some(
    (s) => s.hover && s.alone,
  );
  const named = <T extends { id: string; name: string }>(all: readonly T[] | undefined) =>
    (all ?? []).map((o) => ({ id: o.id, name: o.name }));
  const set = (changes: Record<string, unknown>) => jobLine.done("method", changes);
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      <div className="flex items-end gap-2">
        <div className="grow">
          <Choice
            label={say("On the bench")}
            value={lookAt(flips)}
            options={[...LOOKS]}
            onChange={(v) => v !== lookAt(flips) && onFlip()}
          />
        </div>
        <Key>F</Key>
      </div>
      {drawing && drawing.missing.length > 0 && (
        <MissingValues
          missing={drawing.missing}
          recipe={way.recipe}
          version={way.recipe_version}
          onEntered={(version) => set({ recipe_version: version })}
        />
      )}
      <WhyAllTheSame station={station} because={way.because ?? ""} onSay={(because) => set({ because })} />
      <Findings station={station} jobLine={jobLine} />
      <Schools
        questions={drawing?.schools ?? []}
        chosen={way.schools ?? {}}
        onChoose={(question, choice) => set({ schools: { ...way.schools, [question]: choice } })}
      />
      <div className="grid grid-cols-2 gap-3">
        <Pick
          label={say("Printer")}
          value={way.printer}
          options={named(doing)}
          onChange={(v) => set({ printer: v, mode: shop?.printers.find((p) => p.id === v)?.modes[0]?.id })}
        />
        <Pick label={say("Mode")} value={way.mode} options={named(printer?.modes)} onChange={(v) => set({ mode: v })} />
        {recipes.length > 1 && (
          <Pick
            label={say("Recipe")}
            value={way.recipe}
            options={recipes.map((r) => ({ id: r.id, name: r.name }))}
            onChange={(v) =>
              set({ recipe: v, recipe_version: recipes.find((r) => r.id === v)?.version ?? 1, schools: {} })
            }
          />
        )}
        <Pick
          label={say("Press")}
          value={way.press}
          options={named(shop?.presses)}
          onChange={(v) => set({ press: v })}
        />
        {cured && (
          <Pick
            label={say("Oven")}
            value={way.oven ?? ""}
            options={named(shop?.ovens)}
            onChange={(v) => set({ oven: v })}
          />
        )}
      </div>
    </>
  );
}

type WhyProps = { station: StationProps["station"]; because: string; onSay: (because: string) => void };

/** Where the way goes otherwise than the cloth asks: said once, in one's own words, and kept with the way. */
function WhyAllTheSame({ station, because, onSay }: WhyProps) {
  const [typed, setTyped] = useState(because);
  if (!station.findings.some((f) => ["white-idle", "white-wanted", "white-otherwise"].includes(f.code))) return null;
  return (
    <label className="block">
      <span className="font-semibold">{say("Why all the same?")}</span>
      <input
        className="field"
        maxLength={200}
        value={typed}
        placeholder={say("a customer's sample, a tried piece …")}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => typed.trim() !== because && onSay(typed.trim())}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </label>
  );
}
