import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { DrawingOf, Recipe } from "../../api/types";
import { useSettings } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";

type Missing = DrawingOf<"method">["missing"];
type MissingProps = { missing: Missing; recipe: string; version: number; onEntered: (version: number) => void };

const ASKED: { [field: string]: string } = {
  time_s: say("seconds"),
  pressure: say("pressure: very light, light, medium, firm or heavy"),
  peel: say("when to peel"),
};

/** What nobody gave is asked for, from the medium's own card; it becomes the shop's next version. */
export function MissingValues({ missing, recipe, version, onEntered }: MissingProps) {
  const queries = useQueryClient();
  const outbox = useOutbox();
  const { heat } = useSettings();
  const [typed, setTyped] = useState<{ [key: string]: string }>({});
  const [wrong, setWrong] = useState("");
  const enter = async () => {
    const values: { [stage: string]: { [field: string]: string | number } } = {};
    for (const m of missing) {
      for (const field of m.fields) {
        const said = (typed[`${m.stage}.${field}`] ?? "").trim();
        const number = Number(said.replace(",", "."));
        if (!said || ((field === "temperature_c" || field === "time_s") && !Number.isFinite(number))) {
          setWrong(
            say("{name}: give {value}.", {
              name: m.name,
              value: field === "temperature_c" ? say("its temperature") : (ASKED[field] ?? field),
            }),
          );
          return;
        }
        const value =
          field === "temperature_c"
            ? heat === "F"
              ? ((number - 32) * 5) / 9
              : number
            : field === "time_s"
              ? Math.round(number)
              : said;
        values[m.stage] = { ...values[m.stage], [field]: value };
      }
    }
    try {
      const made = await told<Recipe>(
        api.POST("/api/recipes/{recipe_id}/versions", {
          params: { path: { recipe_id: recipe } },
          body: { base: version, values, source: "maker", why: say("from the medium's card") },
        }),
      );
      setWrong("");
      queries.invalidateQueries({ queryKey: ["recipes"] });
      onEntered(made.version);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <form
      aria-label={say("Values that nobody gave")}
      className="rounded-lg border-2 border-need p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void enter();
      }}
    >
      <h3 className="font-semibold text-need">{say("Nobody gave these: none is guessed")}</h3>
      <p className="text-sm">
        {say("Take them from the medium's own card. They become the shop's version of this recipe.")}
      </p>
      {missing.map((m) => (
        <fieldset key={m.stage} className="mt-2">
          <legend className="font-semibold">{m.name}</legend>
          <div className="grid grid-cols-2 gap-2">
            {m.fields.map((field) => (
              <label key={field} className="text-sm">
                {field === "temperature_c" ? `°${heat}` : ASKED[field]}
                <input
                  className="field"
                  value={typed[`${m.stage}.${field}`] ?? ""}
                  inputMode={field === "temperature_c" || field === "time_s" ? "decimal" : "text"}
                  onChange={(e) => setTyped({ ...typed, [`${m.stage}.${field}`]: e.target.value })}
                />
              </label>
            ))}
          </div>
        </fieldset>
      ))}
      {wrong && (
        <p role="alert" className="mt-1 text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-2">
        <Button kind="go" type="submit">
          {say("Enter them")}
        </Button>
      </div>
    </form>
  );
}
