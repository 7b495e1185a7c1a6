import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { Recipe, Stage } from "../../api/types";
import { useSettings } from "../../settings/settings";
import { say } from "../../texts/say";
import { Overlay } from "../../ui/Overlay";
import { Button, Pick } from "../../ui/parts";
import { Typed } from "../../ui/Typed";

const SOURCES = [
  { id: "maker", name: say("the maker's card") },
  { id: "trial", name: say("a trial of ours") },
  { id: "house", name: say("what works here") },
  { id: "practice", name: say("practice elsewhere") },
  { id: "memory", name: say("memory") },
] as const;
type Source = (typeof SOURCES)[number]["id"];
type NewValuesProps = { recipe: Recipe; stage: Stage; onClose: () => void; onMade: () => void };

/** One stage's values, as the next version. */
export function NewValues({ recipe, stage, onClose, onMade }: NewValuesProps) {
  const queries = useQueryClient();
  const { heat } = useSettings();
  const isMissing = (field: string) => (stage.missing as string[] | undefined)?.includes(field) ?? false;
  const shownHeat =
    stage.temperature_c == null
      ? ""
      : String(Math.round(heat === "F" ? (stage.temperature_c * 9) / 5 + 32 : stage.temperature_c));
  const [celsius, setCelsius] = useState(shownHeat);
  const [time, setTime] = useState(isMissing("time_s") ? "" : String(stage.time_s));
  const [pressure, setPressure] = useState(isMissing("pressure") ? "" : (stage.pressure ?? ""));
  const [peel, setPeel] = useState("");
  const [source, setSource] = useState<Source>("maker");
  const [why, setWhy] = useState("");
  const [wrong, setWrong] = useState<ProblemError | string | null>(null);
  const hasHeat = stage.temperature_c != null || isMissing("temperature_c");
  const save = async () => {
    const degrees = Number(celsius.replace(",", "."));
    const seconds = Number(time.replace(",", "."));
    if (hasHeat && celsius.trim() && !Number.isFinite(degrees))
      return setWrong(say("“{celsius}” is no temperature.", { celsius }));
    if (time.trim() && !Number.isFinite(seconds)) return setWrong(say("“{time}” is no number of seconds.", { time }));
    if (why.trim().length < 3) return setWrong(say("Say in a few words what made this version."));
    const values = {
      ...(hasHeat && celsius.trim() && celsius !== shownHeat
        ? { temperature_c: heat === "F" ? ((degrees - 32) * 5) / 9 : degrees }
        : {}),
      ...(time.trim() ? { time_s: Math.round(seconds) } : {}),
      ...(pressure.trim() ? { pressure: pressure.trim() } : {}),
      ...(peel.trim() ? { peel: peel.trim() } : {}),
    };
    try {
      await told<Recipe>(
        api.POST("/api/recipes/{recipe_id}/versions", {
          params: { path: { recipe_id: recipe.id } },
          body: { base: recipe.version, values: { [stage.id]: values }, source, why: why.trim() },
        }),
      );
      for (const queryKey of [["recipes"], ["recipe"], ["job"]]) queries.invalidateQueries({ queryKey });
      onMade();
      onClose();
    } catch (error) {
      if (error instanceof ProblemError) setWrong(error);
    }
  };
  return (
    <Overlay
      title={say("{name}: the next version", { name: stage.name })}
      open
      onClose={onClose}
      sub={say("Version {version} of “{name}”. Jobs keep the version they were decided with.", {
        version: recipe.version + 1,
        name: recipe.name,
      })}
    >
      <form
        className="flex flex-col gap-3"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <div className="grid grid-cols-3 gap-3">
          {hasHeat && <Typed label={say("Temperature, °{heat}", { heat })} value={celsius} onChange={setCelsius} />}
          <Typed label={say("Seconds")} value={time} onChange={setTime} />
          <Typed label={say("Pressure")} value={pressure} onChange={setPressure} />
        </div>
        {isMissing("peel") && <Typed label={say("When it is peeled")} value={peel} onChange={setPeel} />}
        <Pick label={say("Where the values come from")} value={source} options={[...SOURCES]} onChange={setSource} />
        <Typed label={say("What made this version")} value={why} onChange={setWhy} />
        {wrong && (
          <p role="alert" className="border-l-4 border-stop pl-3 text-stop">
            {typeof wrong === "string" ? wrong : `${wrong.happened} ${wrong.kept} ${wrong.thenDo}`}
          </p>
        )}
        <div className="flex gap-2">
          <Button kind="go" type="submit">
            {say("Make version {version}", { version: recipe.version + 1 })}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
    </Overlay>
  );
}
