import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, sent, told } from "../../api/client";
import type { ChartView, ColourRoom, Condition, Measured, MeasuredView } from "../../api/types";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { DriftChart } from "./DriftChart";
import { PatchReport } from "./PatchReport";
import { useDeed } from "./useColour";
import { Wrong } from "./Wrong";
import { awaitsProof, words } from "./words";

/** One printer on one medium in one mode: its profile, how far it has wandered, and its correction. */
export function OneCondition({ condition, room }: { condition: Condition; room: ColourRoom }) {
  const me = useMe();
  const [chosen, setChosen] = useState<string | null>(null);
  const newest = condition.measurements.at(-1);
  const shown = chosen ?? newest?.id ?? null;
  const query = useQuery({
    queryKey: ["measured", shown],
    queryFn: () =>
      told<MeasuredView>(
        api.GET("/api/colour/measurements/{measurement}", { params: { path: { measurement: shown ?? "" } } }),
      ),
    enabled: shown !== null,
    placeholderData: (before) => before,
  });
  const mayAct = me.role !== "viewer";
  return (
    <main className="min-h-0 overflow-auto px-6 py-4">
      <h1 className="text-2xl font-bold">{verdict(condition, room.drift_limit)}</h1>
      <p className="text-soft">
        {condition.printer_name} · {words(condition.media)} · {condition.mode_name}
        {condition.condition &&
          say(" · version {version}: {why}", {
            version: condition.condition.version,
            why: condition.condition.by
              ? `${condition.condition.why} (${condition.condition.by})`
              : condition.condition.why,
          })}
        {condition.condition?.ink_limit_pct &&
          say(" · holds {ink_limit_pct} % ink", { ink_limit_pct: condition.condition.ink_limit_pct.toFixed(0) })}
      </p>
      <div className="mt-3 flex flex-wrap items-end gap-6">
        <Assign condition={condition} room={room} mayAct={mayAct} />
        {mayAct && condition.condition?.profile && (
          <Measure condition={condition} room={room} onMeasured={() => setChosen(null)} />
        )}
      </div>
      {condition.measurements.length > 0 && (
        <DriftChart
          measurements={condition.measurements}
          limit={room.drift_limit}
          shown={shown}
          onShow={setChosen}
          version={condition.condition?.version ?? 0}
        />
      )}
      {query.data && shown && (
        <PatchReport
          view={query.data}
          mayAct={mayAct}
          isNewest={shown === newest?.id}
          key={query.data.measurement.id}
        />
      )}
      {!condition.measurements.length && (
        <p className="mt-6 max-w-2xl text-soft">
          {condition.condition?.profile
            ? say(
                "Nothing was measured here yet. Print the chart at 100 %, press it as an order is pressed, let it cool, and measure it: the figures then say how near this printer comes to its profile.",
              )
            : say(
                "No profile is assigned: colours are worked out with our own film profile standing in, and each print says so.",
              )}
        </p>
      )}
    </main>
  );
}

function verdict(condition: Condition, limit: number): string {
  const { drift, printer_name: name } = condition;
  if (!condition.condition?.profile) return say("{name} has no profile for this medium", { name });
  if (awaitsProof(condition))
    return say("{name} is corrected: measure its chart once more, to see whether it helped", { name });
  if (!drift) return say("{name} has a profile here, and nobody has measured it since", { name });
  if (drift.wants_correction)
    return say("{name} has wandered {mean_delta_e} since it was corrected: measure and correct it", {
      name,
      mean_delta_e: drift.mean_delta_e.toFixed(1),
    });
  return say("{name} keeps within {mean_delta_e} of where it was corrected; {limit} is the limit", {
    name,
    mean_delta_e: drift.mean_delta_e.toFixed(1),
    limit: limit.toFixed(0),
  });
}

function Assign({ condition, room, mayAct }: { condition: Condition; room: ColourRoom; mayAct: boolean }) {
  const { run, wrong } = useDeed();
  const wants = condition.takes === "rgb" ? "RGB" : say("its inks");
  const fit = room.profiles.filter((p) => condition.fits.includes(p.id));
  return (
    <div className="w-80">
      <label>
        <span className="font-semibold">{say("Profile ({wants})", { wants })}</span>
        <select
          className="field"
          disabled={!mayAct}
          value={condition.condition?.profile ?? ""}
          onChange={(e) =>
            void run(() =>
              told(
                api.PUT("/api/colour/conditions", {
                  body: {
                    printer: condition.printer,
                    media: condition.media,
                    mode: condition.mode,
                    profile: e.target.value,
                  },
                }),
              ),
            )
          }
        >
          {!condition.condition?.profile && <option value="">{say("none assigned")}</option>}
          {fit.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </select>
      </label>
      <Wrong said={wrong} />
    </div>
  );
}

/** Chart out, measurements in: by the probe on the network, or from a file. */
function Measure({ condition, room, onMeasured }: { condition: Condition; room: ColourRoom; onMeasured: () => void }) {
  const units = useUnits();
  const { run, wrong, isBusy } = useDeed();
  const [chart, setChart] = useState<ChartView | null>(null);
  const where = { printer: condition.printer, media: condition.media, mode: condition.mode };
  const make = () =>
    void run(async () => setChart(await told<ChartView>(api.POST("/api/colour/charts", { body: where }))));
  if (!chart)
    return (
      <div>
        <Button onClick={make} disabled={isBusy}>
          {say("Make the test chart")}
        </Button>
        <Wrong said={wrong} />
      </div>
    );
  const params = { path: { chart: chart.chart.id } };
  return (
    <div className="max-w-xl rounded-lg border border-hair2 p-3">
      <p>
        <a className="font-semibold text-act underline" href={`/api/colour/charts/${chart.chart.id}/chart.pdf`}>
          {say("Chart of {patches} patches", { patches: chart.chart.patches.length })}
        </a>
        {chart.chart.mirrored
          ? say(
              ", {size}, mirrored: print it at 100 % with no colour management, and press it as an order is pressed.",
              { size: units.size(chart.chart.width_mm, chart.chart.height_mm) },
            )
          : say(", {size}: print it at 100 % with no colour management, and press it as an order is pressed.", {
              size: units.size(chart.chart.width_mm, chart.chart.height_mm),
            })}{" "}
        <a className="text-act underline" href={`/api/colour/charts/${chart.chart.id}/chart.txt`}>
          {say("Its patches as text")}
        </a>
      </p>
      <p className="mt-1 text-need">
        {say("The platen burns, and the piece is hot: let it cool before the probe touches it.")}
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {room.probes.map((probe) => (
          <Button
            key={probe.id}
            kind="go"
            disabled={isBusy}
            onClick={() =>
              void run(() =>
                told<Measured>(api.POST("/api/colour/charts/{chart}/probe", { params, body: { probe: probe.id } })),
              ).then((m) => m && onMeasured())
            }
          >
            {say("Measure with {name}", { name: probe.name })}
          </Button>
        ))}
        <label className="inline-flex min-h-10 cursor-pointer items-center rounded-lg border border-hair2 bg-raise px-3.5 py-1.5 font-semibold">
          {say("Measurements from a file")}
          <input
            type="file"
            className="sr-only"
            accept=".txt,.csv,.cgats,.ti3,.it8"
            onChange={(e) => {
              const file = e.target.files?.[0];
              e.target.value = "";
              if (file)
                void run(() => sent<Measured>(`/api/colour/charts/${chart.chart.id}/measurements`, file)).then(
                  (m) => m && onMeasured(),
                );
            }}
          />
        </label>
      </div>
      <Wrong said={wrong} />
    </div>
  );
}
