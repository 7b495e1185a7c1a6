import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ProblemError, told } from "../../api/client";
import type { PressHeat } from "../../api/types";
import { useShop } from "../../api/useShop";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { Button } from "../../ui/parts";
import { HeatRuns } from "./HeatRuns";

/** The shop's presses: how each heats and cools, from its own readings; and which printer takes what. */
export default function MachinesPage() {
  const { press = "" } = useParams();
  const navigate = useNavigate();
  const { shop } = useShop();
  useEffect(() => {
    document.title = "Machines · Offsetter";
  }, []);
  const open = press || shop?.presses[0]?.id || "";
  return (
    <div className="grid min-h-0 grow grid-cols-[280px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside
        aria-label="Machines"
        className="min-h-0 overflow-auto border-r border-hair bg-panel py-4 max-[900px]:max-h-60"
      >
        <h2 className="px-4 font-semibold">Presses</h2>
        <ul>
          {shop?.presses.map((p) => (
            <li key={p.id}>
              <button
                type="button"
                aria-current={p.id === open ? "true" : undefined}
                onClick={() => navigate(`/machines/${p.id}`)}
                className={`w-full border-l-4 px-3 py-1.5 text-left ${p.id === open ? "border-act bg-act-soft" : "border-transparent"}`}
              >
                <span className="block font-semibold">{p.name}</span>
                <span className="block text-sm text-soft">
                  {p.kind}, {p.platen_width_mm} x {p.platen_height_mm} mm
                </span>
              </button>
            </li>
          ))}
        </ul>
        <h2 className="mt-4 px-4 font-semibold">Printers, and what they take</h2>
        <ul className="px-4">
          {shop?.printers.map((p) => (
            <li key={p.id} className="mt-1.5">
              <span className="font-semibold">{p.name}</span>
              <ul className="text-sm text-soft">
                {p.feeds.map((f) => (
                  <li key={f.method}>
                    {shop.method_names[f.method] ?? f.method}:{" "}
                    {f.kind === "roll"
                      ? `roll ${f.media_mm} mm`
                      : f.kind === "garment"
                        ? "the garment itself"
                        : `${f.media_mm} x ${f.length_mm} mm`}
                  </li>
                ))}
              </ul>
            </li>
          ))}
        </ul>
      </aside>
      {open ? <OnePress key={open} id={open} /> : <main className="p-6 text-soft">Opening…</main>}
    </div>
  );
}

function OnePress({ id }: { id: string }) {
  const units = useUnits();
  const me = useMe();
  const query = useQuery({
    queryKey: ["press-heat", id],
    queryFn: () => told<PressHeat>(api.GET("/api/presses/{press}/heat", { params: { path: { press: id } } })),
  });
  const [isMeasuring, setMeasuring] = useState(false);
  const shown = query.data;
  if (!shown) return <main className="p-6 text-soft">{query.error?.message ?? "Opening the press…"}</main>;
  const { model } = shown;
  return (
    <main className="flex min-h-0 flex-col overflow-auto px-6 py-4">
      <h1 className="text-2xl font-bold">
        {model
          ? `${shown.name} heats ${model.q_c_per_min.toFixed(1)} K a minute from cold, and cools by itself`
          : `${shown.name} has not been measured yet`}
      </h1>
      <p className="text-soft">
        {model
          ? `Fitted to ${shown.readings.length} readings of a probe; the room was ${units.heat(model.room_c)}, measured and not fitted. The furthest reading lies ${shown.worst_k.toFixed(1)} K off. It would end at ${units.heat(model.ceiling_c)}.`
          : "A probe on its platen, once while it heats from cold and once while it cools, tells how long a change of heat takes."}
      </p>
      {model && <HeatRuns heat={shown} />}
      {model && (
        <table className="mt-3 w-full max-w-xl">
          <caption className="text-left font-semibold">What a change of heat takes</caption>
          <tbody>
            {Object.entries(shown.minutes).map(([pair, minutes]) => {
              const [from, to] = pair.split("-").map(Number) as [number, number];
              return (
                <tr key={pair} className="border-b border-hair">
                  <th scope="row" className="num py-0.5 text-left font-normal">
                    {units.heat(from)} → {units.heat(to)}
                  </th>
                  <td className="num text-right font-semibold">{minutes.toFixed(1)} min</td>
                  <td className="pl-4 text-soft">{to > from ? "at full power" : "cooling by itself, open"}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <p className="mt-2 max-w-3xl text-soft">
        Besides: {shown.settle_min} min until the heat is even, {shown.lower_warm_min} min for the lower platen before
        the first piece. A thermostat throttles near its set-point: readings there are left out by themselves.
      </p>
      {me.role !== "viewer" && (
        <div className="mt-3">
          {isMeasuring ? (
            <Measure id={id} heat={shown} onClose={() => setMeasuring(false)} />
          ) : (
            <Button onClick={() => setMeasuring(true)}>{model ? "Measure it again" : "Enter readings"}</Button>
          )}
        </div>
      )}
    </main>
  );
}

/** Readings typed or pasted: a line each, minute and degrees; both runs, and the room. */
function Measure({ id, heat, onClose }: { id: string; heat: PressHeat; onClose: () => void }) {
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
          setWrong(`“${line.trim()}” in the ${run} run is no reading: give minute and °C, as in “4 72.5”.`);
          return;
        }
        readings.push({ run, minute, celsius });
      }
    }
    if (!room.trim() || !Number.isFinite(Number(room))) return setWrong("Measure the room beside the press, in °C.");
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
      <p>One line a reading: the minute, then °C. Take a reading a minute; let the press cool with its heater off.</p>
      <div className="mt-2 grid grid-cols-2 gap-4">
        <label>
          <span className="font-semibold">Heating run</span>
          <textarea className="field num h-44" value={up} onChange={(e) => setUp(e.target.value)} />
        </label>
        <label>
          <span className="font-semibold">Cooling run</span>
          <textarea className="field num h-44" value={down} onChange={(e) => setDown(e.target.value)} />
        </label>
      </div>
      <label className="mt-2 block w-40">
        <span className="font-semibold">Room, °C</span>
        <input className="field num" value={room} onChange={(e) => setRoom(e.target.value)} />
      </label>
      <p className="mt-1 text-need">The platen burns: hold the probe with a glove, and keep the press open.</p>
      {wrong && (
        <p role="alert" className="mt-2 border-l-4 border-stop pl-3 text-stop">
          {wrong}
        </p>
      )}
      <div className="mt-3 flex gap-2">
        <Button kind="go" type="submit">
          Fit it to these
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </form>
  );
}
