import { NavLink, useLocation, useSearchParams } from "react-router";
import type { Job } from "../api/types";
import { say } from "../texts/say";

/** Which print of the job is looked at, and on which line and size: in the address, so that a link says it. */
export function useSeenFrom(): { print: string; kind: string; see: (what: { print?: string; kind?: string }) => void } {
  const [params, setParams] = useSearchParams();
  const see = (what: { print?: string; kind?: string }) => {
    const next = new URLSearchParams(params);
    for (const [name, value] of Object.entries(what)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    setParams(next, { replace: true });
  };
  return { print: params.get("print") ?? "", kind: params.get("kind") ?? "", see };
}

/** The job's prints in the order of pressing; nothing while there is one alone. */
export function PrintTabs({ job }: { job: Job }) {
  const { pathname } = useLocation();
  if (job.prints.length < 2) return null;
  return (
    <nav aria-label={say("Prints of this piece")} className="mb-2 flex flex-wrap gap-1.5">
      {job.prints.map((print, i) => {
        const isHere = print.id === job.print;
        return (
          <NavLink
            key={print.id}
            to={{ pathname, search: `?print=${print.id}` }}
            aria-current={isHere ? "true" : undefined}
            className={`rounded-full border px-3 py-0.5 text-sm ${isHere ? "border-act bg-act font-semibold text-on-act" : "border-hair2 bg-raise"}`}
          >
            {i + 1} {print.name}
            {!print.has_art && say(" · no artwork")}
          </NavLink>
        );
      })}
    </nav>
  );
}

/** Said over the whole job while it may not be worked on. */
export function Standing({ job }: { job: Job }) {
  if (job.standing !== "held" && job.standing !== "cancelled") return null;
  return (
    <p role="status" className="border-b border-need bg-need-soft px-6 py-1.5 text-need">
      <span className="font-semibold">{job.standing === "held" ? say("On hold") : say("Cancelled")}:</span> {job.why}
    </p>
  );
}
