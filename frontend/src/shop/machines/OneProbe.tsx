import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, told } from "../../api/client";
import type { HeatLog, Probe } from "../../api/types";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { HeatRuns } from "./HeatRuns";
import { useChanges } from "./machines";
import { OneMachine } from "./OneMachine";
import { Words } from "./Value";

const READ_EVERY_MS = 5000;

/** What measures: colour on a chart, or the heat of what it is held to. */
export function OneProbe({ probe }: { probe: Probe }) {
  const me = useMe();
  const changes = useChanges("probes", probe.id);
  const isHeat = probe.measures === "heat";
  return (
    <OneMachine
      machine={probe}
      changes={changes}
      verdict={
        (isHeat
          ? say("{name} measures heat", { name: probe.name })
          : say("{name} measures colour", { name: probe.name })) + (probe.address ? "" : say("; it is read by hand"))
      }
      sub={
        isHeat
          ? say("Held between the platens it logs how a press heats and cools; the press's page takes its log.")
          : say("It is sent a chart and answers with every patch measured.")
      }
      drawing={
        isHeat ? (
          <Reading probe={probe} />
        ) : (
          <p className="px-6 pt-4">
            <Link to="/colour" className="font-semibold text-act underline underline-offset-2">
              {say("Measure a printer's chart at Colour")}
            </Link>
          </p>
        )
      }
    >
      <fieldset disabled={me.role !== "owner"}>
        <Words
          label={say("Its address on the network")}
          hint={me.role === "owner" ? say("such as http://192.168.1.44; empty: by hand") : say("the owner's to say")}
          value={probe.address ?? ""}
          onDone={(address) => void changes.change({ address })}
        />
      </fieldset>
    </OneMachine>
  );
}

/** What a heat probe says now, and its log until now. */
function Reading({ probe }: { probe: Probe }) {
  const units = useUnits();
  const { data, error } = useQuery({
    queryKey: ["heat-log", probe.id, probe.address],
    queryFn: () => told<HeatLog>(api.GET("/api/probes/{probe}/log", { params: { path: { probe: probe.id } } })),
    refetchInterval: READ_EVERY_MS,
    enabled: Boolean(probe.address),
    retry: false,
  });
  if (!probe.address) return null;
  if (error && !data) return <p className="px-6 pt-4 text-stop">{error.message}</p>;
  const last = data?.log.at(-1);
  const first = data?.log[0]?.minute ?? 0;
  if (!data || !last) return <p className="px-6 pt-4 text-soft">{say("Its log is empty.")}</p>;
  return (
    <div className="px-6 pt-3">
      <p>
        <span className="num text-3xl font-bold">{units.heat(last.celsius)}</span>
        {last.room_c != null && (
          <span className="text-soft"> {say("in a room of {room_c}", { room_c: units.heat(last.room_c) })}</span>
        )}
      </p>
      {error && <p className="text-stop">{error.message}</p>}
      <HeatRuns
        heat={{
          name: probe.name,
          readings: [],
          curves: { "its log": data.log.map((r) => [r.minute - first, r.celsius] as [number, number]) },
        }}
      />
      <p className="mt-1 text-soft">{data.runs ? say("It holds a whole heating and cooling.") : data.lacks}</p>
    </div>
  );
}
