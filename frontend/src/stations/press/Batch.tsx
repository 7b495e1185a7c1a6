import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, told } from "../../api/client";
import type { Batch as BatchData, BatchWay, Trace } from "../../api/types";
import { useSize } from "../../bench/Bench";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say, sayMany } from "../../texts/say";
import { Choice } from "../../ui/parts";

type Order = Trace["order"];
const ORDERS: { id: Order; name: string }[] = [
  { id: "piece by piece", name: say("Piece by piece") },
  { id: "rolling", name: say("Rolling with the rack") },
  { id: "by stage", name: say("By stage") },
];
const LEFT = 74;

/** The batch on this press: its platen's temperature over time with the pieces under it, one heat against several. */
export function Batch({ jobLine }: { jobLine: JobLine }) {
  const { job } = jobLine;
  const query = useQuery({
    queryKey: ["heat", job.id, job.print, job.revisions, job.acts.length],
    queryFn: () =>
      told<BatchData>(
        api.GET("/api/jobs/{job_id}/heat", { params: { path: { job_id: job.id }, query: { print: job.print } } }),
      ),
    placeholderData: (before) => before,
  });
  const batch = query.data;
  if (!batch) return <p className="px-6 pt-3 text-soft">{query.error?.message ?? say("Working the batch out…")}</p>;
  if (!batch.has_model)
    return (
      <p className="px-6 pt-3">
        {say("{press_name} has not been measured yet: a change of its heat has no length here.", {
          press_name: batch.press_name,
        })}{" "}
        <Link to={`/machines/${batch.press}`} className="font-semibold text-act underline underline-offset-2">
          {say("Take a heating and a cooling run")}
        </Link>{" "}
        {say("with a probe first.")}
      </p>
    );
  if (!batch.ways.length)
    return (
      <p className="px-6 pt-3">
        {say("These stages cannot be worked out: a value is missing, or the press stays cooler.")}
      </p>
    );
  return <Drawn batch={batch} />;
}

function Drawn({ batch }: { batch: BatchData }) {
  const units = useUnits();
  const { ref, width } = useSize();
  const [order, setOrder] = useState<Order>("rolling");
  const longest = Math.max(...batch.ways.map((w) => traceOf(w, order)?.minutes ?? 0));
  const best = [...batch.ways].sort((a, b) => minutes(a, order) - minutes(b, order))[0];
  const chosen = batch.ways[0] as BatchWay;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and keys must reach it
    <section aria-label={say("The batch")} tabIndex={0} className="min-h-0 grow overflow-auto px-6 pt-2 pb-3">
      <Choice label={say("How the batch is pressed")} value={order} options={ORDERS} onChange={setOrder} />
      <div ref={ref} className="mt-2">
        {width > 0 &&
          batch.ways.map((way) => (
            <Row key={`${way.question}${way.choice}`} way={way} order={order} width={width} longest={longest} />
          ))}
      </div>
      <table className="mt-2 w-full max-w-3xl">
        <caption className="text-left font-semibold">
          {(batch.parts ?? 1) > 1
            ? sayMany(
                batch.pieces,
                "Minutes for {count} piece in {parts} parts each on {press}",
                "Minutes for {count} pieces in {parts} parts each on {press}",
                { parts: batch.parts, press: batch.press_name },
              )
            : sayMany(batch.pieces, "Minutes for {count} piece on {press}", "Minutes for {count} pieces on {press}", {
                press: batch.press_name,
              })}
        </caption>
        <thead>
          <tr className="border-b border-hair text-sm text-soft">
            <th className="text-left font-normal">{say("Heats")}</th>
            {ORDERS.map((o) => (
              <th key={o.id} className="text-right font-normal">
                {o.name.toLowerCase()}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {batch.ways.map((way) => (
            <tr key={`${way.question}${way.choice}`} className="border-b border-hair">
              <th scope="row" className="py-0.5 text-left font-normal">
                <span className={way.is_chosen ? "font-semibold" : ""}>{nameOf(way)}</span>{" "}
                <span className="text-soft">{way.heats_c.map(units.heat).join(" → ")}</span>
              </th>
              {ORDERS.map((o) => (
                <td key={o.id} className={`num text-right ${o.id === order ? "font-semibold" : ""}`}>
                  {minutes(way, o.id).toFixed(1)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2">
        {batch.ways.length > 1 && best && (
          <>
            <span className="font-semibold">
              {say("{order}, {way} is quickest", {
                order:
                  order === "by stage" ? say("By stage") : order === "rolling" ? say("Rolling") : say("Piece by piece"),
                way: nameOf(best),
              })}
            </span>
            {best !== chosen &&
              say(" by {minutes} min; the school is chosen at Method", {
                minutes: (minutes(chosen, order) - minutes(best, order)).toFixed(1),
              })}
            .{" "}
          </>
        )}
        {say(
          "Warming up from cold takes {warm_up_min} min, the lower platen with it. A cold piece takes heat that is back in {recovery_s} s{waits} The way back to the first heat belongs to the next job.",
          {
            warm_up_min: chosen.warm_up_min.toFixed(1),
            recovery_s: (chosen.recovery_min * 60).toFixed(0),
            waits: chosen.recovery_waits
              ? say(": the hands are quicker and wait for it.")
              : say(": before the next one lies there."),
          },
        )}
      </p>
    </section>
  );
}

function traceOf(way: BatchWay, order: Order): Trace | undefined {
  return way.traces.find((t) => t.order === order);
}

function minutes(way: BatchWay, order: Order): number {
  return traceOf(way, order)?.minutes ?? 0;
}

function nameOf(way: BatchWay): string {
  return way.is_chosen && !way.choice
    ? say("as chosen")
    : way.is_chosen
      ? say("{name} (chosen)", { name: way.name })
      : way.name;
}

const LINE_PX = 14;

/** Each heat once, the hottest first, and where its words stand: at its line, but never on those above it. */
function labelled(heats: number[], y: (c: number) => number): [number, number][] {
  let above = Number.NEGATIVE_INFINITY;
  return [...new Set(heats)]
    .sort((a, b) => b - a)
    .map((c) => {
      above = Math.max(y(c), above + LINE_PX);
      return [c, above];
    });
}

type RowProps = { way: BatchWay; order: Order; width: number; longest: number };
const HIGH = 112;

/** One way: the platen as a line, pieces as numbered blocks under it, a change of heat as a slope. */
function Row({ way, order, width, longest }: RowProps) {
  const units = useUnits();
  const trace = traceOf(way, order);
  if (!trace) return null;
  const scale = (width - LEFT - 96) / Math.max(longest, 0.1);
  const [low, high] = [Math.min(...way.heats_c) - 12, Math.max(...way.heats_c) + 4];
  const y = (c: number) => 28 + ((high - c) / (high - low)) * 34;
  const x = (min: number) => LEFT + min * scale;
  const spans = trace.spans ?? [];
  const path = spans.map((s) => `L${x(s.start_min)} ${y(s.from_c)}L${x(s.end_min)} ${y(s.to_c)}`).join("");
  const step = [1, 2, 5, 10, 20, 30, 60, 120, 240].find((s) => s * scale > 56) ?? 480;
  return (
    <svg
      width={width}
      height={HIGH}
      role="img"
      aria-label={say("{way}: {minutes} minutes, {changes} changes of heat take {changing_min} of them", {
        way: nameOf(way),
        minutes: trace.minutes.toFixed(1),
        changes: trace.changes,
        changing_min: trace.changing_min.toFixed(1),
      })}
    >
      <text x={0} y={16} fontSize={15} fontWeight={700} fill="var(--ink)">
        {nameOf(way)}
      </text>
      {labelled(way.heats_c, y).map(([c, at]) => (
        <text key={c} x={LEFT - 8} y={at + 5} textAnchor="end" fontSize={14} fill="var(--heat)" className="num">
          {units.heat(c)}
        </text>
      ))}
      {spans.map((s) =>
        s.kind === "press" ? (
          <g key={`${s.piece}-${s.start_min}`}>
            <rect
              x={x(s.start_min)}
              y={66}
              width={Math.max(1, (s.end_min - s.start_min) * scale - 1)}
              height={22}
              fill="var(--raise)"
              stroke="var(--hair2)"
            />
            {(s.end_min - s.start_min) * scale > 20 && (
              <text x={x(s.start_min) + 4} y={82} fontSize={14} fill="var(--ink)" className="num">
                {s.piece}
              </text>
            )}
          </g>
        ) : (
          <g key={`${s.kind}-${s.start_min}`}>
            <rect
              x={x(s.start_min)}
              y={66}
              width={(s.end_min - s.start_min) * scale}
              height={22}
              fill={s.kind === "change" ? "var(--heat)" : "none"}
              opacity={s.kind === "change" ? 0.25 : 1}
              stroke={s.kind === "wait" ? "var(--hair2)" : "none"}
              strokeDasharray="3 3"
            />
            {(s.end_min - s.start_min) * scale > 60 && (
              <text x={x(s.start_min) + 4} y={82} fontSize={14} fill="var(--ink)">
                {s.kind === "change" ? say("{end_min} min", { end_min: (s.end_min - s.start_min).toFixed(1) }) : "wait"}
              </text>
            )}
          </g>
        ),
      )}
      <path d={`M${x(0)} ${y(way.heats_c[0] ?? 0)}${path}`} fill="none" stroke="var(--heat)" strokeWidth={3} />
      {Array.from({ length: Math.floor(trace.minutes / step) + 1 }, (_, i) => (
        <g key={i}>
          <path d={`M${x(i * step)} 90v4`} stroke="var(--soft)" />
          <text x={x(i * step)} y={107} fontSize={14} fill="var(--soft)" className="num">
            {i * step}
          </text>
        </g>
      ))}
      <text x={x(trace.minutes) + 8} y={82} fontSize={15} fontWeight={700} fill="var(--ink)" className="num">
        {say("{minutes} min", { minutes: trace.minutes.toFixed(1) })}
      </text>
    </svg>
  );
}
