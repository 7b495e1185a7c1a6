import { useCallback, useEffect, useState } from "react";
import { Link } from "react-router";
import { api, told } from "../../api/client";
import type { Entry, LogbookPage as Page } from "../../api/types";
import { say, sayMany } from "../../texts/say";
import { useMoney } from "../../ui/money";
import { Button } from "../../ui/parts";
import { several } from "../../ui/several";
import { Tables } from "../../ui/Tables";
import { when } from "../../ui/when";
import { Find } from "../Find";
import { usePages } from "../usePages";

/** What closed jobs took: planned against actual, and what spoiled; the newest first, found by typing. */
export default function LogbookPage() {
  const [words, setWords] = useState("");
  const { pages, error, isLoading, hasNextPage, fetchNextPage, isFetchingNextPage } = usePages(
    ["logbook", words.trim()],
    useCallback(
      (after: string) => told<Page>(api.GET("/api/logbook", { params: { query: { words: words.trim(), after } } })),
      [words],
    ),
  );
  useEffect(() => {
    document.title = say("Logbook · Offsetter");
  }, []);
  const entries = pages.flatMap((p) => p.entries);
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <h1 className="text-2xl font-bold">{heading(entries, isLoading, words, hasNextPage)}</h1>
      <p className="text-soft">
        {say(
          "Planned is what the line worked out; actual comes from what was recorded as done. Prices are those of the day it was closed.",
        )}
      </p>
      <div className="mt-3 flex max-w-3xl flex-wrap items-center gap-4">
        <Find label={say("Find by title, customer or code")} value={words} onFind={setWords} />
        <Tables list="logbook" />
      </div>
      {error && <p className="mt-4 text-stop">{error.message}</p>}
      <div className="mt-4 flex flex-col gap-5">
        {entries.map((e) => (
          <EntryView key={e.job} entry={e} />
        ))}
      </div>
      {hasNextPage && (
        <div className="mt-3">
          <Button onClick={() => void fetchNextPage()} disabled={isFetchingNextPage}>
            {say("Show more")}
          </Button>
        </div>
      )}
    </main>
  );
}

function heading(entries: Entry[], isLoading: boolean, words: string, hasMore: boolean): string {
  if (isLoading) return say("Logbook");
  if (!entries.length && words.trim())
    return say("No closed job's title, customer or code begins with “{words}”", { words: words.trim() });
  if (!entries.length) return say("Nothing is closed yet: close a job at Inspect and its entry appears here.");
  const spoiled = entries.flatMap((e) => e.spoiled).reduce((n, s) => n + s.count, 0);
  const good = sayMany(
    entries.reduce((n, e) => n + e.good, 0),
    "{count} good piece",
    "{count} good pieces",
  );
  const jobs = several(entries.length, "job");
  return hasMore
    ? say("{good} from the latest {jobs}, {spoiled} spoiled", {
        good,
        jobs,
        spoiled,
      })
    : say("{good} from {jobs}, {spoiled} spoiled", { good, jobs, spoiled });
}

function EntryView({ entry: e }: { entry: Entry }) {
  const { money, unit } = useMoney();
  const margin = e.quoted ? Number(e.quoted) - Number(e.cost_a_piece) : null;
  return (
    <article className="grid grid-cols-[150px_minmax(0,1fr)_300px] gap-6 rounded-xl border border-hair bg-panel p-5 max-[980px]:grid-cols-1">
      <div>
        {e.picture_key && (
          <img
            src={`/api/pictures/${e.picture_key}/cloth.png`}
            alt={say("Print of {title}", { title: e.title })}
            className="max-h-[170px] w-full rounded object-contain"
            style={{ background: "#17181b" }}
          />
        )}
      </div>
      <div className="min-w-0">
        <h2 className="text-lg font-bold">
          <Link to={`/jobs/${e.job}/inspect`} className="hover:underline">
            {e.title}
          </Link>
        </h2>
        <p className="text-soft">
          {[
            e.customer,
            e.blank,
            e.method,
            new Date(e.closed_at) > new Date(e.due)
              ? say("closed {at}, late", { at: when(e.closed_at) })
              : say("closed {at}, in time", { at: when(e.closed_at) }),
            e.people.join(", "),
          ].join(" · ")}
        </p>
        <table className="mt-3 w-full">
          <thead>
            <tr className="border-b border-hair text-sm text-soft">
              <th className="w-44 py-1 text-left font-normal">{say("What it took")}</th>
              <th className="py-1 text-right font-normal">{say("planned")}</th>
              <th className="py-1 text-right font-normal">{say("actual")}</th>
              <th className="py-1 pl-5 text-left font-normal">{say("actual against planned")}</th>
            </tr>
          </thead>
          <tbody>
            {[...e.figures, ...e.money].map((f, i) => (
              <tr
                key={i}
                className={`border-b ${i === e.figures.length - 1 ? "border-hair2" : "border-hair"} ${i === e.figures.length + e.money.length - 1 ? "font-semibold" : ""}`}
              >
                <th
                  scope="row"
                  className={`py-0.5 text-left ${i === e.figures.length + e.money.length - 1 ? "" : "font-normal"}`}
                  title={f.why}
                >
                  {f.label}
                </th>
                <td className="num py-0.5 text-right">{f.planned.toFixed(f.decimals)}</td>
                <td className="num py-0.5 text-right font-semibold">
                  {f.actual.toFixed(f.decimals)} {unit(f.unit)}
                </td>
                <td className="py-0.5 pl-5">
                  <Against planned={f.planned} actual={f.actual} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-1.5 text-sm text-soft">
          {say("Hands are not clocked: they are counted as planned for each piece pressed.")}
        </p>
      </div>
      <div>
        <p className="num text-2xl font-bold">
          {say("{good} of {ordered} good", { good: e.good, ordered: e.ordered })}
        </p>
        <p>
          <span className="num font-semibold">{money(e.cost_a_piece)}</span> {say("a good piece,")}{" "}
          <span className="num">{money(e.without_blank)}</span> {say("without its blank")}
          {margin !== null && (
            <>
              {say(", quoted")} <span className="num">{money(e.quoted ?? 0)}</span>:{" "}
              <span className={`num font-semibold ${margin < 0 ? "text-stop" : "text-done"}`}>
                {margin < 0 ? say("short by") : say("leaves")} {money(Math.abs(margin))}
              </span>
            </>
          )}
        </p>
        <h3 className="mt-3 font-semibold">{e.spoiled.length ? say("Spoiled") : say("Nothing spoiled")}</h3>
        <ul className="flex flex-col gap-2">
          {e.spoiled.map((s, i) => (
            <li key={i} className="border-l-4 border-stop pl-3">
              {say("{count} {what} at {stage}: {cause}", {
                count: s.count,
                what: s.what,
                stage: s.stage,
                cause: s.cause,
              })}
              <span className="num block text-sm text-soft">{say("cost {cost}", { cost: money(s.cost) })}</span>
            </li>
          ))}
        </ul>
      </div>
    </article>
  );
}

const WIDE = 160;

/** A bar whose middle tick is the plan. */
function Against({ planned, actual }: { planned: number; actual: number }) {
  if (!planned) return null;
  const share = Math.min(2, actual / planned);
  return (
    <svg
      width={WIDE + 60}
      height={16}
      role="img"
      aria-label={say("{share} % of plan", { share: Math.round(share * 100) })}
    >
      <rect
        x={0}
        y={5}
        width={(WIDE / 2) * share}
        height={7}
        rx={2}
        fill={share > 1.1 ? "var(--need)" : "var(--act)"}
      />
      <path d={`M${WIDE / 2} 0V16`} stroke="var(--ink)" />
      <text x={WIDE + 6} y={13} fontSize={14} fill="var(--soft)" className="num">
        {Math.round((actual / planned) * 100)} %
      </text>
    </svg>
  );
}
