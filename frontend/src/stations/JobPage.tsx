import { useEffect, useMemo, useState } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import { api, ProblemError, told } from "../api/client";
import { STATIONS, type Station, type StationName } from "../api/types";
import { LineStrip } from "../line/LineStrip";
import { Mend } from "../line/Mend";
import { PrintTabs, Standing, useSeenFrom } from "../line/PrintTabs";
import { type JobLine, useJobLine } from "../line/useJobLine";
import { Readings } from "../readings/Readings";
import { say } from "../texts/say";
import { worded } from "../texts/words";
import { Boundary } from "../ui/Boundary";
import { useHotkeys } from "../ui/keys";
import { Button, StateMark } from "../ui/parts";
import { STATION_VIEWS } from ".";

const DECIDED: StationName[] = ["order", "method", "artwork", "colour", "white", "sheet"];

export default function JobPage() {
  const { id = "", station = "order" } = useParams();
  const { print, kind } = useSeenFrom();
  const { line, error } = useJobLine(id, print, kind);
  if (error instanceof ProblemError && error.code === "job-unreadable")
    return (
      <main className="p-6">
        <Mend
          what={say("This job cannot be opened")}
          why={error.happened}
          onMend={() => told(api.POST("/api/jobs/{job_id}/mend", { params: { path: { job_id: id } } }))}
        />
      </main>
    );
  if (error) return <p className="p-6">{say("{message} Press J for Jobs.", { message: error.message })}</p>;
  if (!line) return <p className="p-6 text-soft">{say("Opening the job…")}</p>;
  const name = STATIONS.find((s) => s === station) ?? "order";
  return <JobAt key={`${name} ${print}`} jobLine={line} here={name} />;
}

function JobAt({ jobLine, here }: { jobLine: JobLine; here: StationName }) {
  const navigate = useNavigate();
  const { search, state } = useLocation();
  const { job, line } = jobLine;
  const station = line.stations.find((s) => s.station === here) ?? line.stations[0];
  const [flips, setFlips] = useState(0);
  const order = line.stations.map((s) => s.station);
  const at = order.indexOf(here);
  const view = STATION_VIEWS[here];
  const canSettle = station !== undefined && isToSettle(station);
  const alongside = (state as { alongside?: string[] } | null)?.alongside ?? [];

  useEffect(() => {
    document.title = say("{title} · {name} · Offsetter", {
      title: line.decisions.order.title,
      name: station && worded(station.name),
    });
  }, [line.decisions.order.title, station]);

  const keys = useMemo(() => {
    const go = (to: number, alongside: string[] = []) => {
      const name = line.stations[to]?.station;
      if (name) navigate({ pathname: `/jobs/${job.id}/${name}`, search }, { state: { alongside } });
    };
    const numbers = Object.fromEntries(line.stations.map((_, i) => [String((i + 1) % 10), () => go(i)]));
    const goBack = () => go(at - 1);
    const goOn = () => go(at + 1);
    const isRight = () => {
      if (!canSettle) {
        if (station?.state === "done" || station?.state === "not needed" || !DECIDED.includes(here)) goOn();
        return;
      }
      jobLine.settle(here);
      // What asks nothing is accepted with it: hands go on to the next station that wants them.
      let to = at + 1;
      const accepted: string[] = [];
      for (let s = line.stations[to]; s && asksNothing(s); s = line.stations[to]) {
        if (isToSettle(s)) {
          jobLine.settle(s.station);
          accepted.push(worded(s.name));
        }
        to += 1;
      }
      go(to, accepted);
    };
    const flip = () => setFlips((n) => n + 1);
    const { undo, redo } = jobLine;
    const books = () => navigate(`/jobs/${job.id}/ledger`);
    const proof = () => navigate(`/jobs/${job.id}/proof`);
    return {
      ...numbers,
      ArrowLeft: goBack,
      ArrowRight: goOn,
      Enter: isRight,
      z: undo,
      "Shift+Z": redo,
      f: flip,
      b: books,
      o: proof,
    };
  }, [navigate, search, job.id, at, jobLine, line.stations, here, canSettle, station?.state]);
  useHotkeys(keys);

  if (!station) return null;
  const next = order[at + 1];
  return (
    <>
      <LineStrip jobId={job.id} line={line} saved={job.line.pictures} here={here} />
      <Standing job={job} />
      <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_356px] max-[980px]:grid-cols-1 max-[980px]:overflow-auto">
        <main className="flex min-h-0 min-w-0 flex-col bg-bench max-[980px]:min-h-[520px]">
          <div className="px-6 pt-3">
            <PrintTabs job={job} />
            <h1 className="text-[17px] leading-snug font-bold">{station.verdict}</h1>
            <p className="text-sm text-soft">
              {line.decisions.order.title} · {station.sub}
            </p>
          </div>
          <Boundary
            what={say("The bench of {name}", { name: worded(station.name) })}
            of={`${here} ${job.revisions[here] ?? 0}`}
          >
            <view.Bench station={station} jobLine={jobLine} flips={flips} onFlip={() => setFlips((n) => n + 1)} />
          </Boundary>
        </main>
        <aside
          aria-label={say("{name}: decisions", { name: worded(station.name) })}
          className="flex min-h-0 flex-col border-l border-hair bg-panel"
        >
          <div className="flex items-baseline justify-between px-5 pt-3.5">
            <h2 className="text-[22px] font-bold">{worded(station.name)}</h2>
            <span className="flex items-center gap-3 text-sm text-soft">
              <StateMark state={station.state} /> {say("{at} of 10", { at: at + 1 })}
            </span>
          </div>
          <div className="flex min-h-0 grow flex-col gap-4 overflow-y-auto px-5 py-3">
            {alongside.length > 0 && (
              <p role="status" className="border-l-4 border-done pl-3 text-sm text-soft">
                {say("Asked nothing, accepted with it: {alongside}.", {
                  alongside: alongside.map((name) => worded(name)).join(", "),
                })}
              </p>
            )}
            <Boundary
              what={say("The card of {name}", { name: worded(station.name) })}
              of={`${here} ${job.revisions[here] ?? 0}`}
            >
              <view.Card station={station} jobLine={jobLine} flips={flips} onFlip={() => setFlips((n) => n + 1)} />
            </Boundary>
          </div>
          <div className="flex gap-2 border-t border-hair px-5 py-3">
            {canSettle ? (
              <Button kind="go" hotkey="Enter" onClick={keys.Enter}>
                {say("{name} is right", { name: worded(station.name) })}
              </Button>
            ) : (
              next && (
                <Button kind="plain" hotkey="→" onClick={keys.ArrowRight}>
                  {say("On to {next}", { next: worded(next) })}
                </Button>
              )
            )}
            <Button hotkey="Z" onClick={jobLine.undo} disabled={!job.can_undo}>
              {say("Undo")}
            </Button>
          </div>
        </aside>
      </div>
      <Readings readings={line.readings} before={jobLine.before} />
    </>
  );
}

function isToSettle(station: Station): boolean {
  return DECIDED.includes(station.station) && !["blocked", "open", "done", "not needed"].includes(station.state);
}

/** Nothing found that hands must weigh. The method is always looked at: almost everything follows from it. */
function asksNothing(station: Station): boolean {
  if (!DECIDED.includes(station.station) || station.station === "method") return false;
  return (
    ["done", "not needed"].includes(station.state) ||
    (station.state === "ready" && station.findings.every((f) => f.severity === "note"))
  );
}
