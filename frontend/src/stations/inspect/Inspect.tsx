import { useState } from "react";
import { Link } from "react-router";
import { useOutbox } from "../../api/outbox";
import { drawingOf, type Garment } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { SmallGarment } from "../../line/StationPicture";
import type { JobLine } from "../../line/useJobLine";
import { Button, NumberField, Pick } from "../../ui/parts";
import type { StationProps } from "..";
import { SizeTable } from "../press/Press";
import { Findings, Waits } from "../Waits";

type Piece = "good" | "waits" | "open" | "spoiled";

export function InspectBench({ station, jobLine }: StationProps) {
  const { ref, width, height } = useSize();
  const drawing = drawingOf(station, "inspect");
  if (!drawing) return <Waits station={station} />;
  const rows = piecesBySize(jobLine);
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
        <section key={size} aria-label={`Size ${size}`} className="mb-2 flex items-start gap-3">
          <h2 className="num w-8 pt-3 text-lg font-bold">{size}</h2>
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
  good: "good",
  waits: "waits for your eyes",
  open: "not pressed yet",
  spoiled: "spoiled",
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
  if (piece === "spoiled")
    return (
      <g>
        <rect x={81} y={67} width={24} height={24} fill="var(--stop)" stroke="var(--panel)" strokeWidth={2} />
        <path d="M87 73l12 12m0 -12l-12 12" stroke="var(--panel)" strokeWidth={3} />
      </g>
    );
  return <circle cx={93} cy={79} r={10} fill="none" stroke="var(--soft)" strokeWidth={2} strokeDasharray="4 3" />;
}

function piecesBySize(jobLine: JobLine): [string, Piece[]][] {
  const { ledger, to_press, to_inspect, still_good } = jobLine.job.ledger;
  const many = (piece: Piece, n: number | undefined): Piece[] =>
    Array.from({ length: Math.max(0, n ?? 0) }, () => piece);
  return Object.keys(ledger.ordered)
    .filter((s) => (ledger.ordered[s] ?? 0) > 0)
    .map((s) => [
      s,
      [
        ...many("good", still_good[s]),
        ...many("waits", to_inspect[s]),
        ...many("open", to_press[s]),
        ...many("spoiled", ledger.spoiled_pieces[s]),
      ],
    ]);
}

const STAGES = ["print", "powder", "cure", "pre-press", "transfer", "peel", "finish", "handling"];
const CAUSES: Record<string, string[]> = {
  print: ["missing nozzles", "ran out of white", "head touched the film"],
  powder: ["powder on dry ink", "powder outside the print"],
  cure: ["not glazed", "scorched"],
  "pre-press": ["scorched", "wrinkle pressed in"],
  transfer: ["off the crease", "wrong face down", "wrong timer", "slipped"],
  peel: ["peeled warm", "peeled upward", "part stayed on the film"],
  finish: ["no sheet over it", "scorched"],
  handling: ["stain", "hole in the blank"],
};

export function InspectCard({ station, jobLine }: StationProps) {
  const outbox = useOutbox();
  const { job } = jobLine;
  const waiting = Object.entries(job.ledger.to_inspect).filter(([, n]) => n > 0);
  const good = Object.values(job.ledger.still_good).reduce((a, b) => a + b, 0);
  const ordered = Object.values(job.ledger.ledger.ordered).reduce((a, b) => a + b, 0);
  if (!drawingOf(station, "inspect")) return <p className="text-soft">{station.sub}</p>;
  return (
    <>
      {waiting.map(([size, n]) => (
        <GoodRow key={size} size={size} waiting={n} jobLine={jobLine} />
      ))}
      <SizeTable jobLine={jobLine} />
      {(waiting.length > 0 || job.ledger.in_hand > 0) && !job.is_closed && (
        <SpoiledForm jobLine={jobLine} sizes={waiting.map(([s]) => s)} />
      )}
      <p className="text-soft">
        <span className="num text-ink">{job.ledger.in_hand}</span> transfers in hand,{" "}
        <span className="num text-ink">{job.ledger.to_print}</span> to print.
      </p>
      {!job.is_closed && good > 0 && waiting.length === 0 && (
        <Button
          kind={good >= ordered ? "go" : "plain"}
          onClick={() => outbox.act(job.id, { kind: "closed", short: good < ordered, note: "" })}
        >
          {good >= ordered ? "Close the job" : `Close it short, ${good} of ${ordered}`}
        </Button>
      )}
      {job.is_closed && (
        <p>
          Closed.{" "}
          <Link to="/logbook" className="font-semibold text-act underline">
            What it took is in the logbook.
          </Link>
        </p>
      )}
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}

function GoodRow({ size, waiting, jobLine }: { size: string; waiting: number; jobLine: JobLine }) {
  const outbox = useOutbox();
  const [count, setCount] = useState<number | null>(null);
  const now = count ?? waiting;
  return (
    <div className="grid grid-cols-[92px_1fr] items-end gap-2">
      <NumberField
        label={`Size ${size}`}
        value={now}
        onDone={setCount}
        error={now < 1 || now > waiting ? `1 to ${waiting}` : undefined}
      />
      <Button
        kind="go"
        disabled={now < 1 || now > waiting}
        onClick={() => {
          outbox.act(jobLine.job.id, { kind: "good", size, count: Math.round(now) });
          setCount(null);
        }}
      >
        {now === 1
          ? waiting === 1
            ? "It is good"
            : "1 is good"
          : now === waiting
            ? `All ${waiting} are good`
            : `${now} are good`}
      </Button>
    </div>
  );
}

/** What spoiled, at which stage, and why: the answer decides what has to be printed again. */
export function SpoiledForm({ jobLine, sizes }: { jobLine: JobLine; sizes: string[] }) {
  const outbox = useOutbox();
  const [isOpen, setIsOpen] = useState(false);
  const [what, setWhat] = useState<"piece" | "transfer">(sizes.length ? "piece" : "transfer");
  const [size, setSize] = useState(sizes[0] ?? "");
  const [stage, setStage] = useState("transfer");
  const [cause, setCause] = useState("");
  const [count, setCount] = useState(1);
  if (!isOpen)
    return (
      <div>
        <Button kind="stop" onClick={() => setIsOpen(true)}>
          Something spoiled
        </Button>
      </div>
    );
  const at = sizes.includes(size) ? size : (sizes[0] ?? "");
  return (
    <fieldset className="flex flex-col gap-2.5 rounded-lg border border-hair2 p-3">
      <legend className="px-1 font-semibold">Spoiled</legend>
      <Pick
        label="What"
        value={what}
        onChange={setWhat}
        options={[
          ...(sizes.length ? [{ id: "piece" as const, name: "a pressed piece: blank and print" }] : []),
          { id: "transfer" as const, name: "a transfer, not pressed" },
        ]}
      />
      {what === "piece" && (
        <Pick label="Size" value={at} onChange={setSize} options={sizes.map((s) => ({ id: s, name: s }))} />
      )}
      <div className="grid grid-cols-2 gap-2">
        <Pick
          label="At which stage"
          value={stage}
          onChange={(s) => setStage(s)}
          options={STAGES.map((s) => ({ id: s, name: s }))}
        />
        <NumberField label="How many" value={count} onDone={(n) => setCount(Math.round(n))} />
      </div>
      <label>
        <span className="font-semibold">Cause</span>
        <input
          className="field"
          list="causes"
          maxLength={200}
          value={cause}
          onChange={(e) => setCause(e.target.value)}
        />
        <datalist id="causes">
          {(CAUSES[stage] ?? []).map((c) => (
            <option key={c} value={c} />
          ))}
        </datalist>
      </label>
      <div className="flex gap-2">
        <Button
          kind="stop"
          onClick={() => {
            outbox.act(jobLine.job.id, {
              kind: "spoiled",
              what,
              size: what === "piece" ? at : null,
              count,
              stage,
              cause: cause.trim() || "not said",
            });
            setIsOpen(false);
          }}
        >
          Record it
        </Button>
        <Button onClick={() => setIsOpen(false)}>Leave it</Button>
      </div>
    </fieldset>
  );
}
