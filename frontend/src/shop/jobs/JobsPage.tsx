import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, ProblemError, problemOf, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import type { Jobs, WhichJobs } from "../../api/types";
import { useShop } from "../../api/useShop";
import { Mend } from "../../line/Mend";
import { OrderForm } from "../../line/OrderForm";
import { useMe } from "../../settings/me";
import { say, sayMany } from "../../texts/say";
import { useHotkeys } from "../../ui/keys";
import { Button, Choice } from "../../ui/parts";
import { Tables } from "../../ui/Tables";
import { when } from "../../ui/when";
import { Find } from "../Find";
import { usePages } from "../usePages";
import { BringJob } from "./BringJob";
import { JobRow } from "./JobRow";

const FILLING_MS = 3000;

/** The shop's jobs, the next due first; found by typing. */
export default function JobsPage() {
  const navigate = useNavigate();
  const outbox = useOutbox();
  const queries = useQueryClient();
  const [params, setParams] = useSearchParams();
  const isNew = params.has("new");
  const setIsNew = useCallback((is: boolean) => setParams(is ? { new: "" } : {}, { replace: true }), [setParams]);
  const filled = useShop().shop;
  const isEmpty = filled && !(filled.printers.length && filled.presses.length && filled.blanks.length);
  const [which, setWhich] = useState<WhichJobs>("open");
  const [words, setWords] = useState("");
  // Who types looks for a job, whatever became of it.
  const asked = words.trim() && which === "open" ? "all" : which;
  const { pages, error, isLoading, hasNextPage, fetchNextPage, isFetchingNextPage } = usePages(
    ["jobs", asked, words.trim()],
    useCallback(
      (after: string) =>
        told<Jobs>(api.GET("/api/jobs", { params: { query: { which: asked, words: words.trim(), after } } })),
      [asked, words],
    ),
  );
  const shop = pages[0];
  const isFilling = Boolean(shop?.filling);
  useEffect(() => {
    if (!isFilling) return;
    const look = setInterval(() => void queries.invalidateQueries(), FILLING_MS);
    return () => clearInterval(look);
  }, [isFilling, queries]);
  const cards = pages.flatMap((p) => p.cards);
  const first = which === "open" && !words ? cards[0] : undefined;
  const me = useMe();
  const [isBringing, setBringing] = useState(false);
  const keys = useMemo(() => ({ n: () => setIsNew(true) }), [setIsNew]);
  useHotkeys(keys);
  useEffect(() => {
    document.title = say("Jobs · Offsetter");
  }, []);

  return (
    <main className="min-h-0 grow overflow-auto px-6 py-4">
      <div className="flex items-start justify-between gap-4">
        <div>
          <h1 className="text-2xl font-bold">{heading(shop, isLoading)}</h1>
          {first && (
            <p className="text-soft">
              {say("Next:")}{" "}
              <Link
                to={`/jobs/${first.id}/${first.next_station}`}
                className="font-semibold text-act underline underline-offset-2"
              >
                {first.title}
              </Link>
              {say(", due {due}.", { due: when(first.due) })}
            </p>
          )}
        </div>
        <Button kind="go" hotkey="N" onClick={() => setIsNew(true)}>
          {say("New order")}
        </Button>
      </div>
      {isEmpty && (
        <p className="mt-3 border-l-4 border-need pl-3">
          {say("The shop is not filled yet: a printer, a press and a blank are enough for the first order.")}{" "}
          <Link to="/first-day" className="font-semibold text-act underline underline-offset-2">
            {say("Fill it")}
          </Link>
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Find label={say("Find by title, customer or code")} value={words} onFind={setWords} />
        <Choice hideLabel label={say("Which jobs")} value={which} options={choices(shop)} onChange={setWhich} />
        <Tables
          list="jobs"
          hint={say(
            "The columns reference, title, customer, due, blank and count; colour and size where a blank has several, a row for each. Every order is held until somebody has looked at it.",
          )}
          {...(me.role === "viewer" ? {} : { brings: "orders" as const })}
        />
        {me.role === "owner" && (
          <button
            type="button"
            onClick={() => setBringing(true)}
            className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
          >
            {say("Bring a job in")}
          </button>
        )}
      </div>
      {error && <p className="mt-4 text-stop">{error.message}</p>}
      {shop?.filling && (
        <p role="status" className="mt-3 border-l-4 border-act pl-3">
          {say("The demo is still being filled, with {filling}. What is there works already.", {
            filling: shop.filling,
          })}
        </p>
      )}
      {shop?.backup && (
        <p role="status" className="mt-3 border-l-4 border-need pl-3">
          <span className="font-semibold text-need">{shop.backup}</span> {say("On the shop's computer:")}{" "}
          <code className="num">{"./offsetter backup FILE"}</code>
          {say(", onto another disk than this shop's.")}
        </p>
      )}
      {shop?.disk_left_mb != null && (
        <p role="alert" className="mt-3 border-l-4 border-need pl-3">
          <span className="font-semibold text-need">{say("The disk is nearly full:")}</span>{" "}
          <span className="num">{say("{disk_left_mb} MB", { disk_left_mb: shop.disk_left_mb })}</span>{" "}
          {say("are left. Make room before the next large picture: derived files may be deleted at any time.")}
        </p>
      )}
      {shop?.broken.map((job) => (
        <Mend
          key={job.id}
          what={say("Job {id} cannot be read", { id: job.id })}
          why={job.why}
          onMend={() => told(api.POST("/api/jobs/{job_id}/mend", { params: { path: { job_id: job.id } } }))}
        />
      ))}
      {shop?.broken_facts.map((fact) => (
        <Mend
          key={`${fact.kind} ${fact.id}`}
          what={say("Version {version} of “{id}” ({kind}) cannot be read", {
            version: fact.version,
            id: fact.id,
            kind: fact.kind.replace("_", " "),
          })}
          why={`${fact.why}. ${fact.used ? say("Version {version} stands in for it.", { version: fact.used }) : say("It is left out.")}`}
          onMend={async () => {
            const answer = await api.POST("/api/shop/mend", { body: { kind: fact.kind, id: fact.id } });
            if (!answer.response.ok) throw problemOf(answer.error);
          }}
        />
      ))}
      <ul className="mt-3 flex flex-col gap-1.5">
        {cards.map((job) => (
          <JobRow key={job.id} job={job} />
        ))}
      </ul>
      {shop && !cards.length && <p className="mt-4">{nothing(which, words)}</p>}
      {hasNextPage && (
        <div className="mt-3">
          <Button onClick={() => void fetchNextPage()} disabled={isFetchingNextPage}>
            {say("Show more")}
          </Button>
        </div>
      )}
      {isBringing && <BringJob onClose={() => setBringing(false)} />}
      <OrderForm
        open={isNew}
        onClose={() => setIsNew(false)}
        onSave={async (order) => {
          try {
            const made = await told<{ id: string }>(
              api.POST("/api/jobs", {
                body: { order: { ...order, prints: ["front"], names: [], settled: false, agreed: "", pins: {} } },
              }),
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

function choices(shop: Jobs | undefined): { id: WhichJobs; name: string }[] {
  const counted = (id: WhichJobs, word: string, n?: number) => ({ id, name: n ? `${word} ${n}` : word });
  return [
    counted("open", say("Open"), shop?.open),
    counted("needs me", say("Needs me"), shop?.needs_person),
    counted("late", say("Late"), shop?.late),
    counted("held", say("Held"), shop?.held),
    counted("closed", say("Closed")),
  ];
}

function heading(shop: Jobs | undefined, isLoading: boolean): string {
  if (isLoading || !shop) return say("Jobs");
  if (!shop.open) return say("No job is open. Take the first order with N.");
  if (shop.late)
    return sayMany(shop.late, "{count} of {open} jobs is late", "{count} of {open} jobs are late", { open: shop.open });
  return sayMany(shop.open, "{count} job is open, none late", "{count} jobs are open, none late");
}

function nothing(which: WhichJobs, words: string): string {
  if (words.trim()) return say("No job's title, customer or code begins with “{words}”.", { words: words.trim() });
  return {
    open: "",
    all: "",
    "needs me": say("No job waits for a person: what is open waits for its turn."),
    late: say("Nothing is late."),
    held: say("No job is held."),
    closed: say("Nothing is closed yet."),
  }[which];
}
