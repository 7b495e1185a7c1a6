import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ProblemError, told } from "../../api/client";
import { useOutbox } from "../../api/outbox";
import { type DrawingOf, drawingOf, type Job, type Run } from "../../api/types";
import { useSize } from "../../bench/Bench";
import type { StationProps } from "../../line/station";
import type { JobLine } from "../../line/useJobLine";
import { useWork } from "../../line/useWork";
import { useUnits } from "../../settings/settings";
import { listed, say, sayMany } from "../../texts/say";
import { INKS, useInkNames } from "../../ui/inks";
import { MediumFaces } from "../../ui/MediumFaces";
import { Button, Key, NumberField } from "../../ui/parts";
import { RunFiles } from "../../ui/RunFiles";
import { Running } from "../../ui/Running";
import { isOpen, Sending } from "../../ui/Sending";
import { several } from "../../ui/several";
import { TicketLink } from "../../ui/Ticket";
import { daysAgo } from "../../ui/when";
import { Findings, Waits } from "../Waits";
import { LoadPicture } from "./LoadPicture";
import { StaleChoice } from "./StaleChoice";
import { usePrinter } from "./usePrinter";

export function PrintBench({ station, jobLine }: StationProps) {
  const { ref, width, height } = useSize();
  const drawing = drawingOf(station, "print");
  const pictures = jobLine.line.pictures;
  if (!drawing || !pictures) return <Waits station={station} />;
  return (
    <section
      aria-label={say("Loading")}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls where there is little room, and keys must reach it
      tabIndex={0}
      className="flex min-h-0 grow flex-col overflow-y-auto px-6 pt-2 pb-3"
    >
      <div ref={ref} className="min-h-[220px] grow">
        {width > 0 && (
          <LoadPicture
            width={width}
            height={height}
            carrier={pictures.carrier}
            mirrored={drawing.mirrored}
            feed={drawing.feed}
            faces={drawing.faces}
            medium={drawing.medium}
            isWet={drawing.wet}
            cloth={drawingOf(jobLine.line.stations[0] ?? station, "order")?.garment.colour ?? "#444"}
          />
        )}
      </div>
      <div className="grid grid-cols-[1fr_1fr] gap-6 max-[900px]:grid-cols-1">
        <section aria-label={say("Load card")}>
          <h2 className="font-bold">{say("Load {printer}", { printer: drawing.printer })}</h2>
          <ol className="mt-1 list-decimal pl-5">
            {drawing.steps.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ol>
        </section>
        <section aria-label={say("Reading check")}>
          <h2 className="font-bold">{say("Reading check")}</h2>
          <p className="mt-1">{drawing.mirror_sentence}</p>
          {drawing.faces.length > 0 && !drawing.card?.print_face && (
            <p className="mt-1">
              <span className="font-semibold">{say("Its faces:")}</span> {drawing.faces.join("; ")}.
            </p>
          )}
          {drawing.card && (
            <div className="mt-2">
              <MediumFaces card={drawing.card} small />
              {drawing.card.note && <p className="text-sm text-soft">{drawing.card.note}</p>}
            </div>
          )}
          {drawing.feed === "sheet" && drawing.faces.length > 0 && <TestSheet drawing={drawing} job={jobLine.job} />}
        </section>
      </div>
    </section>
  );
}

/** Which side this printer prints is settled once, by a marked sheet; its own load card says it from then on. */
function TestSheet({ drawing, job }: { drawing: DrawingOf<"print">; job: Job }) {
  const queries = useQueryClient();
  const outbox = useOutbox();
  const { seen } = usePrinter(job);
  const [isPrinted, setPrinted] = useState(false);
  const isOnNetwork = seen?.way === "network";
  const print = async () => {
    try {
      const path = { printer: drawing.printer_id };
      await told(api.POST("/api/links/{printer}/face-tests", { params: { path }, body: { tray: seen?.tray ?? "" } }));
      setPrinted(true);
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  const settle = async (prints: "up" | "down") => {
    const path = { printer: drawing.printer_id, method: drawing.method };
    try {
      await told(api.PUT("/api/printers/{printer}/feeds/{method}/face", { params: { path }, body: { prints } }));
      await queries.invalidateQueries({ queryKey: ["job"] });
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <div className="mt-2">
      {isOnNetwork && (
        <div className="mb-1">
          <Button onClick={() => void print()}>
            {isPrinted ? say("Print it once more") : say("Print a test sheet")}
          </Button>
        </div>
      )}
      <p>
        <span className="font-semibold">
          {drawing.prints ? say("Settled by a test sheet.") : say("Not sure which side it prints?")}
        </span>{" "}
        {isPrinted
          ? say("It is on its way. Look at your mark:")
          : say("Mark a sheet's upper side, print on it, and look:")}
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        <Button onClick={() => void settle("up")}>{say("It is on the marked side")}</Button>
        <Button onClick={() => void settle("down")}>{say("It is on the back")}</Button>
      </div>
    </div>
  );
}

export function PrintCard({ station, jobLine }: StationProps) {
  const { job, line } = jobLine;
  const work = useWork(job.id, job.print, "/api/jobs/{job_id}/plates");
  const outbox = useOutbox();
  const { seen, again } = usePrinter(job);
  // What a printer is at, it counts itself.
  const onItsWay = (seen?.sends ?? []).filter((s) => s.way === "network" && isOpen(s)).map((s) => s.run);
  if (!drawingOf(station, "print")) return <p className="text-soft">{station.sub}</p>;
  const released = job.runs.filter((r) => r.state === "released");
  const open = released.filter((r) => r.printed < r.copies);
  const allPrinted = job.ledger.to_print === 0 && (job.ledger.printed > 0 || job.ledger.in_hand > 0);
  const hasStale = job.ledger.stale.length > 0;
  const waitsForPrint = open.length > 0 && open.includes(released.at(-1) as Run) && !hasStale;

  const release = async () => {
    try {
      outbox.accept(
        await told<Job>(
          api.POST("/api/jobs/{job_id}/runs", { params: { path: { job_id: job.id }, query: { print: job.print } } }),
        ),
      );
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
  };
  return (
    <>
      {hasStale && <StaleChoice job={job} />}
      <Findings worst station={station} jobLine={jobLine} />
      <ProofLine job={job} />
      <Offers job={job} />
      {!hasStale && !allPrinted && !line.plates_ready && (
        <div>
          <p className="mb-2">
            <span className="font-semibold">{say("1. Print files.")}</span>{" "}
            {say("Full-size plates are made and measured; figures with ~ become exact.")}
          </p>
          {work.isRunning ? (
            <Running work={work} />
          ) : (
            <Button kind="go" onClick={() => void work.start()}>
              {say("Make the print files")}
            </Button>
          )}
        </div>
      )}
      {!hasStale && !allPrinted && line.plates_ready && !waitsForPrint && (
        <div>
          <p className="mb-2">
            <span className="font-semibold">{say("2. Release.")}</span>{" "}
            {say("The run is frozen with its files; a later change makes a new run.")}
          </p>
          <Button kind="go" onClick={() => void release()} disabled={station.state === "blocked"}>
            {say("Release the run")}
          </Button>
        </div>
      )}
      {released.length > 0 && !hasStale && <Sending seen={seen} again={again} />}
      {[...released].reverse().map((run) => (
        <RunCard
          key={run.id}
          run={run}
          jobLine={jobLine}
          isWaiting={open.includes(run) && !hasStale && !onItsWay.includes(run.id)}
        />
      ))}
      {line.plates_ready && <InkBars station={station} />}
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}

function RunCard({ run, jobLine, isWaiting }: { run: Run; jobLine: JobLine; isWaiting: boolean }) {
  const units = useUnits();
  const outbox = useOutbox();
  const left = run.copies - run.printed;
  const [count, setCount] = useState<number | null>(null);
  const [lot, setLot] = useState("");
  const printed = count ?? left;
  return (
    <section
      className="rounded-lg border border-hair2 bg-raise px-3.5 py-3"
      aria-label={say("Run {number}", { number: run.number })}
    >
      <h3 className="font-bold">
        {say("Run {number}: {printed} of {copies} printed", {
          number: run.number,
          printed: run.printed,
          copies: run.copies,
        })}
      </h3>
      <p className="text-sm text-soft">
        {say("{amount}, {prints} · released by {by} · code R{number}", {
          amount: run.sheet_um
            ? several(run.lengths, "sheet")
            : say("{length} in {lengths}", {
                length: units.metres(run.length_um / 1e6),
                lengths: several(run.lengths, "length"),
              }),
          prints:
            run.names.length > 1
              ? say("{names} kinds of print", { names: run.names.length })
              : say("print {width} wide", { width: units.length((run.widths_um[0] ?? 0) / 1000) }),
          by: run.released_by,
          number: run.number,
        })}
      </p>
      <RunFiles
        run={run.id}
        prints={[
          ["print.pdf", say("one print (PDF)")],
          ["print.tif", say("one print (TIFF)")],
        ]}
        cuts={run.is_cut ? run.copies_per_cut.length : 0}
      />
      {run.others?.length ? (
        <p className="mt-1">
          {run.sheet_um
            ? say("It lies on one sheet with {others}: it is sent, printed and cured at", {
                others: listed(run.others),
              })
            : say("It lies on one roll with {others}: it is sent, printed and cured at", {
                others: listed(run.others),
              })}{" "}
          <Link to="/sheets" className="font-semibold text-act underline underline-offset-2">
            {say("Sheets")}
          </Link>
          .
        </p>
      ) : null}
      {isWaiting && !run.others?.length && (
        <div className="mt-2 grid grid-cols-[80px_110px_1fr] items-end gap-2">
          <NumberField
            label={say("Printed")}
            value={printed}
            onDone={setCount}
            error={printed < 1 || printed > left ? say("1 to {left}", { left }) : undefined}
          />
          <label>
            <span className="font-semibold">{say("Lot")}</span>
            <input className="field num" maxLength={60} value={lot} onChange={(e) => setLot(e.target.value)} />
          </label>
          <Button
            kind="go"
            disabled={printed < 1 || printed > left}
            onClick={() => {
              const { id, print } = jobLine.job;
              outbox.act(id, { kind: "printed", run: run.id, count: Math.round(printed), lot: lot.trim() }, print);
              setCount(null);
            }}
          >
            {say("They are printed")}
          </Button>
        </div>
      )}
    </section>
  );
}

/** Whether the customer has agreed to what would be printed. */
function ProofLine({ job }: { job: Job }) {
  const { state, by } = job.proof;
  const said = {
    "not wanted": say("No proof is asked for here."),
    unsigned: say("The proof waits for the customer's word."),
    signed: say("{by} agreed to the proof.", { by }),
    changed: say("Changed after {by} agreed to the proof.", { by }),
  }[state];
  return (
    <p className="text-sm">
      {said}{" "}
      <Link to={`/jobs/${job.id}/proof`} className="font-semibold text-act underline underline-offset-2">
        {say("Open the proof")}
      </Link>{" "}
      <Key>O</Key> · <TicketLink job={job.id} />
    </p>
  );
}

/** Transfers in the store that are just what this job needs. */
function Offers({ job }: { job: Job }) {
  const outbox = useOutbox();
  return (
    <>
      {job.offers.map((offer) => {
        const row = job.ledger.books.transfers.find((t) => t.signature === offer.signature);
        const count = Math.min(offer.count, row?.to_print ?? 0);
        if (count < 1) return null;
        return (
          <div key={offer.id} className="rounded-lg border border-act p-3">
            <p>
              <span className="font-semibold">
                {sayMany(offer.count, "{count} of these lies in the store", "{count} of these lie in the store")}
              </span>
              {say(", printed {daysAgo}, recipe version {recipe_version}.", {
                daysAgo: daysAgo(offer.printed_at),
                recipe_version: offer.recipe_version,
              })}
            </p>
            <div className="mt-1.5">
              <Button
                kind="go"
                onClick={() => outbox.act(job.id, { kind: "fetched", stored: offer.id, count }, job.print)}
              >
                {say("Take {count} out of the store", { count })}
              </Button>
            </div>
          </div>
        );
      })}
    </>
  );
}

const PLAIN = "grid-cols-[66px_1fr_58px_70px]";
const WITH_LIGHT = "grid-cols-[100px_1fr_58px_70px]";

/** What each channel covers, and what that is in ink for the whole run. */
function InkBars({ station }: { station: StationProps["station"] }) {
  const drawing = drawingOf(station, "print");
  const { nameOf } = useInkNames();
  const measure = drawing?.measure;
  if (!measure) return null;
  const most = Math.max(10, ...Object.values(measure.coverage_pct));
  const columns = "LC" in measure.coverage_pct || "LM" in measure.coverage_pct ? WITH_LIGHT : PLAIN;
  return (
    <section aria-label={say("By channel")}>
      <h3 className="font-semibold">{say("Measured on the plates")}</h3>
      <svg width="0" height="0" className="absolute" aria-hidden="true">
        <defs>
          <pattern id="bar-white" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" fill="#ffffff" />
            <path d="M0 0V6" stroke="#6f7d84" strokeWidth="2" />
          </pattern>
        </defs>
      </svg>
      <ul className="mt-1">
        {Object.keys(measure.coverage_pct).map((c) => (
          <li key={c} className={`grid ${columns} items-center gap-2 text-sm`}>
            <span className="first-letter:uppercase">{nameOf(c)}</span>
            <svg height="10" width="100%" aria-hidden="true">
              <rect
                width={`${((measure.coverage_pct[c] ?? 0) / most) * 100}%`}
                height="10"
                fill={c === "W" ? "url(#bar-white)" : INKS[c]?.fill}
                stroke="var(--hair2)"
              />
            </svg>
            <span className="num text-right">{(measure.coverage_pct[c] ?? 0).toFixed(1)} %</span>
            <span className="num text-right text-soft">
              {say("{ink_ml} mL", { ink_ml: (drawing?.ink_ml[c] ?? 0).toFixed(2) })}
            </span>
          </li>
        ))}
      </ul>
      <p className="text-sm text-soft">{say("Share of the print's area, and ink for one print.")}</p>
    </section>
  );
}
