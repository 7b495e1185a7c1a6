import { useState } from "react";
import { api, told } from "../../api/client";
import type { MeasuredView } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { day, useDeed } from "./useColour";
import { Wrong } from "./Wrong";

const SEEN = 3; // CIEDE2000 from which two colours side by side begin to differ: from memory

/** A measured chart: each patch as asked and as it came, the figures beside the measurement before, and what to do. */
export function PatchReport({ view, mayAct, isNewest }: { view: MeasuredView; mayAct: boolean; isNewest: boolean }) {
  const { run, wrong, isBusy } = useDeed();
  const [done, setDone] = useState("");
  const { measurement: m, report, before } = view;
  const correct = () =>
    void run(() =>
      told<{ why: string }>(
        api.POST("/api/colour/measurements/{measurement}/correction", { params: { path: { measurement: m.id } } }),
      ),
    ).then(
      (made) =>
        made &&
        setDone(say("{why}. Print and measure the chart once more: it says whether it helped.", { why: made.why })),
    );
  return (
    <section aria-label={say("The measured chart")} className="mt-5">
      <h2 className="text-lg font-bold">
        {say("{at}: {mean} off on average, the worst patch {worst}", {
          at: day(m.at),
          mean: report.mean.toFixed(1),
          worst: report.worst.toFixed(1),
        })}
      </h2>
      <p className="text-soft">
        {say(
          "{count} patches by {probe}, {by}. Upper half of a patch: as its profile says; lower half: as measured; framed where an eye sees it (from ΔE {seen}).",
          { count: m.count, probe: m.probe, by: m.by, seen: SEEN },
        )}
      </p>
      <div className="mt-2 grid grid-cols-[minmax(0,1fr)_300px] gap-6 max-[1100px]:grid-cols-1">
        <Patches view={view} />
        <div>
          <table className="w-full">
            <caption className="sr-only">{say("Before and now")}</caption>
            <thead>
              <tr className="text-left text-sm text-soft">
                <td />
                {before ? (
                  <th scope="col" className="text-right">
                    {day(before.at)}
                  </th>
                ) : (
                  <td />
                )}
                <th scope="col" className="text-right">
                  {day(m.at)}
                </th>
              </tr>
            </thead>
            <tbody>
              {(["mean", "p95", "worst"] as const).map((name) => (
                <tr key={name} className="border-t border-hair">
                  <th scope="row" className="py-0.5 text-left font-normal">
                    {{ mean: say("mean"), p95: say("95 % within"), worst: say("worst") }[name]}
                  </th>
                  <td className="num text-right text-soft">{before ? before[name].toFixed(1) : ""}</td>
                  <td className="num text-right font-semibold">{m[name].toFixed(1)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Worst view={view} />
          <Sorted view={view} />
          {mayAct && isNewest && (
            <div className="mt-3">
              {view.can_correct ? (
                <p className="text-soft">{view.can_correct}</p>
              ) : (
                <Button kind="go" onClick={correct} disabled={isBusy}>
                  {say("Correct the tones from this")}
                </Button>
              )}
              {!view.can_correct && (
                <p className="mt-1 text-sm text-soft">
                  {say("Jobs whose way is decided keep the correction they have, and say that a newer one exists.")}
                </p>
              )}
            </div>
          )}
          {done && (
            <p role="status" className="mt-2 border-l-4 border-done pl-3">
              {done}
            </p>
          )}
          <Wrong said={wrong} />
        </div>
      </div>
    </section>
  );
}

function Patches({ view }: { view: MeasuredView }) {
  const { ref, width } = useSize();
  const { chart, report, shown } = view;
  const off = new Map(report.patches.map((p) => [p.label, p.delta_e]));
  const side = Math.min(56, Math.max(20, (width - 30) / chart.columns - 3));
  const rows = Math.ceil(chart.patches.length / chart.columns);
  return (
    <div ref={ref}>
      {width > 0 && (
        <svg
          width={width}
          height={rows * (side + 3) + 24}
          role="img"
          aria-label={say("{patches} patches; {off} of them off by {seen} or more", {
            patches: chart.patches.length,
            off: report.patches.filter((p) => p.delta_e >= SEEN).length,
            seen: SEEN,
          })}
        >
          {chart.patches.map((p, i) => {
            const x = 26 + (i % chart.columns) * (side + 3);
            const y = 20 + Math.floor(i / chart.columns) * (side + 3);
            const [asked, got] = shown[p.label] ?? ["#888888", "#888888"];
            const apart = off.get(p.label);
            return (
              <g key={p.label}>
                <rect x={x} y={y} width={side} height={side / 2} fill={asked} />
                <rect x={x} y={y + side / 2} width={side} height={side / 2} fill={got} />
                {apart !== undefined && apart >= SEEN && (
                  <rect
                    x={x + 1}
                    y={y + 1}
                    width={side - 2}
                    height={side - 2}
                    fill="none"
                    stroke="var(--need)"
                    strokeWidth={apart >= 2 * SEEN ? 4 : 2}
                  />
                )}
              </g>
            );
          })}
          {Array.from({ length: rows }, (_, r) => (
            <text
              key={r}
              x={20}
              y={20 + r * (side + 3) + side / 2 + 5}
              textAnchor="end"
              fontSize={14}
              fill="var(--soft)"
            >
              {(chart.patches[r * chart.columns]?.label ?? "").replace(/\d+/g, "")}
            </text>
          ))}
          {Array.from({ length: chart.columns }, (_, c) => (
            <text
              key={c}
              x={26 + c * (side + 3) + side / 2}
              y={14}
              textAnchor="middle"
              fontSize={14}
              fill="var(--soft)"
              className="num"
            >
              {c + 1}
            </text>
          ))}
        </svg>
      )}
    </div>
  );
}

/** The patches furthest off, as asked and as they came. */
function Worst({ view }: { view: MeasuredView }) {
  const worst = [...view.report.patches].sort((a, b) => b.delta_e - a.delta_e).slice(0, 4);
  return (
    <ul aria-label={say("The worst patches")} className="mt-2 grid grid-cols-4 gap-2">
      {worst.map((p) => (
        <li key={p.label} className="text-center text-sm">
          <span className="block h-5 rounded-t-md" style={{ background: view.shown[p.label]?.[0] }} />
          <span className="block h-5 rounded-b-md" style={{ background: view.shown[p.label]?.[1] }} />
          <span className="num block">{p.label}</span>
          <span className="num block">{p.delta_e.toFixed(1)}</span>
        </li>
      ))}
    </ul>
  );
}

/** All patches from the best to the worst: this measurement over the one before. */
function Sorted({ view }: { view: MeasuredView }) {
  const now = view.report.patches.map((p) => p.delta_e).sort((a, b) => a - b);
  const then = view.before_report?.patches.map((p) => p.delta_e).sort((a, b) => a - b);
  const top = Math.max(SEEN * 1.2, ...now, ...(then ?? []));
  const [w, h] = [300, 110];
  const path = (values: number[]) =>
    `M${values.map((v, i) => `${((i / Math.max(1, values.length - 1)) * (w - 40)).toFixed(1)} ${(h - 8 - (v / top) * (h - 20)).toFixed(1)}`).join("L")}`;
  const seen = h - 8 - (SEEN / top) * (h - 20);
  return (
    <figure className="mt-3">
      <svg width={w} height={h} role="img" aria-label={say("All patches from best to worst, before and now")}>
        <path d={`M0 ${h - 8}H${w - 40}`} stroke="var(--hair2)" />
        <path d={`M0 ${seen}H${w - 40}`} stroke="var(--hair2)" strokeDasharray="4 4" />
        <text x={w - 36} y={seen + 5} fontSize={14} fill="var(--soft)" className="num">
          ΔE {SEEN}
        </text>
        {then && <path d={path(then)} fill="none" stroke="var(--soft)" strokeWidth={2} strokeDasharray="3 4" />}
        <path d={path(now)} fill="none" stroke="var(--act)" strokeWidth={3} />
      </svg>
      <figcaption className="text-sm text-soft">
        {then ? say("Patches from best to worst; dotted: the measurement before") : say("Patches from best to worst")}
      </figcaption>
    </figure>
  );
}
