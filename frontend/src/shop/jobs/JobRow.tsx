import { Link } from "react-router";
import type { JobCard } from "../../api/types";
import { SmallGarment } from "../../line/StationPicture";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { StateMark } from "../../ui/parts";
import { when } from "../../ui/when";

/** One job as its piece: what it needs next, how far it is, when it is due. */
export function JobRow({ job }: { job: JobCard }) {
  const hasEnded = job.ended_at !== null;
  const left = job.pieces - job.good;
  const isLate = !hasEnded && job.stands === "open" && new Date(job.due) < new Date();
  return (
    <li className="@container">
      <Link
        to={`/jobs/${job.id}/${hasEnded ? "inspect" : job.next_station}`}
        className="grid grid-cols-[72px_minmax(0,1fr)_minmax(0,1.25fr)_auto_172px] items-center gap-x-4 rounded-lg border border-hair bg-panel px-3 py-1.5 hover:border-hair2 @max-[850px]:grid-cols-[72px_1fr_1fr]"
      >
        <svg viewBox="0 0 72 52" className="w-full" aria-hidden="true">
          {job.garment && <SmallGarment garment={job.garment} href={job.picture ?? null} width={72} height={52} />}
        </svg>
        <div className="min-w-0">
          <h2 className="truncate text-[17px] font-bold leading-snug">{job.title}</h2>
          <p className="truncate text-soft">
            {job.customer} · <span className="num text-ink">{job.good}</span> {say("of")}{" "}
            <span className="num">{job.pieces}</span> {say("good")}
          </p>
          <div className="mt-0.5 h-[4px] rounded bg-hair" aria-hidden="true">
            <div className="h-full rounded bg-done" style={{ width: `${(job.good / job.pieces) * 100}%` }} />
          </div>
        </div>
        <div className="min-w-0">
          {hasEnded ? (
            <p>
              {job.stands === "closed" ? say("Closed and in the logbook.") : say("Cancelled: {why}", { why: job.why })}
            </p>
          ) : (
            <>
              <p className="font-semibold">
                <span className="capitalize">{job.next_station}</span>: <StateMark state={job.next_state} />
              </p>
              <p className="truncate text-soft" title={job.next_verdict}>
                {job.next_verdict}
              </p>
            </>
          )}
        </div>
        <div className="flex gap-1.5 max-[1180px]:hidden" aria-hidden="true">
          {job.states.map(([station, state]) => (
            <span key={station} title={`${worded(station)}: ${worded(state)}`}>
              <StateMark state={state} wordless />
            </span>
          ))}
        </div>
        <div className="col-start-5 text-right @max-[850px]:col-span-3 @max-[850px]:col-start-1 @max-[850px]:text-left">
          {job.ended_at ? (
            <p className="text-soft">{when(job.ended_at)}</p>
          ) : (
            <>
              <p className={`font-semibold ${isLate ? "text-stop" : ""}`}>
                {isLate ? say("late: {due}", { due: when(job.due) }) : say("due {due}", { due: when(job.due) })}
              </p>
              <p className="text-soft">{left ? say("{left} to go", { left }) : say("all good, close it")}</p>
            </>
          )}
        </div>
      </Link>
    </li>
  );
}
