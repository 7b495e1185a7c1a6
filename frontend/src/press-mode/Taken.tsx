import type { CardStage, PressSession } from "../api/types";
import { when } from "../ui/when";
import { clock } from "./engine";

type TakenProps = {
  session: PressSession | null;
  job: string;
  stages: CardStage[];
  isFollowing: boolean;
  now: number;
  labelOf: (slot: string) => string;
  onFollow: () => void;
  onTakeOver: () => void;
  onLeave: () => void;
};

/** Another screen leads this press: follow it, or take it over. */
export function Taken({ session, job, stages, isFollowing, now, labelOf, onFollow, onTakeOver, onLeave }: TakenProps) {
  const state = session?.state;
  const here = state?.pieces.find((p) => p.where === "press");
  const stage = here && session?.job === job ? stages[here.stage] : undefined;
  const left = stage && state?.started_at != null ? stage.time_s - (now - state.started_at) / 1000 : null;
  const rack = state?.pieces.filter((p) => p.where === "rack") ?? [];
  return (
    <section className="grid min-h-0 grow place-items-center px-8 text-center" aria-label="Another screen leads">
      <div>
        <h1 className="text-5xl font-extrabold" data-say>
          {session
            ? isFollowing
              ? `Following ${session.person}`
              : `${session.person} leads this press`
            : "Nobody leads this press any more"}
        </h1>
        {session && (
          <p className="mt-3 text-2xl text-soft">
            “{session.title}”, on {session.screen || "another screen"}, seen {when(session.seen_at)}. {state?.done}{" "}
            done, {rack.length} on the rack.
          </p>
        )}
        {isFollowing && stage && here && (
          <p className="mt-6 text-3xl">
            {labelOf(here.slot)}: <span className="font-bold">{stage.name}</span>
            {left !== null && <span className="num text-heat"> {left > 0 ? clock(left) : `+${clock(-left)}`}</span>}
          </p>
        )}
        {isFollowing && rack.length > 0 && session?.job === job && (
          <p className="mt-3 text-2xl">Rack: {rack.map((p) => `${p.place} (${labelOf(p.slot)})`).join(", ")}</p>
        )}
        <p className="mx-auto mt-6 max-w-2xl text-xl text-soft">
          {isFollowing
            ? "This screen only looks. Nothing done here is recorded."
            : "Taking over brings the rack and the running clock to this screen; the other one then follows."}
        </p>
        <div className="mt-6 flex justify-center gap-3">
          {!isFollowing && (
            <button
              type="button"
              onClick={onFollow}
              className="min-h-16 rounded-xl border-2 border-hair2 px-8 text-2xl font-bold"
            >
              Follow it
            </button>
          )}
          <button
            type="button"
            onClick={onTakeOver}
            className="min-h-16 rounded-xl bg-act px-8 text-2xl font-bold text-on-act"
          >
            Take it over
          </button>
          <button
            type="button"
            onClick={onLeave}
            className="min-h-16 rounded-xl border-2 border-hair2 px-8 text-2xl font-bold"
          >
            Leave
          </button>
        </div>
      </div>
    </section>
  );
}
