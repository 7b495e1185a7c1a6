import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ProblemError, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Garment, JobCard, State } from "../../api/types";
import { useHotkeys } from "../../keys";
import { SmallGarment } from "../../line/StationPicture";
import { Button, StateMark } from "../../ui/parts";
import { when } from "../../ui/when";
import { OrderForm } from "./OrderForm";

/** Every job as its piece, with what it needs next. */
export function JobsPage() {
  const navigate = useNavigate();
  const outbox = useOutbox();
  const [isNew, setIsNew] = useState(false);
  const query = useQuery({ queryKey: ["jobs"], queryFn: () => told<JobCard[]>(api.GET("/api/jobs")) });
  const jobs = query.data ?? [];
  const open = jobs.filter((j) => !j.is_closed);
  const closed = jobs.filter((j) => j.is_closed);
  const first = open[0];
  const keys = useMemo(() => ({ n: () => setIsNew(true) }), []);
  useHotkeys(keys);
  useEffect(() => {
    document.title = "Jobs · Offsetter";
  }, []);

  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <div className="flex items-start justify-between gap-4">
        <div>
          <h1 className="text-2xl font-bold">{heading(open, query.isLoading)}</h1>
          {first && (
            <p className="text-soft">
              Next:{" "}
              <Link
                to={`/jobs/${first.id}/${first.next_station}`}
                className="font-semibold text-act underline underline-offset-2"
              >
                {first.title}
              </Link>
              , due {when(first.due)}.
            </p>
          )}
        </div>
        <Button kind="go" hotkey="N" onClick={() => setIsNew(true)}>
          New order
        </Button>
      </div>
      {query.error && <p className="mt-4 text-stop">{query.error.message}</p>}
      <ul className="mt-4 flex flex-col gap-3">
        {open.map((job) => (
          <JobRow key={job.id} job={job} />
        ))}
      </ul>
      {closed.length > 0 && (
        <>
          <h2 className="mt-7 mb-2 text-lg font-bold">Done</h2>
          <ul className="flex flex-col gap-3">
            {closed.map((job) => (
              <JobRow key={job.id} job={job} />
            ))}
          </ul>
        </>
      )}
      <OrderForm
        open={isNew}
        onClose={() => setIsNew(false)}
        onSave={async (order) => {
          try {
            const made = await told<{ id: string }>(
              api.POST("/api/jobs", { body: { order: { ...order, prints: ["front"], names: [], settled: false } } }),
            );
            navigate(`/jobs/${made.id}/order`);
          } catch (error) {
            if (error instanceof ProblemError) outbox.sayProblem(error);
          }
        }}
      />
    </main>
  );
}

function heading(open: JobCard[], isLoading: boolean): string {
  if (isLoading) return "Jobs";
  if (!open.length) return "No job is open. Take the first order with N.";
  const late = open.filter((j) => new Date(j.due) < new Date()).length;
  if (late) return `${late} of ${open.length} jobs ${late === 1 ? "is" : "are"} late`;
  return `${open.length} ${open.length === 1 ? "job is" : "jobs are"} open, none late`;
}

function JobRow({ job }: { job: JobCard }) {
  const left = job.pieces - job.good;
  return (
    <li>
      <Link
        to={`/jobs/${job.id}/${job.is_closed ? "inspect" : job.next_station}`}
        className="grid grid-cols-[132px_minmax(0,1fr)_minmax(0,1.1fr)_170px] items-center gap-5 rounded-xl border border-hair bg-panel px-4 py-3 hover:border-hair2 max-[900px]:grid-cols-[96px_1fr]"
      >
        <svg viewBox="0 0 132 96" className="w-full" aria-hidden="true">
          {job.garment && (
            <SmallGarment
              garment={job.garment as unknown as Garment}
              href={job.picture ?? null}
              width={132}
              height={96}
            />
          )}
        </svg>
        <div className="min-w-0">
          <h2 className="truncate text-lg font-bold">{job.title}</h2>
          <p className="truncate text-soft">{job.customer}</p>
          <p className="num mt-1">
            {job.good} of {job.pieces} good
          </p>
          <div className="mt-1 h-[5px] rounded bg-hair" aria-hidden="true">
            <div className="h-full rounded bg-done" style={{ width: `${(job.good / job.pieces) * 100}%` }} />
          </div>
        </div>
        <div className="min-w-0">
          {job.is_closed ? (
            <p>Closed and in the logbook.</p>
          ) : (
            <>
              <p className="font-semibold">
                <span className="capitalize">{job.next_station}</span>: <StateMark state={job.next_state as State} />
              </p>
              <p className="text-soft">{job.next_verdict}</p>
            </>
          )}
          <div className="mt-1.5 flex gap-2" aria-hidden="true">
            {job.states.map(([station, state]) => (
              <span key={String(station)} title={`${station}: ${state}`}>
                <StateMark state={state as State} wordless />
              </span>
            ))}
          </div>
        </div>
        <div className="text-right max-[900px]:col-span-2 max-[900px]:text-left">
          <p className="font-semibold">due {when(job.due)}</p>
          <p className="text-soft">{job.is_closed ? "" : left ? `${left} to go` : "all good, close it"}</p>
        </div>
      </Link>
    </li>
  );
}
