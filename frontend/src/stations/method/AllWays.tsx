import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client";
import type { Advice, Advised, Looks } from "../../api/types";
import { WaySection } from "../../bench/WaySection";
import { useSeenFrom } from "../../line/PrintTabs";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say, sayMany } from "../../texts/say";
import { useMoney } from "../../ui/money";
import { Button } from "../../ui/parts";

/** Every method for this piece: what fits as sections through the cloth, what does not with its reason. */
export function AllWays({ jobLine, onChosen }: { jobLine: JobLine; onChosen: () => void }) {
  const units = useUnits();
  const { kind } = useSeenFrom();
  const { job } = jobLine;
  const query = useQuery({
    queryKey: ["advice", job.id, job.print, kind, job.revisions],
    queryFn: () =>
      told<Advice>(
        api.GET("/api/jobs/{job_id}/advice", {
          params: { path: { job_id: job.id }, query: { print: job.print, kind } },
        }),
      ),
    placeholderData: (before) => before,
  });
  if (!query.data) return <p className="px-6 pt-3 text-soft">{query.error?.message ?? say("Weighing every way…")}</p>;
  const { advice, asked, looks, ways } = query.data;
  const now = jobLine.document("method").method;
  const choose = (method: string) => {
    const way = ways[method];
    if (!way) return;
    jobLine.done("method", { ...way, settled: false });
    onChosen();
  };
  const fits = advice.ranked.filter((a) => a.verdict !== "ruled-out");
  const out = advice.ranked.filter((a) => a.verdict === "ruled-out");
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and keys must reach it
    <section aria-label={say("All ways")} tabIndex={0} className="min-h-0 grow overflow-auto px-6 pt-2 pb-4">
      <p>
        <span className="font-semibold">
          {sayMany(
            asked.quantity,
            "{fits} of {all} ways fit {count} piece at {size}.",
            "{fits} of {all} ways fit {count} pieces at {size}.",
            { fits: fits.length, all: advice.ranked.length, size: units.size(asked.width_mm, asked.height_mm) },
          )}
        </span>{" "}
        {advice.would_change.join(" ")}
      </p>
      <p className="text-sm text-soft">
        {say("Weighed for {weighedFor}; what the store holds and the time left with it.", {
          weighedFor: weighedFor(asked),
        })}
      </p>
      <ul className="mt-3 grid grid-cols-3 gap-3 max-[1180px]:grid-cols-2">
        {fits.map((way) => (
          <Way
            key={way.method}
            way={way}
            cloth={asked.blank.colour}
            looks={looks[way.method]}
            isHard={asked.blank.kind === "hard"}
            isNow={way.method === now}
            onChoose={ways[way.method] ? () => choose(way.method) : undefined}
            place={way.method === advice.recommended ? "first" : way.method === advice.runner_up ? "second" : ""}
          />
        ))}
      </ul>
      {out.length > 0 && (
        <>
          <h2 className="mt-4 font-semibold">{say("Ruled out")}</h2>
          <ul className="mt-1 grid grid-cols-2 gap-x-6 max-[1180px]:grid-cols-1">
            {out.map((way) => (
              <li key={way.method} className="border-b border-hair py-1">
                <span className="font-semibold">{way.name}.</span>{" "}
                <span className="text-soft">
                  {way.reasons
                    .filter((r) => r.verdict === "ruled-out")
                    .map((r) => r.said)
                    .join(". ")}
                  .
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="mt-3 text-sm text-soft">
        {say(
          "A piece at this quantity, by the same sum as the readings below; ranked without the blank. What is marked ~ is a way that is not done here, by prices from memory and without its blank. Wash and feel are claims until this shop has logged its own.",
        )}
      </p>
    </section>
  );
}

/** What the answer depends on, in words. */
function weighedFor(asked: Advice["asked"]): string {
  const { blank, artwork } = asked;
  const fibres = Object.entries(blank.fibres ?? {}).map(([f, share]) => `${Math.round(share * 100)} % ${f}`);
  const stands = (blank.obstacles ?? []).length
    ? say("a {obstacles} under the print", { obstacles: (blank.obstacles ?? []).join(" and a ") })
    : "";
  const picture = { photo: say("a photograph"), graphic: say("a graphic"), lettering: say("lettering") }[artwork.kind];
  return [
    fibres.join(", ") || (blank.coated ? say("a coated hard blank") : say("a hard blank")),
    say("its colour {colour}", { colour: blank.colour }),
    sayMany(artwork.colours, "{picture} of {count} colour", "{picture} of {count} colours", { picture }),
    stands,
    artwork.full_bleed ? say("print over the edge") : "",
  ]
    .filter(Boolean)
    .join(", ");
}

type WayProps = {
  way: Advised;
  cloth: string;
  looks: Looks | undefined;
  place: string;
  isHard: boolean;
  isNow: boolean;
  onChoose: (() => void) | undefined;
};

function Way({ way, cloth, looks, place, isHard, isNow, onChoose }: WayProps) {
  const { money } = useMoney();
  const cares = way.reasons.filter((r) => r.verdict === "caution");
  return (
    <li
      aria-current={isNow ? "true" : undefined}
      className={`flex flex-col rounded-lg border p-3 ${isNow ? "border-2 border-act bg-raise" : "border-hair2 bg-panel"}`}
    >
      <WaySection cloth={cloth} lies={looks?.lies ?? "film"} white={looks?.white ?? "none"} isHard={isHard} />
      <p className="mt-2 flex items-baseline justify-between gap-2">
        <span className="font-bold">{way.name}</span>
        <span className="shrink-0 text-sm font-semibold whitespace-nowrap text-act">
          {place && (place === "first" ? say("fits best") : say("runner-up"))}
        </span>
      </p>
      <p>
        {way.cost_per_piece == null ? (
          <span className="text-need">{say("a value is missing")}</span>
        ) : (
          <>
            <span className="num font-semibold">
              {way.is_ours ? "" : "~"}
              {money(way.cost_with_blank ?? way.cost_per_piece)}
            </span>
            <span className="text-soft">
              {way.cost_with_blank != null && (
                <>
                  , <span className="num">{Number(way.cost_per_piece).toFixed(2)}</span> {say("without the blank")}
                </>
              )}
              <br />
              <span className="num">{way.minutes_per_piece?.toFixed(1)}</span> {say("min of hands")}
              {way.machines_per_piece != null && (
                <>
                  , <span className="num">{way.machines_per_piece.toFixed(1)}</span> {say("of machines")}
                </>
              )}
            </span>
          </>
        )}
        {!looks?.is_here && <span className="text-soft"> {say("· no printer here does it")}</span>}
      </p>
      {cares.map((r) => (
        <p key={r.said} className="flex gap-1.5 text-sm">
          <svg width="12" height="12" viewBox="0 0 16 16" className="mt-1 shrink-0 text-need" aria-hidden="true">
            <path d="M8 1L15 8L8 15L1 8Z" fill="currentColor" />
          </svg>
          <span>{r.said}.</span>
        </p>
      ))}
      <p className="mt-auto pt-1 text-sm text-soft">
        {say("Feel: {hand_feel}. Washes: {wash_life}.", { hand_feel: way.hand_feel, wash_life: way.wash_life })}
      </p>
      {isNow ? (
        <p className="mt-2 rounded-md bg-act px-2 py-1 font-semibold text-on-act">{say("This job goes this way")}</p>
      ) : (
        onChoose && (
          <div className="mt-2">
            <Button onClick={onChoose} label={say("Go this way: {name}", { name: way.name })}>
              {say("Go this way")}
            </Button>
          </div>
        )
      )}
    </li>
  );
}
