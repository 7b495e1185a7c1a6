import type { CardStage, PressSession } from "../api/types";
import { say } from "../texts/say";
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
    <section className="grid min-h-0 grow place-items-center px-8 text-center" aria-label={say("Another screen leads")}>
      <div>
        <h1 className="text-5xl font-extrabold" data-say>
          {session
            ? isFollowing
              ? say("Following {person}", { person: session.person })
              : say("{person} leads this press", { person: session.person })
            : say("Nobody leads this press any more")}
        </h1>
        {session && (
          <p className="mt-3 text-2xl text-soft">
            {say("“{title}”, on {screen}, seen {seen_at}. {done} done, {rack} on the rack.", {
              title: session.title,
              screen: session.screen || say("another screen"),
              seen_at: when(session.seen_at),
              done: state?.done,
              rack: rack.length,
            })}
          </p>
        )}
        {isFollowing && stage && here && (
          <p className="mt-6 text-3xl">
            {labelOf(here.slot)}: <span className="font-bold">{stage.name}</span>
            {left !== null && <span className="num text-heat"> {left > 0 ? clock(left) : `+${clock(-left)}`}</span>}
          </p>
        )}
        {isFollowing && rack.length > 0 && session?.job === job && (
          <p className="mt-3 text-2xl">
            {say("Rack:")} {rack.map((p) => `${p.place} (${labelOf(p.slot)})`).join(", ")}
          </p>
        )}
        <p className="mx-auto mt-6 max-w-2xl text-xl text-soft">
          {isFollowing
            ? say("This screen only looks. Nothing done here is recorded.")
            : say("Taking over brings the rack and the running clock to this screen; the other one then follows.")}
        </p>
        <div className="mt-6 flex justify-center gap-3">
          {!isFollowing && (
            <button
              type="button"
              onClick={onFollow}
              className="min-h-16 rounded-xl border-2 border-hair2 px-8 text-2xl font-bold"
            >
              {say("Follow it")}
            </button>
          )}
          <button
            type="button"
            onClick={onTakeOver}
            className="min-h-16 rounded-xl bg-act px-8 text-2xl font-bold text-on-act"
          >
            {say("Take it over")}
          </button>
          <button
            type="button"
            onClick={onLeave}
            className="min-h-16 rounded-xl border-2 border-hair2 px-8 text-2xl font-bold"
          >
            {say("Leave")}
          </button>
        </div>
      </div>
    </section>
  );
}
