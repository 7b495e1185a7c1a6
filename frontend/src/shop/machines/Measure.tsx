import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { HeatLog, PressHeat } from "../../api/types";
import { useShop } from "../../api/useShop";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";

/** Readings typed or pasted: a line each, minute and degrees; both runs, and the room. */
export function Measure({ id, heat, onClose }: { id: string; heat: PressHeat; onClose: () => void }) {
  const queries = useQueryClient();
  const text = (run: string) =>
    heat.readings
      .filter((r) => r.run === run)
      .map((r) => `${r.minute} ${r.celsius}`)
      .join("\n");
  const [up, setUp] = useState(text("heating"));
  const [down, setDown] = useState(text("cooling"));
  const [room, setRoom] = useState(heat.room_c == null ? "" : String(heat.room_c));
  const [wrong, setWrong] = useState("");
  const { shop } = useShop();
  const take = async (probe: string) => {
    setWrong("");
    try {
      const log = await told<HeatLog>(api.GET("/api/probes/{probe}/log", { params: { path: { probe } } }));
      if (!log.runs) return setWrong(log.lacks ?? "");
      const of = (run: string) =>
        log.runs?.readings.filter((r) => r.run === run).map((r) => `${r.minute} ${r.celsius}`);
      setUp(of("heating")?.join("\n") ?? "");
      setDown(of("cooling")?.join("\n") ?? "");
      if (log.runs.room_c != null) setRoom(String(log.runs.room_c));
    } catch (error) {
      if (error instanceof ProblemError) setWrong(`${error.happened} ${error.kept} ${error.thenDo}`);
    }
  };
  const save = async () => {
    const readings: { run: "heating" | "cooling"; minute: number; celsius: number }[] = [];
    for (const [run, said] of [
      ["heating", up],
      ["cooling", down],
    ] as const) {
      for (const line of said.split("\n").filter((l) => l.trim())) {
        const [minute, celsius] = line
          .trim()
          .split(/[\s;,]+/)
          .map(Number);
        if (minute === undefined || celsius === undefined || !Number.isFinite(minute) || !Number.isFinite(celsius)) {
          setWrong(
            run === "cooling"
              ? say("“{line}” in the cooling run is no reading: give minute and °C, as in “4 72.5”.", {
                  line: line.trim(),
                })
              : say("“{line}” in the heating run is no reading: give minute and °C, as in “4 72.5”.", {
                  line: line.trim(),
                }),
          );
          return;
        }
        readings.push({ run, minute, celsius });
      }
    }
    if (!room.trim() || !Number.isFinite(Number(room)))
      return setWrong(say("Measure the room beside the press, in °C."));
    try {
      await told<PressHeat>(
        api.PUT("/api/presses/{press}/readings", {
          params: { path: { press: id } },
          body: { room_c: Number(room), readings },
        }),
      );
      queries.invalidateQueries({ queryKey: ["press-heat", id] });
      queries.invalidateQueries({ queryKey: ["heat"] });
      onClose();
    } catch (error) {
      if (error instanceof ProblemError) setWrong(`${error.happened} ${error.kept} ${error.thenDo}`);
    }
  };
  return (
    <form
      className="max-w-2xl rounded-lg border border-hair2 p-4"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <p>
        {say(
          "One line a reading: the minute, then °C. Take a reading a minute; let the press cool with its heater off.",
        )}
      </p>
      {shop?.probes
        .filter((p) => p.measures === "heat" && p.address && !p.retired)
        .map((p) => (
          <div key={p.id} className="mt-2">
            <Button onClick={() => void take(p.id)}>{say("Take the log of {name}", { name: p.name })}</Button>
          </div>
        ))}
      <div className="mt-2 grid grid-cols-2 gap-4">
        <label>
          <span className="font-semibold">{say("Heating run")}</span>
          <textarea className="field num h-44" value={up} onChange={(e) => setUp(e.target.value)} />
        </label>
        <label>
          <span className="font-semibold">{say("Cooling run")}</span>
          <textarea className="field num h-44" value={down} onChange={(e) => setDown(e.target.value)} />
        </label>
      </div>
      <label className="mt-2 block w-40">
        <span className="font-semibold">{say("Room, °C")}</span>
        <input className="field num" value={room} onChange={(e) => setRoom(e.target.value)} />
      </label>
      <p className="mt-1 text-need">{say("The platen burns: hold the probe with a glove, and keep the press open.")}</p>
      {wrong && (
        <p role="alert" className="mt-2 border-l-4 border-stop pl-3 text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-3 flex gap-2">
        <Button kind="go" type="submit">
          {say("Fit it to these")}
        </Button>
        <Button onClick={onClose}>{say("Leave it")}</Button>
      </div>
    </form>
  );
}
