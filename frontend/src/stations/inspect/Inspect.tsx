import { useState } from "react";
import { Link } from "react-router";
import { partsOf, useOutbox } from "../../api/outbox";
import { drawingOf, type Garment, type Job, type PieceRow } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { HolesPicture, OWN_HOLES } from "../../bench/OwnHoles";
import { PhotoButton } from "../../line/PhotoButton";
import { PieceTable } from "../../line/PieceTable";
import { SmallGarment } from "../../line/StationPicture";
import type { StationProps } from "../../line/station";
import { usePressCard } from "../../line/usePressCard";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button, NumberField, Pick } from "../../ui/parts";
import { several } from "../../ui/several";
import { Findings, Waits } from "../Waits";

type Piece = "good" | "waits" | "partly" | "open" | "spoiled";

export function InspectBench({ station, jobLine }: StationProps) {
  const { ref, width, height } = useSize();
  const drawing = drawingOf(station, "inspect");
  if (!drawing) return <Waits station={station} />;
  const rows = piecesByKind(jobLine.job);
  const pictures = jobLine.line.pictures;
  const box = drawing.garment.box;
  return (
    <div ref={ref} className="min-h-0 grow overflow-auto px-6 py-3">
      {width > 0 && (
        <Rows
          rows={rows}
          garment={drawing.garment}
          href={jobLine.line.pictures?.cloth ?? null}
          width={width - 48}
          height={height - 30}
        />
      )}
      {pictures && box && station.findings.some((f) => f.code === OWN_HOLES) && (
        <HolesPicture cloth={pictures.cloth} holes={pictures.holes} wide={box.width_mm} high={box.height_mm} />
      )}
    </div>
  );
}

type RowsProps = { rows: [string, Piece[]][]; garment: Garment; href: string | null; width: number; height: number };

/** Every piece of the order on the table, by size: good, waiting for eyes, still blank, spoiled. */
function Rows({ rows, garment, href, width, height }: RowsProps) {
  const most = Math.max(1, ...rows.map(([, p]) => p.length));
  const wide = Math.min(110, (width - 50) / Math.min(most, 12));
  const high = Math.min(wide * 0.86, (height - 40) / rows.length - 22);
  return (
    <>
      {rows.map(([size, pieces]) => (
        <section
          key={size}
          aria-label={size.length > 4 ? size : say("Size {size}", { size })}
          className="mb-2 flex items-start gap-3"
        >
          <h2 className={`num shrink-0 pt-3 font-bold ${size.length > 4 ? "w-28" : "w-8 text-lg"}`}>{size}</h2>
          <ul className="flex flex-wrap">
            {pieces.map((piece, i) => (
              <li key={i} className="text-center" style={{ width: wide }}>
                <svg
                  viewBox="0 0 110 94"
                  width={wide}
                  height={Math.max(36, high)}
                  aria-hidden="true"
                  opacity={piece === "open" ? 0.45 : 1}
                >
                  <SmallGarment garment={garment} href={piece === "open" ? null : href} width={110} height={94} />
                  <PieceMark piece={piece} />
                </svg>
                <span className="sr-only">{WORD[piece]}</span>
              </li>
            ))}
          </ul>
        </section>
      ))}
      <p className="mt-2 flex flex-wrap gap-x-5 text-sm text-soft">
        {(Object.keys(WORD) as Piece[]).map((p) => (
          <span key={p} className="inline-flex items-center gap-1.5">
            <svg viewBox="78 64 30 30" width="18" height="18" aria-hidden="true">
              <PieceMark piece={p} />
            </svg>
            {WORD[p]}
          </span>
        ))}
      </p>
    </>
  );
}

const WORD: Record<Piece, string> = {
  good: say("good"),
  waits: say("waits for your eyes"),
  partly: say("some prints on it"),
  open: say("not pressed yet"),
  spoiled: say("spoiled"),
};

function PieceMark({ piece }: { piece: Piece }) {
  if (piece === "good")
    return (
      <g>
        <circle cx={93} cy={79} r={12} fill="var(--panel)" stroke="var(--done)" strokeWidth={3} />
        <path d="M87 79l5 5 8 -10" fill="none" stroke="var(--done)" strokeWidth={3.5} />
      </g>
    );
  if (piece === "waits")
    return <path d="M93 66L106 79L93 92L80 79Z" fill="var(--need)" stroke="var(--panel)" strokeWidth={2} />;
  if (piece === "partly")
    return (
      <g>
        <circle cx={93} cy={79} r={11} fill="var(--panel)" stroke="var(--act)" strokeWidth={2.5} />
        <path d="M93 68A11 11 0 0 1 93 90Z" fill="var(--act)" />
      </g>
    );
  if (piece === "spoiled")
    return (
      <g>
        <rect x={81} y={67} width={24} height={24} fill="var(--stop)" stroke="var(--panel)" strokeWidth={2} />
        <path d="M87 73l12 12m0 -12l-12 12" stroke="var(--panel)" strokeWidth={3} />
      </g>
    );
  return <circle cx={93} cy={79} r={10} fill="none" stroke="var(--soft)" strokeWidth={2} strokeDasharray="4 3" />;
}

function piecesByKind(job: Job): [string, Piece[]][] {
  const many = (piece: Piece, n: number): Piece[] => Array.from({ length: Math.max(0, n) }, () => piece);
  return job.ledger.books.pieces.map((row) => [
    row.label,
    [
      ...many("good", row.good),
      ...many("waits", row.to_inspect),
      ...many("partly", row.begun - row.complete),
      ...many("open", row.ordered - row.begun),
      ...many("spoiled", row.spoiled_pieces),
    ],
  ]);
}

/** Where something can spoil: printing, every stage of this job's own way, and handling. */
function stagesOf(job: Job): { id: string; name: string }[] {
  const own = job.line.stations.flatMap((s) => drawingOf(s, "stages")?.stages ?? []);
  const named = own.map((s) => ({ id: s.id, name: s.name.toLowerCase() }));
  return [{ id: "print", name: say("print") }, ...named, { id: "handling", name: say("handling") }];
}

export function InspectCard({ station, jobLine }: StationProps) {
  const outbox = useOutbox();
  const { job } = jobLine;
  const { data: card } = usePressCard(job.id, job.print);
  const waiting = job.ledger.books.pieces.filter((r) => r.to_inspect > 0);
  const { good, ordered, left_over } = job.ledger;
  const spare = Object.values(left_over).reduce((a, b) => a + b, 0);
  const isOver = good >= ordered || job.standing === "cancelled" || job.is_closed;
  if (!drawingOf(station, "inspect")) return <p className="text-soft">{station.sub}</p>;
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      {waiting.map((row) => (
        <GoodRow key={row.kind} row={row} job={job} />
      ))}
      <PieceTable job={job} />
      {(waiting.length > 0 || job.ledger.in_hand > 0) && !job.is_closed && <SpoiledForm job={job} />}
      {(card?.shared ?? []).map((s) => (
        <p key={s.sentence} className="border-l-4 border-need pl-3">
          <span className="font-semibold">
            {say("All {failed} that failed: {sentence}.", { failed: s.failed, sentence: s.sentence })}
          </span>{" "}
          <span className="text-soft">
            {say("Of {all} pressed, {all_with} are so.", { all: s.all, all_with: s.all_with })}
          </span>
        </p>
      ))}
      <p className="text-soft">
        {say("{in_hand} in hand, {to_print} to print.", {
          in_hand: several(job.ledger.in_hand, job.line.makes ?? "transfer"),
          to_print: job.ledger.to_print,
        })}{" "}
        <Link to={`/jobs/${job.id}/ledger`} className="font-semibold text-act underline underline-offset-2">
          {say("The whole ledger")}
        </Link>
      </p>
      {isOver && spare > 0 && <IntoStore job={job} />}
      <PhotoButton job={job} />
      {job.standing === "open" && good > 0 && waiting.length === 0 && (
        <Button
          kind={good >= ordered ? "go" : "plain"}
          onClick={() => outbox.act(job.id, { kind: "closed", short: good < ordered, note: "" }, job.print)}
        >
          {good >= ordered ? say("Close the job") : say("Close it short, {good} of {ordered}", { good, ordered })}
        </Button>
      )}
      {job.is_closed && (
        <p>
          {say("Closed.")}{" "}
          <Link to="/logbook" className="font-semibold text-act underline">
            {say("What it took is in the logbook.")}
          </Link>
        </p>
      )}
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}

function GoodRow({ row, job }: { row: PieceRow; job: Job }) {
  const outbox = useOutbox();
  const [count, setCount] = useState<number | null>(null);
  const waiting = row.to_inspect;
  const now = count ?? waiting;
  const [line = "a", size = ""] = row.kind.split("/");
  return (
    <div className="grid grid-cols-[110px_1fr] items-end gap-2">
      <NumberField
        label={job.ledger.books.pieces.length && row.label === size ? say("Size {size}", { size }) : row.label}
        value={now}
        onDone={setCount}
        error={now < 1 || now > waiting ? say("1 to {waiting}", { waiting }) : undefined}
      />
      <Button
        kind="go"
        disabled={now < 1 || now > waiting}
        onClick={() => {
          outbox.act(job.id, { kind: "good", line, size, count: Math.round(now) }, job.print);
          setCount(null);
        }}
      >
        {now === 1
          ? waiting === 1
            ? say("It is good")
            : say("1 is good")
          : now === waiting
            ? say("All {waiting} are good", { waiting })
            : say("{now} are good", { now })}
      </Button>
    </div>
  );
}

/** Transfers that no piece waits for: kept with their age, and offered to the next job they fit. */
function IntoStore({ job }: { job: Job }) {
  const units = useUnits();
  const outbox = useOutbox();
  const rows = job.ledger.books.transfers.filter((t) => t.left_over > 0);
  return (
    <section aria-label={say("Left over")} className="rounded-lg border border-hair2 p-3">
      <h3 className="font-semibold">{say("Left over")}</h3>
      {rows.map((row) => (
        <div key={row.signature} className="mt-1.5 flex items-center justify-between gap-3">
          <span>
            {row.left_over} x {row.name.toLowerCase()}, {units.length(row.width_mm)}
          </span>
          <Button
            onClick={() =>
              outbox.act(
                job.id,
                { kind: "stored", of: row.signature, run: "", count: row.left_over, note: "" },
                job.print,
              )
            }
          >
            {say("Into the store")}
          </Button>
        </div>
      ))}
    </section>
  );
}

type What = "piece" | "transfer" | "blank";

/** What spoiled, at which stage, and why: the answer decides what has to be printed again. */
export function SpoiledForm({ job }: { job: Job }) {
  const outbox = useOutbox();
  const [isOpen, setIsOpen] = useState(false);
  const begun = job.ledger.books.pieces.filter((r) => r.begun > r.good);
  const [what, setWhat] = useState<What>(begun.length ? "piece" : "transfer");
  const [kind, setKind] = useState("");
  const [slot, setSlot] = useState("");
  const [signature, setSignature] = useState("");
  const stages = stagesOf(job);
  const causes = job.line.stations.map((s) => drawingOf(s, "inspect")).find((d) => d)?.causes ?? {};
  const [chosen, setStage] = useState("");
  const stage = chosen || (stages.find((s) => s.id.startsWith("transfer")) ?? stages[0])?.id || "print";
  const [cause, setCause] = useState("");
  const [outcome, setOutcome] = useState<"scrap" | "second">("scrap");
  const [count, setCount] = useState(1);
  if (!isOpen)
    return (
      <div>
        <Button kind="stop" onClick={() => setIsOpen(true)}>
          {say("Something spoiled")}
        </Button>
      </div>
    );
  const rows = what === "piece" ? begun : job.ledger.books.pieces;
  const at = rows.find((r) => r.kind === kind) ?? rows[0];
  const transfers = job.ledger.books.transfers.filter((t) => t.in_hand > 0);
  const lot = transfers.find((t) => t.signature === signature) ?? transfers[0];
  // A name lies on one piece alone: which piece spoiled has to be said.
  const named =
    what === "piece"
      ? job.ledger.books.transfers
          .flatMap((t) => t.slots)
          .filter((s) => s.slot.startsWith(`${at?.kind}#`) && s.pressed > 0)
      : [];
  const whose = named.find((s) => s.slot === slot) ?? named[0];
  const record = () => {
    const usual = {
      kind: "spoiled" as const,
      what,
      count: whose ? 1 : count,
      stage,
      cause: cause.trim() || say("not said"),
      outcome,
    };
    const spoiled = what === "transfer" ? lot?.slots[0]?.slot : (whose?.slot ?? at?.kind);
    const { line, size, number } = partsOf(spoiled ?? "");
    outbox.act(
      job.id,
      {
        ...usual,
        size: size || null,
        line,
        number,
        print: what === "transfer" ? (lot?.print ?? "front") : "front",
        had: [],
      },
      job.print,
    );
    setIsOpen(false);
  };
  return (
    <fieldset className="flex flex-col gap-2.5 rounded-lg border border-hair2 p-3">
      <legend className="px-1 font-semibold">{say("Spoiled")}</legend>
      <Pick
        label={say("What")}
        value={what}
        onChange={setWhat}
        options={[
          ...(begun.length ? [{ id: "piece" as const, name: say("a pressed piece: blank and print") }] : []),
          ...(transfers.length ? [{ id: "transfer" as const, name: say("a transfer, not pressed") }] : []),
          { id: "blank" as const, name: say("a blank, no print on it yet") },
        ]}
      />
      {what !== "transfer" && rows.length > 0 && (
        <Pick
          label={say("Size")}
          value={at?.kind ?? ""}
          onChange={setKind}
          options={rows.map((r) => ({ id: r.kind, name: r.label }))}
        />
      )}
      {whose && (
        <Pick
          label={say("Whose")}
          value={whose.slot}
          onChange={setSlot}
          options={named.map((s) => ({ id: s.slot, name: s.label }))}
        />
      )}
      {what === "transfer" && transfers.length > 1 && (
        <Pick
          label={say("Which transfer")}
          value={lot?.signature ?? ""}
          onChange={setSignature}
          options={transfers.map((t) => ({
            id: t.signature,
            name: `${t.name}, ${t.slots.map((s) => s.label).join(", ")}`,
          }))}
        />
      )}
      <div className="grid grid-cols-2 gap-2">
        <Pick label={say("At which stage")} value={stage} onChange={(s) => setStage(s)} options={stages} />
        {!whose && <NumberField label={say("How many")} value={count} onDone={(n) => setCount(Math.round(n))} />}
      </div>
      {what === "piece" && (
        <Pick
          label={say("What becomes of it")}
          value={outcome}
          onChange={setOutcome}
          options={[
            { id: "scrap", name: say("scrap") },
            { id: "second", name: say("second quality, kept aside") },
          ]}
        />
      )}
      <label>
        <span className="font-semibold">{say("Cause")}</span>
        <input
          className="field"
          list="causes"
          maxLength={200}
          value={cause}
          onChange={(e) => setCause(e.target.value)}
        />
        <datalist id="causes">
          {(causes[stage] ?? []).map((c) => (
            <option key={c} value={c} />
          ))}
        </datalist>
      </label>
      <div className="flex gap-2">
        <Button kind="stop" onClick={record}>
          {say("Record it")}
        </Button>
        <Button onClick={() => setIsOpen(false)}>{say("Leave it")}</Button>
      </div>
    </fieldset>
  );
}
