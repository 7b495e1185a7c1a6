import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, told } from "../../api/client";
import { keep } from "../../api/keep";
import type { AtPrinter, SharedRun } from "../../api/types";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button, NumberField } from "../../ui/parts";
import { RunFiles } from "../../ui/RunFiles";
import { asksEvery, Sending } from "../../ui/Sending";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";
import { Typed } from "../../ui/Typed";
import { when } from "../../ui/when";

/** Runs that carry several jobs, the newest first. */
export function useSharedRuns(): SharedRun[] {
  const { data = [] } = useQuery({
    queryKey: ["shared-runs"],
    queryFn: () => told<SharedRun[]>(api.GET("/api/shared-runs")),
    staleTime: 0,
  });
  return data;
}

/** Something of it is still to be printed or cured. */
export const isGoing = (run: SharedRun) =>
  run.printed < run.copies || run.stages.some((s) => through(run, s.id) < run.printed);

export function SharedRuns({ runs, name }: { runs: SharedRun[]; name: string }) {
  if (!runs.length) return null;
  return (
    <section aria-label={name} className="mt-6 max-w-5xl">
      <h2 className="border-b border-hair2 pb-2 text-lg font-bold">{name}</h2>
      <ul className="mt-3 flex flex-col gap-4">
        {runs.map((run) => (
          <li key={run.id}>
            <OneRun run={run} />
          </li>
        ))}
      </ul>
    </section>
  );
}

const through = (run: SharedRun, stage: string) => run.parts.reduce((n, p) => n + (p.prepared[stage] ?? 0), 0);

function OneRun({ run }: { run: SharedRun }) {
  const units = useUnits();
  const queries = useQueryClient();
  const me = useMe();
  const { wrong, tell } = useSaying();
  const [lot, setLot] = useState("");
  const path = { run_id: run.id };
  const left = run.printed < run.copies;
  const stage = run.stages.find((s) => through(run, s.id) < run.printed);
  const again = () => void queries.invalidateQueries({ queryKey: ["shared-runs"] });
  const { data: printer } = useQuery({
    queryKey: ["shared-printer", run.id, run.printed],
    queryFn: () => told<AtPrinter>(api.GET("/api/shared-runs/{run_id}/printer", { params: { path } })),
    refetchInterval: (q) => {
      const every = asksEvery(q.state.data);
      // What came out is counted by the server.
      if (q.state.data?.sends?.some((s) => s.state === "done") && left) again();
      return every;
    },
    enabled: left,
  });
  const accept = (seen: SharedRun) =>
    keep<SharedRun[]>(queries, ["shared-runs"], (all = []) => all.map((r) => (r.id === seen.id ? seen : r)));
  const mark = () => crypto.randomUUID();
  const printed = (cuts: number) =>
    tell(
      told<SharedRun>(
        api.POST("/api/shared-runs/{run_id}/printed", {
          params: { path },
          body: { id: mark(), cuts, lot: lot.trim() },
        }),
      ).then(accept),
    );
  const prepared = (id: string, cuts: number) =>
    tell(
      told<SharedRun>(
        api.POST("/api/shared-runs/{run_id}/prepared", { params: { path }, body: { id: mark(), stage: id, cuts } }),
      ).then(accept),
    );
  const apart = () => tell(told(api.DELETE("/api/shared-runs/{run_id}", { params: { path } })).then(again));
  const canAct = me.role !== "viewer";
  return (
    <article
      className="rounded-lg border border-hair2 bg-panel px-4 py-3"
      aria-label={say("Run {number}", { number: run.number })}
    >
      <h3 className="font-bold">
        {say("Run {number} on {printer}: {printed} of {copies} printed", {
          number: run.number,
          printer: run.printer,
          printed: run.printed,
          copies: run.copies,
        })}
        {run.stages
          .map((s) => say(", {through} through {name}", { through: through(run, s.id), name: s.name.toLowerCase() }))
          .join("")}
      </h3>
      <p className="text-sm text-soft">
        {say("{amount} · released by {by} {at} · code", {
          amount: run.sheet_um
            ? several(run.copies_per_cut.length, "sheet")
            : say("{length} in {lengths}", {
                length: units.metres(run.length_um / 1e6),
                lengths: several(run.copies_per_cut.length, "length"),
              }),
          by: run.released_by,
          at: when(run.released_at),
        })}{" "}
        <Link to={`/codes/R${run.number}`} className="text-act underline underline-offset-2">
          R{run.number}
        </Link>
      </p>
      <ul className="mt-1.5">
        {run.parts.map((p) => (
          <li
            key={p.job}
            className="grid grid-cols-[minmax(0,1fr)_160px_160px] gap-3 border-t border-hair py-1 max-[900px]:grid-cols-[minmax(0,1fr)_120px]"
          >
            <Link to={`/jobs/${p.job}`} className="truncate font-semibold hover:underline">
              {p.title}
            </Link>
            <span className="num">
              {say("{printed} of {copies} printed", { printed: p.printed, copies: p.copies })}
            </span>
            <span className="text-sm text-soft max-[900px]:hidden">
              {p.due ? say("due {due}", { due: when(p.due) }) : ""}
            </span>
          </li>
        ))}
      </ul>
      <RunFiles
        run={run.id}
        prints={run.files.map((f) => [`print.tif?sort=${f.sort}`, say("{name} (TIFF)", { name: f.name })])}
        cuts={run.is_cut ? run.copies_per_cut.length : 0}
      />
      <Refused said={wrong} />
      {left && (
        <Sending
          seen={printer}
          again={() => void queries.invalidateQueries({ queryKey: ["shared-printer", run.id] }).then(again)}
        />
      )}
      {canAct && (left || stage) && (
        <div className="mt-3 flex flex-wrap items-end gap-3 border-t border-hair pt-3">
          {left && (
            <>
              <Typed label={say("Lot")} value={lot} onChange={setLot} />
              <Counted
                of={run}
                said={(count, whole) =>
                  whole === 1
                    ? say("It is printed")
                    : count === whole
                      ? say("All {count} are printed", { count })
                      : say("The first {count} are printed", { count })
                }
                onDone={(n) => void printed(n)}
              />
            </>
          )}
          {stage && (
            <Counted
              of={run}
              said={(count, whole) => {
                const name = stage.name.toLowerCase();
                if (whole === 1) return say("It went through {name}", { name });
                return count === whole
                  ? say("All {count} went through {name}", { count, name })
                  : say("The first {count} went through {name}", { count, name });
              }}
              onDone={(n) => void prepared(stage.id, n)}
            />
          )}
          {run.printed === 0 && (
            <Button kind="quiet" onClick={() => void apart()}>
              {say("Take the run apart")}
            </Button>
          )}
        </div>
      )}
    </article>
  );
}

/** The first so many lengths or sheets: all of them unless somebody says fewer. */
function Counted({
  of: run,
  said,
  onDone,
}: {
  of: SharedRun;
  said: (count: number, whole: number) => string;
  onDone: (cuts: number) => void;
}) {
  const whole = run.copies_per_cut.length;
  const [count, setCount] = useState(whole);
  return (
    <div className="flex items-end gap-2">
      {whole > 1 && (
        <div className="w-20">
          <NumberField
            label={run.sheet_um ? say("First sheets") : say("First lengths")}
            value={count}
            onDone={(n) => setCount(Math.max(1, Math.min(whole, Math.round(n))))}
          />
        </div>
      )}
      <Button kind="go" onClick={() => onDone(count)}>
        {said(count, whole)}
      </Button>
    </div>
  );
}
