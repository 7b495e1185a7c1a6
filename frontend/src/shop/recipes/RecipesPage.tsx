import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ProblemError, sent, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Recipe, RecipeRow } from "../../api/types";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Button } from "../../ui/parts";
import { OneRecipe } from "./OneRecipe";

/** Every method's recipe: its stages, what lies on what, the schools that differ, and what nobody gave. */
export default function RecipesPage() {
  const { recipe = "" } = useParams();
  const navigate = useNavigate();
  const [sought, setSought] = useState("");
  const rows = useQuery({ queryKey: ["recipes"], queryFn: () => told<RecipeRow[]>(api.GET("/api/recipes")) });
  useEffect(() => {
    document.title = say("Recipes · Offsetter");
  }, []);
  const all = rows.data ?? [];
  const open = recipe || all[0]?.id || "";
  const found = all.filter((r) =>
    `${r.name} ${r.method_name} ${r.method}`.toLowerCase().includes(sought.toLowerCase()),
  );
  return (
    <div className="grid min-h-0 grow grid-cols-[280px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside
        aria-label={say("Recipes")}
        className="flex min-h-0 flex-col border-r border-hair bg-panel max-[900px]:max-h-60"
      >
        <label className="px-4 pt-4 pb-2">
          <span className="font-semibold">{say("Find")}</span>
          <input
            className="field"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            placeholder={say("vinyl, toner, mug")}
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
                  {r.is_here
                    ? say("version {version}, {source}", { version: r.version, source: worded(r.source) })
                    : say("version {version}, {source}, not done here", {
                        version: r.version,
                        source: worded(r.source),
                      })}
                  {r.asks && <span className="text-need"> {say("· a value is missing")}</span>}
                </span>
              </button>
            </li>
          ))}
          {rows.data && found.length === 0 && <li className="px-4 text-soft">{say("Nothing is called so.")}</li>}
        </ul>
        <TakeIn />
      </aside>
      {open ? (
        <OneRecipe key={open} id={open} />
      ) : (
        <main className="p-6 text-soft">{rows.error?.message ?? say("Opening…")}</main>
      )}
    </div>
  );
}

/** A recipe from a file, as it is exported; and, for the owner, a method file: one more way. */
function TakeIn() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const outbox = useOutbox();
  const me = useMe();
  const recipe = useRef<HTMLInputElement>(null);
  const method = useRef<HTMLInputElement>(null);
  if (me.role === "viewer") return null;
  const take = async (path: "/api/recipes" | "/api/methods", file: File | undefined) => {
    if (!file) return;
    try {
      const made = await sent<Recipe>(path, file);
      for (const queryKey of [["recipes"], ["recipe"], ["shop"], ["advice"]]) queries.invalidateQueries({ queryKey });
      if (path === "/api/recipes") navigate(`/recipes/${made.id}`);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <div className="flex flex-wrap gap-2 border-t border-hair px-4 py-3">
      <input
        ref={recipe}
        type="file"
        accept=".json,application/json"
        className="hidden"
        aria-label={say("Recipe file")}
        onChange={(e) => void take("/api/recipes", e.target.files?.[0])}
      />
      <Button onClick={() => recipe.current?.click()}>{say("Take a recipe in")}</Button>
      {me.role === "owner" && (
        <>
          <input
            ref={method}
            type="file"
            accept=".toml"
            className="hidden"
            aria-label={say("Method file")}
            onChange={(e) => void take("/api/methods", e.target.files?.[0])}
          />
          <Button onClick={() => method.current?.click()}>{say("Add a method file")}</Button>
        </>
      )}
    </div>
  );
}
