import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, told } from "../../api/client";
import type { Recipe } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { Schools } from "../../bench/Schools";
import { Stack } from "../../bench/Stack";
import { StageTabs } from "../../bench/StageTabs";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Button } from "../../ui/parts";
import { NewValues } from "./NewValues";
import { Versions } from "./Versions";

/** A recipe by the schools chosen: its stages, what lies on what, its versions, and out as card or JSON. */
const MISSING: { [field: string]: string } = {
  temperature_c: say("temperature"),
  time_s: say("time"),
  pressure: say("pressure"),
  peel: say("peel"),
};

/** Where its values come from, why, and who said so. */
const sourced = ({ source, why, by }: { source: string; why: string; by: string }) =>
  `${worded(source)}${why && `, ${why}`}${by && ` (${by})`}`;

export function OneRecipe({ id }: { id: string }) {
  const units = useUnits();
  const me = useMe();
  const [params, setParams] = useSearchParams();
  const school = params.getAll("school");
  const version = Number(params.get("version")) || undefined;
  const [chosen, setAt] = useState<number | null>(null);
  const [isChanging, setChanging] = useState(false);
  const query = useQuery({
    queryKey: ["recipe", id, version, school.join()],
    queryFn: () =>
      told<Recipe>(
        api.GET("/api/recipes/{recipe_id}", { params: { path: { recipe_id: id }, query: { school, version } } }),
      ),
    placeholderData: (before) => (before?.id === id ? before : undefined),
  });
  if (!query.data) return <main className="p-6 text-soft">{query.error?.message ?? say("Opening the recipe…")}</main>;
  const shown = query.data;
  // What is missing is looked at first.
  const missing = Math.max(
    0,
    shown.stages.findIndex((s) => s.missing?.length),
  );
  const at = Math.min(chosen ?? missing, shown.stages.length - 1);
  const stage = shown.stages[at];
  const see = (chosen: { [question: string]: string }, wanted: number | undefined) =>
    setParams({
      school: Object.entries(chosen).map(([q, c]) => `${q}=${c}`),
      ...(wanted && wanted !== shown.newest ? { version: String(wanted) } : {}),
    });
  const asked = `?${[...school.map((s) => `school=${encodeURIComponent(s)}`), `version=${shown.version}`].join("&")}`;
  const isNewest = shown.version === shown.newest;
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_330px] max-[1100px]:grid-cols-1 max-[1100px]:overflow-auto">
      <section aria-label={say("Stages")} className="flex min-h-0 flex-col overflow-auto px-6 pt-4 pb-3">
        <h1 className="text-2xl font-bold">{shown.name}</h1>
        <p className="text-soft">
          {[
            isNewest
              ? say("version {version}, source: {source}", { version: shown.version, source: sourced(shown) })
              : say("version {version} of {newest}, source: {source}", {
                  version: shown.version,
                  newest: shown.newest,
                  source: sourced(shown),
                }),
            shown.minutes === null
              ? say("no minutes while a value is missing")
              : say("{minutes} min for one piece", { minutes: shown.minutes?.toFixed(1) }),
            shown.mirror
              ? say("mirrored: {why}", { why: shown.why_mirror })
              : say("not mirrored: {why}", { why: shown.why_mirror }),
          ].join(" · ")}
        </p>
        {shown.findings.map((f) => (
          <p key={f.message} className="mt-1.5 border-l-4 border-need pl-3">
            <span className="font-semibold">{f.message}.</span> {f.fix_text}
          </p>
        ))}
        <div className="mt-3">
          <StageTabs stages={shown.stages} chosen={at} onChoose={setAt} />
        </div>
        {stage && (
          <>
            <h2 className="mt-3 text-2xl font-bold">{stage.say}</h2>
            <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
              <p>
                <span className="num font-semibold text-heat">
                  {stage.temperature_c == null ? "" : `${units.bothHeats(stage.temperature_c)}, `}
                </span>
                {stage.missing?.length ? (
                  <span className="font-semibold text-need">
                    {say("nobody gave its {values}", { values: stage.missing.map((m) => MISSING[m] ?? m).join(", ") })}
                  </span>
                ) : stage.time_s ? (
                  <span className="num">{stage.time_s} s</span>
                ) : (
                  say("by hand")
                )}
                {stage.pressure && stage.pressure !== "none"
                  ? say(", pressure {pressure}", { pressure: worded(stage.pressure) })
                  : ""}
                {stage.first_only ? say(", before the first piece alone") : ""}
                <span className="text-soft"> ({worded(stage.source)})</span>
              </p>
              {me.role !== "viewer" && isNewest && (
                <Button onClick={() => setChanging(true)}>
                  {stage.missing?.length ? say("Enter its values") : say("Change its values")}
                </Button>
              )}
            </div>
            <StackOf stage={stage} />
            <p>
              <span className="font-semibold">{say("Then:")}</span> {stage.then}
            </p>
            {stage.caution && <p className="mt-1.5 border-l-4 border-need pl-3 text-need">{stage.caution}</p>}
            {isChanging && (
              <NewValues
                key={stage.id}
                recipe={shown}
                stage={stage}
                onClose={() => setChanging(false)}
                onMade={() => see(shown.chosen, undefined)}
              />
            )}
          </>
        )}
      </section>
      <aside
        aria-label={say("Schools")}
        className="flex min-h-0 flex-col gap-4 overflow-auto border-l border-hair bg-panel px-5 py-4"
      >
        <div>
          <h2 className="font-semibold">{say("Lay out")}</h2>
          <ul className="list-disc pl-5">
            {shown.lay_out.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
        </div>
        <Schools
          questions={shown.schools}
          chosen={shown.chosen}
          onChoose={(question, choice) => see({ ...shown.chosen, [question]: choice }, version)}
        />
        <Versions id={id} shown={shown.version} onShow={(wanted) => see(shown.chosen, wanted)} />
        <p className="flex flex-wrap gap-x-4">
          {[
            [`/api/recipes/${id}/card.pdf${asked}`, say("The card as PDF")],
            [`/api/recipes/${id}/recipe.json?version=${shown.version}`, say("The recipe as JSON")],
          ].map(([href, name]) => (
            <a
              key={name}
              href={href}
              className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
            >
              {name}
            </a>
          ))}
        </p>
      </aside>
    </main>
  );
}

function StackOf({ stage }: { stage: Recipe["stages"][number] }) {
  const { ref, width, height } = useSize();
  return (
    <div ref={ref} className="min-h-[230px] grow">
      {width > 0 && (
        <Stack
          layers={stage.stack}
          hot={stage.temperature_c != null}
          cloth="#6b7480"
          width={width}
          height={Math.min(height, 360)}
        />
      )}
    </div>
  );
}
