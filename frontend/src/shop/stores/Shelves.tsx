import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { Shelf, Stocked } from "../../api/types";
import { useMe } from "../../settings/me";
import { capitalised, say, sayMany } from "../../texts/say";
import { Button } from "../../ui/parts";
import { several } from "../../ui/several";
import { Tables } from "../../ui/Tables";
import { Find } from "../Find";
import { AtShelf } from "./AtShelf";
import { amount } from "./amount";
import { MediumCard } from "./MediumCard";

const SORTS: { sort: Shelf["sort"]; name: string }[] = [
  { sort: "blank", name: say("Blanks") },
  { sort: "roll", name: say("Rolls") },
  { sort: "sheet", name: say("Sheets") },
  { sort: "ink", name: say("Ink") },
  { sort: "powder", name: say("Powder") },
  { sort: "cover", name: say("Sheets that are used up by counting") },
];

/** The shelves: on hand, what jobs still want of it, how long it lasts; what has to be ordered first stands first. */
export function Shelves() {
  const me = useMe();
  const [words, setWords] = useState("");
  const [open, setOpen] = useState<Shelf | null>(null);
  const [card, setCard] = useState<Shelf | null>(null);
  const [isAll, setAll] = useState(false);
  const query = useQuery({ queryKey: ["stock"], queryFn: () => told<Stocked>(api.GET("/api/stock")), staleTime: 0 });
  const queries = useQueryClient();
  const rows = query.data?.shelves ?? [];
  const counted = rows.filter((r) => r.is_counted);
  const due = counted.filter((r) => r.outlook.order > 0);
  const short = counted.filter((r) => r.outlook.free < 0);
  const asked = words.trim().toLowerCase();
  const shown = (asked ? rows : isAll || !counted.length ? rows : counted).filter((r) =>
    r.name.toLowerCase().includes(asked),
  );
  return (
    <section aria-label={say("Shelves")}>
      <div className="flex items-start justify-between gap-4">
        <div>
          <h1 className="text-2xl font-bold">{query.isLoading ? say("Shelves") : heading(counted, due, short)}</h1>
          <p className="max-w-3xl text-soft">
            {say(
              "Jobs take from here by what is recorded of them; received, counted, spoiled and put back are said here.",
            )}
          </p>
        </div>
        {due.length > 0 && (
          <a href="/api/stock/orders.csv" className="shrink-0 font-semibold text-act underline underline-offset-4">
            {say("What to order, as a table")}
          </a>
        )}
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-4">
        <Find label={say("Find what lies here")} value={words} onFind={setWords} />
        <Tables
          list="stock"
          hint={say(
            "The columns item (as this list's own table calls it) and count: what lies there now. Lot, expires and reason besides, if you like.",
          )}
          {...(me.role === "viewer" ? {} : { brings: "stock" as const })}
        />
        {counted.length > 0 && counted.length < rows.length && (
          <Button kind="quiet" onClick={() => setAll(!isAll)}>
            {isAll
              ? say("Only what is counted")
              : say("And {rows} that nobody has counted", { rows: rows.length - counted.length })}
          </Button>
        )}
      </div>
      {SORTS.map(({ sort, name }) => {
        const of = shown.filter((r) => r.sort === sort);
        const most = Math.max(1, ...of.map((r) => Math.max(r.on_hand, r.wanted)));
        return of.length ? (
          <section key={sort} className="mt-4" aria-label={name}>
            <table className="w-full max-w-5xl">
              <caption className="text-left font-semibold">{name}</caption>
              <thead>
                <tr className="border-b border-hair2 text-left text-sm text-soft">
                  <th className="py-1 font-normal">{say("What")}</th>
                  <th className="w-64 font-normal">
                    <span className="sr-only">{say("On hand, and wanted by jobs")}</span>
                  </th>
                  <th className="pr-3 text-right font-normal">{say("on hand")}</th>
                  <th className="pr-3 text-right font-normal">{say("jobs want")}</th>
                  <th className="pr-3 text-right font-normal">{say("free")}</th>
                  <th className="font-normal">{say("lasts")}</th>
                  <th>
                    <span className="sr-only">{say("What can be done")}</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {of.map((r) => (
                  <Row
                    key={r.item}
                    shelf={r}
                    most={most}
                    onOpen={me.role === "viewer" ? null : () => setOpen(r)}
                    onCard={me.role !== "viewer" && (sort === "roll" || sort === "sheet") ? () => setCard(r) : null}
                  />
                ))}
              </tbody>
            </table>
          </section>
        ) : null;
      })}
      {query.data && !shown.length && (
        <p className="mt-4">{say("Nothing on the shelves is called “{words}”.", { words: words.trim() })}</p>
      )}
      {card && <MediumCard shelf={card} onClose={() => setCard(null)} />}
      {open && (
        <AtShelf
          shelf={open}
          onClose={() => setOpen(null)}
          onDone={() => {
            setOpen(null);
            void queries.invalidateQueries();
          }}
        />
      )}
    </section>
  );
}

function heading(counted: Shelf[], due: Shelf[], short: Shelf[]): string {
  if (!counted.length) return say("Nothing on the shelves has been counted yet");
  const first = short[0];
  if (first && first.on_hand < 0)
    return say("{name}: {amount} by the books, so something was not recorded: count it", {
      name: first.name,
      amount: amount(first, first.on_hand),
    });
  if (first)
    return say("{name}: jobs want {wanted}, {there} are there{more}", {
      name: capitalised(first.name),
      wanted: amount(first, first.wanted),
      there: amount(first, first.on_hand),
      more: short.length > 1 ? sayMany(short.length - 1, "; {count} more is short", "; {count} more are short") : "",
    });
  return due.length
    ? say("{due} to order now", { due: several(due.length, "thing") })
    : say("Nothing has to be ordered today");
}

type RowProps = { shelf: Shelf; most: number; onOpen: (() => void) | null; onCard: (() => void) | null };

function Row({ shelf, most, onOpen, onCard }: RowProps) {
  const { outlook: o, is_counted: isCounted } = shelf;
  const isShort = isCounted && o.free < 0;
  return (
    <tr className="border-b border-hair">
      <th scope="row" className="py-1.5 pr-3 text-left font-normal">
        <span className="flex items-center gap-2">
          {shelf.colour && (
            <span className="size-4 shrink-0 rounded border border-hair2" style={{ background: shelf.colour }} />
          )}
          {shelf.name}
        </span>
      </th>
      <td className="pr-4">{isCounted && <Bar shelf={shelf} most={most} />}</td>
      <td className="num pr-3 text-right font-semibold">{isCounted ? amount(shelf, shelf.on_hand) : "–"}</td>
      <td className="num pr-3 text-right">{shelf.wanted ? amount(shelf, shelf.wanted) : ""}</td>
      <td className={`num pr-3 text-right ${isShort ? "font-semibold text-stop" : ""}`}>
        {isCounted ? amount(shelf, o.free) : ""}
      </td>
      <td className={o.order ? "font-semibold text-need" : "text-soft"}>
        {!isCounted
          ? say("not counted")
          : o.order
            ? shelf.supply.supplier
              ? say("order {amount} now, {supplier}", {
                  amount: amount(shelf, o.order),
                  supplier: shelf.supply.supplier,
                })
              : say("order {amount} now", { amount: amount(shelf, o.order) })
            : o.lasts_days == null
              ? ""
              : `${several(o.lasts_days, "day")}`}
      </td>
      <td className="text-right whitespace-nowrap">
        {onCard && (
          <Button kind="quiet" label={say("Card: {name}", { name: shelf.name })} onClick={onCard}>
            {say("Card")}
          </Button>
        )}
        {onOpen && (
          <Button kind="quiet" label={`${isCounted ? say("Change") : say("Count it")}: ${shelf.name}`} onClick={onOpen}>
            {isCounted ? say("Change") : say("Count it")}
          </Button>
        )}
      </td>
    </tr>
  );
}

/** What lies there, to one scale within its kind, and the part of it that jobs want. */
function Bar({ shelf, most }: { shelf: Shelf; most: number }) {
  const share = (v: number) => `${Math.max(0, Math.min(1, v / most)) * 100}%`;
  const isShort = shelf.wanted > shelf.on_hand;
  return (
    <div className="relative h-3.5 rounded-sm bg-hair">
      <div className="absolute inset-y-0 left-0 rounded-sm bg-hair2" style={{ width: share(shelf.on_hand) }} />
      <div
        className={`absolute inset-y-[3px] left-0 rounded-sm ${isShort ? "bg-stop" : "bg-act"}`}
        style={{ width: share(shelf.wanted) }}
      />
    </div>
  );
}
