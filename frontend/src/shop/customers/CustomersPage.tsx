import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, told } from "../../api/client";
import type { Customer, CustomersPage as Page } from "../../api/types";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { useMoney } from "../../ui/money";
import { Overlay } from "../../ui/Overlay";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";
import { Tables } from "../../ui/Tables";
import { Find } from "../Find";
import { JobRow } from "../jobs/JobRow";
import { Words } from "../machines/Value";
import { usePages } from "../usePages";

/** Whom the shop works for, found by their name; one of them with their orders. */
export default function CustomersPage() {
  const { customer = "" } = useParams();
  const navigate = useNavigate();
  const [words, setWords] = useState("");
  useEffect(() => {
    document.title = say("Customers · Offsetter");
  }, []);
  const { pages, isLoading, hasNextPage, fetchNextPage } = usePages(
    ["customers", words.trim()],
    useCallback(
      (after: string) => told<Page>(api.GET("/api/customers", { params: { query: { words: words.trim(), after } } })),
      [words],
    ),
  );
  const me = useMe();
  const rows = pages.flatMap((p) => p.customers);
  const open = customer || rows[0]?.id || "";
  return (
    <div className="grid min-h-0 grow grid-cols-[300px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside
        aria-label={say("Customers")}
        className="flex min-h-0 flex-col border-r border-hair bg-panel max-[900px]:max-h-60"
      >
        <div className="px-3 pt-3">
          <Find label={say("Find by the beginning of a name")} value={words} onFind={setWords} />
          <Tables
            list="customers"
            hint={say("The columns name, contact and notes; somebody who is there already gets what is new.")}
            {...(me.role === "viewer" ? {} : { brings: "customers" as const })}
          />
        </div>
        <ul className="mt-2 min-h-0 grow overflow-auto">
          {rows.map((c) => (
            <li key={c.id}>
              <button
                type="button"
                aria-current={c.id === open ? "true" : undefined}
                onClick={() => navigate(`/customers/${c.id}`)}
                className={`w-full border-l-4 px-3 py-1.5 text-left ${c.id === open ? "border-act bg-act-soft" : "border-transparent"}`}
              >
                <span className="block font-semibold">{c.name}</span>
                <span className="block text-sm text-soft">
                  {[
                    ...(c.open ? [say("{open} open", { open: c.open })] : []),
                    c.more
                      ? say("{orders} and more done", { orders: several(c.ended, "order") })
                      : say("{orders} done", { orders: several(c.ended, "order") }),
                  ].join(", ")}
                </span>
              </button>
            </li>
          ))}
          {!isLoading && !rows.length && (
            <li className="px-4 text-soft">
              {words
                ? say("Nobody's name begins with “{words}”.", { words: words.trim() })
                : say("Whoever orders stands here.")}
            </li>
          )}
          {hasNextPage && (
            <li className="px-3 py-2">
              <Button onClick={() => void fetchNextPage()}>{say("Show more")}</Button>
            </li>
          )}
        </ul>
      </aside>
      {open ? <One key={open} id={open} /> : <main className="p-6 text-soft" />}
    </div>
  );
}

function One({ id }: { id: string }) {
  const me = useMe();
  const { money } = useMoney();
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const [isForgetting, setForgetting] = useState(false);
  const query = useQuery({
    queryKey: ["customer", id],
    queryFn: () => told<Customer>(api.GET("/api/customers/{customer}", { params: { path: { customer: id } } })),
    staleTime: 0,
  });
  const seen = query.data;
  if (!seen) return <main className="p-6 text-soft">{query.error?.message ?? say("Opening the customer…")}</main>;
  const put = (part: { contact?: string; notes?: string }) =>
    void tell(
      told(
        api.PUT("/api/customers/{customer}", {
          params: { path: { customer: id } },
          body: { contact: seen.contact, notes: seen.notes, ...part },
        }),
      ).then(() => queries.invalidateQueries({ queryKey: ["customer", id] })),
    );
  return (
    <main className="min-h-0 overflow-auto px-6 py-4">
      <h1 className="text-2xl font-bold">{seen.name}</h1>
      <p className="text-soft">
        {[
          seen.open ? say("{orders} open", { orders: several(seen.open, "order") }) : say("No order is open"),
          seen.more
            ? say("{ended} and more done.", { ended: seen.ended })
            : say("{ended} done.", { ended: seen.ended }),
        ].join(", ") +
          (seen.closed_seen > 0
            ? ` ${say("Of the newest {closed}: {good} good pieces, {spoiled} spoiled; paid {paid}, cost {cost}.", { closed: seen.closed_seen, good: seen.good, spoiled: seen.spoiled, paid: money(seen.paid), cost: money(seen.cost) })}`
            : "")}
      </p>
      <fieldset
        disabled={me.role === "viewer"}
        className="mt-3 grid max-w-4xl grid-cols-2 gap-4 max-[700px]:grid-cols-1"
      >
        <Words label={say("How to reach them")} lines={3} value={seen.contact} onDone={(contact) => put({ contact })} />
        <Words label={say("What to know of them")} lines={3} value={seen.notes} onDone={(notes) => put({ notes })} />
      </fieldset>
      <Refused said={wrong} />
      {seen.brands.length > 0 && (
        <p className="mt-3 flex flex-wrap items-center gap-3">
          <span className="font-semibold">{say("Their colours")}</span>
          {seen.brands.map((b) => (
            <span key={b.id}>
              {b.name}{" "}
              <span className="num text-soft">
                L* {b.lab[0]} a* {b.lab[1]} b* {b.lab[2]}
              </span>
            </span>
          ))}
        </p>
      )}
      <h2 className="mt-4 font-semibold">{say("Their newest orders")}</h2>
      <ul className="mt-1 flex flex-col gap-1.5">
        {seen.orders.map((job) => (
          <JobRow key={job.id} job={job} />
        ))}
      </ul>
      {me.role === "owner" && (
        <div className="mt-5 border-t border-hair pt-3">
          <Button kind="stop" onClick={() => setForgetting(true)}>
            {say("Forget them")}
          </Button>
        </div>
      )}
      {isForgetting && <Forget customer={seen} onClose={() => setForgetting(false)} />}
    </main>
  );
}

/** On a person's request: what goes for certain, and what the shop decides. */
function Forget({ customer, onClose }: { customer: Customer; onClose: () => void }) {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const forget = async (from_books: boolean) => {
    const asked = told(
      api.POST("/api/customers/{customer}/forget", {
        params: { path: { customer: customer.id } },
        body: { from_books },
      }),
    );
    if (!(await tell(asked))) return;
    await queries.invalidateQueries();
    onClose();
  };
  return (
    <Overlay open onClose={onClose} title={say("Forget {name}?", { name: customer.name })}>
      <p>
        {say(
          "How to reach them, the notes and their colours go. Their name in orders and in the logbook can stay: a shop's books may have to be kept for years by law, and what of them is kept is the shop's own decision.",
        )}
      </p>
      <p className="mt-2">{say("Pictures that they brought stay with the orders that were made of them.")}</p>
      <Refused said={wrong} />
      <div className="mt-4 flex flex-wrap gap-2">
        <Button kind="stop" onClick={() => void forget(false)}>
          {say("Keep the name in the books")}
        </Button>
        <Button kind="stop" onClick={() => void forget(true)}>
          {say("Take the name out too")}
        </Button>
        <Button onClick={onClose}>{say("Leave it")}</Button>
      </div>
    </Overlay>
  );
}
