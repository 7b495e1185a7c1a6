import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { api, told } from "../../api/client";
import type { Recipe, RecipeRow } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { Stack } from "../../bench/Stack";
import { useUnits } from "../../settings/settings";
import { Schools } from "../../stations/method/Schools";
import { StageTabs } from "../../stations/prepare/Prepare";

/** Every method's recipe: its stages, what lies on what, the schools that differ, and what nobody gave. */
export default function RecipesPage() {
  const { recipe = "" } = useParams();
  const navigate = useNavigate();
  const [sought, setSought] = useState("");
  const rows = useQuery({ queryKey: ["recipes"], queryFn: () => told<RecipeRow[]>(api.GET("/api/recipes")) });
  useEffect(() => {
    document.title = "Recipes · Offsetter";
  }, []);
  const all = rows.data ?? [];
  const open = recipe || all[0]?.id || "";
  const found = all.filter((r) =>
    `${r.name} ${r.method_name} ${r.method}`.toLowerCase().includes(sought.toLowerCase()),
  );
  return (
    <div className="grid min-h-0 grow grid-cols-[280px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside aria-label="Recipes" className="flex min-h-0 flex-col border-r border-hair bg-panel max-[900px]:max-h-60">
        <label className="px-4 pt-4 pb-2">
          <span className="font-semibold">Find</span>
          <input
            className="field"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            placeholder="vinyl, toner, mug"
          />
        </label>
        <ul className="min-h-0 grow overflow-auto pb-4">
          {found.map((r) => (
            <li key={r.id}>
              <button
                type="button"
                aria-current={r.id === open ? "true" : undefined}
                onClick={() => navigate(`/recipes/${r.id}`)}
                className={`w-full border-l-4 px-3 py-1.5 text-left ${r.id === open ? "border-act bg-act-soft" : "border-transparent"}`}
              >
                <span className="block font-semibold">{r.method_name}</span>
                <span className="block text-sm text-soft">
                  version {r.version}, {r.source}
                  {r.is_here ? "" : ", not done here"}
                  {r.asks && <span className="text-need"> · a value is missing</span>}
                </span>
              </button>
            </li>
          ))}
          {rows.data && found.length === 0 && <li className="px-4 text-soft">Nothing is called so.</li>}
        </ul>
      </aside>
      {open ? (
        <OneRecipe key={open} id={open} />
      ) : (
        <main className="p-6 text-soft">{rows.error?.message ?? "Opening…"}</main>
      )}
    </div>
  );
}

function OneRecipe({ id }: { id: string }) {
  const units = useUnits();
  const [params, setParams] = useSearchParams();
  const school = params.getAll("school");
  const [at, setAt] = useState(0);
  const query = useQuery({
    queryKey: ["recipe", id, school.join()],
    queryFn: () =>
      told<Recipe>(api.GET("/api/recipes/{recipe_id}", { params: { path: { recipe_id: id }, query: { school } } })),
    placeholderData: (before) => (before?.id === id ? before : undefined),
  });
  if (!query.data) return <main className="p-6 text-soft">{query.error?.message ?? "Opening the recipe…"}</main>;
  const shown = query.data;
  const stage = shown.stages[Math.min(at, shown.stages.length - 1)];
  const choose = (question: string, choice: string) => {
    const chosen = { ...shown.chosen, [question]: choice };
    setParams({ school: Object.entries(chosen).map(([q, c]) => `${q}=${c}`) });
  };
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_330px] max-[1100px]:grid-cols-1 max-[1100px]:overflow-auto">
      <section aria-label="Stages" className="flex min-h-0 flex-col overflow-auto px-6 pt-4 pb-3">
        <h1 className="text-2xl font-bold">{shown.name}</h1>
        <p className="text-soft">
          version {shown.version}, source: {shown.source} ·{" "}
          {shown.minutes === null
            ? "no minutes while a value is missing"
            : `${shown.minutes?.toFixed(1)} min for one piece`}{" "}
          · {shown.mirror ? "mirrored" : "not mirrored"}: {shown.why_mirror}
        </p>
        {shown.findings.map((f) => (
          <p key={f.message} className="mt-1.5 border-l-4 border-need pl-3">
            <span className="font-semibold">{f.message}.</span> {f.fix_text}
          </p>
        ))}
        <div className="mt-3">
          <StageTabs stages={shown.stages} chosen={Math.min(at, shown.stages.length - 1)} onChoose={setAt} />
        </div>
        {stage && (
          <>
            <h2 className="mt-3 text-2xl font-bold">{stage.say}</h2>
            <p>
              <span className="num font-semibold text-heat">
                {stage.temperature_c == null ? "" : `${units.bothHeats(stage.temperature_c)}, `}
              </span>
              {stage.time_s ? <span className="num">{stage.time_s} s</span> : "by hand"}
              {stage.pressure && stage.pressure !== "none" ? `, pressure ${stage.pressure}` : ""}
              {stage.first_only ? ", before the first piece alone" : ""}
              <span className="text-soft"> ({stage.source})</span>
            </p>
            <StackOf stage={stage} />
            <p>
              <span className="font-semibold">Then:</span> {stage.then}
            </p>
            {stage.caution && <p className="mt-1.5 border-l-4 border-need pl-3 text-need">{stage.caution}</p>}
          </>
        )}
      </section>
      <aside
        aria-label="Schools"
        className="flex min-h-0 flex-col gap-4 overflow-auto border-l border-hair bg-panel px-5 py-4"
      >
        <div>
          <h2 className="font-semibold">Lay out</h2>
          <ul className="list-disc pl-5">
            {shown.lay_out.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
        </div>
        <Schools questions={shown.schools} chosen={shown.chosen} onChoose={choose} />
        <p>
          <a
            href={`/api/recipes/${id}/recipe.json`}
            className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
          >
            The recipe as JSON
          </a>
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
