import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { Press, PressHeat } from "../../api/types";
import { Bench } from "../../bench/Bench";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Button, Choice, Pick } from "../../ui/parts";
import { HeatRuns } from "./HeatRuns";
import { Measure } from "./Measure";
import { useChanges } from "./machines";
import { OneMachine } from "./OneMachine";
import { Plate } from "./OneOven";
import { Heat, Length, Source, Words } from "./Value";

const WORDS = ["very light", "light", "medium", "firm", "heavy", "very firm"];
const KINDS = ["clamp", "swing-away", "drawer", "self-opening", "mug"] as const;

/** A press: its platen to scale, what its gauge means, and how it heats and cools by its own readings. */
export function OnePress({ press }: { press: Press }) {
  const units = useUnits();
  const changes = useChanges("presses", press.id);
  const query = useQuery({
    queryKey: ["press-heat", press.id],
    queryFn: () => told<PressHeat>(api.GET("/api/presses/{press}/heat", { params: { path: { press: press.id } } })),
  });
  const model = query.data?.model;
  const said = { sources: press.sources };
  const me = useMe();
  const [whose, setWhose] = useState<"all" | "mine">("all");
  const everybodys = press.gauge ?? {};
  const mine = press.gauge_of?.[me.name] ?? {};
  const gauge: Record<string, string> = whose === "mine" ? mine : everybodys;
  const write = (next: Record<string, string>) => {
    if (whose === "all") return void changes.change({ gauge: next });
    const { [me.name]: _, ...others } = press.gauge_of ?? {};
    void changes.change({ gauge_of: Object.keys(next).length ? { ...others, [me.name]: next } : others });
  };
  const words = press.kind === "mug" ? Object.keys(everybodys) : WORDS;
  return (
    <OneMachine
      machine={press}
      changes={changes}
      verdict={
        model
          ? say("{name} heats {q_c_per_min} K a minute from cold, and cools by itself", {
              name: press.name,
              q_c_per_min: model.q_c_per_min.toFixed(1),
            })
          : say("{name} has not been measured yet: changes of heat are reckoned from memory", { name: press.name })
      }
      sub={say("{what}: {across} by {deep}, up to {heat}.", {
        what: press.kind === "mug" ? say("The wrap, rolled out") : say("Its platen"),
        across: units.length(press.platen_width_mm),
        deep: units.length(press.platen_height_mm),
        heat: units.heat(press.highest_c),
      })}
      drawing={
        <Bench
          label={say("{name}, its platen to scale", { name: press.name })}
          bounds={[0, 0, press.platen_width_mm, press.platen_height_mm]}
          pad={[34, 120, 40, 90]}
        >
          <Plate width={press.platen_width_mm} height={press.platen_height_mm} />
        </Bench>
      }
      below={query.data && <Heating id={press.id} shown={query.data} />}
    >
      <Pick
        label={say("How it closes")}
        value={press.kind}
        options={KINDS.map((k) => ({ id: k, name: worded(k) }))}
        onChange={(kind) => void changes.change({ kind })}
      />
      <div className="grid grid-cols-2 gap-3">
        <Length
          label={say("Platen, across")}
          value={press.platen_width_mm}
          field="platen_width_mm"
          {...said}
          onDone={(v) => void changes.change({ platen_width_mm: v })}
        />
        <Length
          label={say("Platen, deep")}
          value={press.platen_height_mm}
          field="platen_height_mm"
          {...said}
          onDone={(v) => void changes.change({ platen_height_mm: v })}
        />
        <Heat
          label={say("Goes up to")}
          value={press.highest_c}
          field="highest_c"
          {...said}
          onDone={(v) => void changes.change({ highest_c: v })}
        />
        {press.kind !== "mug" && (
          <Length
            label={say("Opens")}
            value={press.opens_mm ?? 40}
            field="opens_mm"
            {...said}
            onDone={(v) => void changes.change({ opens_mm: v })}
          />
        )}
      </div>
      <fieldset>
        <legend className="font-semibold">{say("What its gauge shows for each word")}</legend>
        <Choice
          label={say("When it is closed")}
          value={whose}
          onChange={setWhose}
          options={[
            { id: "all", name: say("by anybody") },
            { id: "mine", name: say("by me, {name}", { name: me.name }) },
          ]}
        />
        <div className="mt-1 grid grid-cols-2 gap-x-3 gap-y-1">
          {words.map((word) => (
            <Words
              key={`${whose} ${word}`}
              label={worded(word)}
              value={gauge[word] ?? ""}
              hint={whose === "mine" ? (everybodys[word] ?? say("not tried yet")) : say("not tried yet")}
              onDone={(v) => {
                const { [word]: _, ...rest } = gauge;
                write(v ? { ...rest, [word]: v } : rest);
              }}
            />
          ))}
        </div>
        <Source {...said} field="gauge" />
      </fieldset>
    </OneMachine>
  );
}

function Heating({ id, shown }: { id: string; shown: PressHeat }) {
  const units = useUnits();
  const me = useMe();
  const [isMeasuring, setMeasuring] = useState(false);
  const { model } = shown;
  return (
    <section aria-label={say("How it heats")}>
      <p className="text-soft">
        {model
          ? say(
              "Fitted to {readings} readings of a probe; the room was {room_c}, measured and not fitted. The furthest reading lies {worst_k} K off. It would end at {ceiling_c}.",
              {
                readings: shown.readings.length,
                room_c: units.heat(model.room_c),
                worst_k: shown.worst_k.toFixed(1),
                ceiling_c: units.heat(model.ceiling_c),
              },
            )
          : say(
              "A probe on its platen, once while it heats from cold and once while it cools, tells how long a change of heat takes.",
            )}
      </p>
      {model && <HeatRuns heat={shown} />}
      {model && (
        <table className="mt-3 w-full max-w-xl">
          <caption className="text-left font-semibold">{say("What a change of heat takes")}</caption>
          <tbody>
            {Object.entries(shown.minutes).map(([pair, minutes]) => {
              const [from, to] = pair.split("-").map(Number) as [number, number];
              return (
                <tr key={pair} className="border-b border-hair">
                  <th scope="row" className="num py-0.5 text-left font-normal">
                    {units.heat(from)} → {units.heat(to)}
                  </th>
                  <td className="num text-right font-semibold">
                    {say("{minutes} min", { minutes: minutes.toFixed(1) })}
                  </td>
                  <td className="pl-4 text-soft">
                    {to > from ? say("at full power") : say("cooling by itself, open")}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <p className="mt-2 max-w-3xl text-soft">
        {say(
          "Besides: {settle_min} min until the heat is even, {lower_warm_min} min for the lower platen before the first piece. A thermostat throttles near its set-point: readings there are left out by themselves.",
          { settle_min: shown.settle_min, lower_warm_min: shown.lower_warm_min },
        )}
      </p>
      {me.role !== "viewer" && (
        <div className="mt-3">
          {isMeasuring ? (
            <Measure id={id} heat={shown} onClose={() => setMeasuring(false)} />
          ) : (
            <Button onClick={() => setMeasuring(true)}>
              {model ? say("Measure it again") : say("Enter readings")}
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
