import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, told } from "../../api/client";
import type { Beds, LotView, SharedRun, SheetView } from "../../api/types";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say, sayMany } from "../../texts/say";
import { useHotkeys } from "../../ui/keys";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";
import { when } from "../../ui/when";
import { OneSheet } from "./OneSheet";
import { isGoing, SharedRuns, useSharedRuns } from "./SharedRuns";

type Bed = Beds["ready"][number];

/** Runs that carry prints of several jobs: what could share a roll or a sheet, the sheets that are open, the runs released of them. */
export default function SheetsPage() {
  const { sheet } = useParams();
  useEffect(() => {
    document.title = say("Sheets · Offsetter");
  }, []);
  return sheet ? <OneSheet id={sheet} /> : <AllSheets />;
}

const idOf = (lot: LotView) => `${lot.job}/${lot.print}/${lot.slot}`;

function AllSheets() {
  const units = useUnits();
  const { data, error } = useQuery({
    queryKey: ["sheets"],
    queryFn: () => told<Beds>(api.GET("/api/sheets")),
    staleTime: 0,
  });
  const runs = useSharedRuns();
  const going = runs.filter(isGoing);
  if (error) return <main className="grow p-6 text-stop">{error.message}</main>;
  if (!data) return <main className="grow p-6 text-soft">{say("Looking through the open jobs…")}</main>;
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <h1 className="text-2xl font-bold">{verdict(data, going)}</h1>
      <p className="max-w-3xl text-soft">
        {say(
          "What the same printer prints in the same mode on the same medium, and what is cured alike, can lie on one run.",
        )}
      </p>
      <SharedRuns runs={going} name={say("Released, to print and to cure")} />
      {data.open.length > 0 && (
        <section aria-label={say("Open sheets")} className="mt-4 flex flex-wrap gap-4">
          {data.open.map((s) => (
            <Link
              key={s.id}
              to={`/sheets/${s.id}`}
              className="block w-80 rounded-xl border border-act bg-panel px-4 py-3 hover:bg-act-soft"
            >
              <p className="font-semibold">
                {say("{prints} on {amount}", {
                  prints: several(s.prints, "print"),
                  amount: s.sheet_um
                    ? several(Math.round(s.length_um / s.sheet_um), "sheet")
                    : units.metres(s.length_um / 1e6),
                })}
              </p>
              <p className="text-sm">{s.titles.join(", ")}</p>
              <p className="text-sm text-soft">
                {say("{method} on {printer} · being laid", { method: s.method, printer: s.printer })}
              </p>
            </Link>
          ))}
        </section>
      )}
      {shareable(data).map((bed, i) => (
        <OneBed key={bed.id} bed={bed} isFirst={i === 0} />
      ))}
      <SharedRuns runs={runs.filter((r) => !isGoing(r))} name={say("Printed")} />
    </main>
  );
}

/** Beds that more than one job could lie on. */
const shareable = (beds: Beds) => beds.ready.filter((b) => new Set(b.lots.map((l) => l.job)).size > 1);

function verdict(beds: Beds, going: SharedRun[]): string {
  const next = going.at(-1);
  if (next)
    return next.printed < next.copies
      ? say("Run {number} carries {parts}: load {printer} and print it", {
          number: next.number,
          parts: several(next.parts.length, "job"),
          printer: next.printer,
        })
      : say("Run {number} is printed: take it through {name}", {
          number: next.number,
          name:
            next.stages.find((s) => next.parts.some((p) => (p.prepared[s.id] ?? 0) < p.printed))?.name.toLowerCase() ??
            say("what follows"),
        });
  const best = shareable(beds)[0];
  const jobs = new Set((best?.lots ?? []).filter((l) => !l.waits).map((l) => l.job));
  if (best && jobs.size > 1)
    return say("{size} for {method} can share a run on {printer}", {
      size: several(jobs.size, "job"),
      method: best.method.toLowerCase(),
      printer: best.printer,
    });
  if (beds.open.length)
    return sayMany(beds.open.length, "{count} sheet is being laid", "{count} sheets are being laid");
  return say("No two jobs can share a run now");
}

/** What one printer could carry in one go: chosen by a touch, laid by one key. */
function OneBed({ bed, isFirst }: { bed: Bed; isFirst: boolean }) {
  const units = useUnits();
  const me = useMe();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const [said, setSaid] = useState<Record<string, boolean>>({});
  const ready = bed.lots.filter((l) => !l.waits);
  // What nobody has looked through is left out until somebody says so.
  const isTaken = (lot: LotView) => !lot.waits && (said[idOf(lot)] ?? !lot.unseen);
  const taken = ready.filter(isTaken);
  const canLay = me.role !== "viewer" && taken.length > 0;
  const lay = () =>
    tell(
      told<SheetView>(
        api.POST("/api/sheets", {
          body: {
            base: 0,
            lots: taken.map(({ job, print, slot, copies }) => ({ job, print, slot, copies, turns: "90" as const })),
          },
        }),
      ).then((made) => {
        queries.setQueryData(["sheet", made.id], made);
        navigate(`/sheets/${made.id}`);
      }),
    );
  useHotkeys({ enter: () => void (canLay && lay()) }, isFirst);
  return (
    <section
      aria-label={say("{method} on {printer}", { method: bed.method, printer: bed.printer })}
      className="mt-6 max-w-5xl"
    >
      <div className="flex items-end justify-between gap-4 border-b border-hair2 pb-2">
        <h2 className="text-lg font-bold">
          {say("{method} on {printer}", { method: bed.method, printer: bed.printer })}{" "}
          <span className="font-normal text-soft">
            · {bed.mode} · {bed.medium}
          </span>
        </h2>
        {me.role !== "viewer" && ready.length > 0 && (
          <Button
            kind={isFirst ? "go" : "plain"}
            hotkey={isFirst ? "⏎" : ""}
            disabled={!canLay}
            onClick={() => void lay()}
          >
            {say("Lay {prints} together", {
              prints: several(
                taken.reduce((n, l) => n + l.copies, 0),
                "print",
              ),
            })}
          </Button>
        )}
      </div>
      <Refused said={wrong} />
      <ul>
        {bed.lots.map((lot) => (
          <li key={idOf(lot)}>
            <label
              className={`grid min-h-11 grid-cols-[28px_minmax(0,1.3fr)_minmax(0,1fr)_150px_150px] items-center gap-3 border-b border-hair py-1.5 max-[900px]:grid-cols-[28px_minmax(0,1fr)_110px] ${lot.waits ? "text-soft" : ""}`}
            >
              <input
                type="checkbox"
                className="size-5 accent-(--act)"
                checked={isTaken(lot)}
                disabled={Boolean(lot.waits) || me.role === "viewer"}
                onChange={(e) => setSaid({ ...said, [idOf(lot)]: e.target.checked })}
              />
              <span className="min-w-0">
                <span className="block truncate font-semibold">{lot.title}</span>
                <span className="block truncate text-sm text-soft">{lot.name}</span>
              </span>
              <span className="min-w-0 text-sm max-[900px]:hidden">
                {lot.waits
                  ? say("waits for {waits}", { waits: lot.waits })
                  : lot.unseen
                    ? say("nobody has looked at its {unseen} yet", { unseen: lot.unseen })
                    : lot.customer}
              </span>
              <span className="whitespace-nowrap text-sm max-[900px]:hidden">
                {several(lot.copies, "print")}
                <span className="num block text-soft">{units.size(lot.width_um / 1000, lot.height_um / 1000)}</span>
              </span>
              <span className="text-sm">{say("due {due}", { due: when(lot.due) })}</span>
            </label>
          </li>
        ))}
      </ul>
    </section>
  );
}
