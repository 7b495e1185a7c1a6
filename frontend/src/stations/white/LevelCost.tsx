import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client";
import type { WhiteCost } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { useMoney } from "../../ui/money";

const WIDE = 300;
const HIGH = 74;

/** What a level of white costs in ink, from following the picture to solid, and where this print stands. */
export function LevelCost({ jobLine, level }: { jobLine: JobLine; level: number }) {
  const { money } = useMoney();
  const units = useUnits();
  const { job } = jobLine;
  const { data = [] } = useQuery({
    queryKey: ["white-cost", job.id, job.print, job.revisions],
    queryFn: () =>
      told<WhiteCost[]>(
        api.GET("/api/jobs/{job_id}/white-cost", {
          params: { path: { job_id: job.id }, query: { print: job.print } },
        }),
      ),
    placeholderData: (before) => before,
  });
  const first = data[0];
  const last = data.at(-1);
  if (!first || !last) return null;
  const isMl = first.ml != null;
  const figure = (value: number) => units.figure(value, isMl ? "mL" : "cm²");
  const amount = (c: WhiteCost) => figure(isMl ? (c.ml ?? 0) : c.area_cm2)[0];
  const most = Math.max(...data.map(amount)) || 1;
  const x = (pct: number) => 4 + (pct / 100) * (WIDE - 8);
  const y = (value: number) => HIGH - 4 - (value / most) * (HIGH - 12);
  const after = data.find((c) => c.level_pct >= level) ?? last;
  const before = [...data].reverse().find((c) => c.level_pct <= level) ?? first;
  const share = after === before ? 0 : (level - before.level_pct) / (after.level_pct - before.level_pct);
  const between = (of: (c: WhiteCost) => number) => of(before) + share * (of(after) - of(before));
  const here = between(amount);
  const unit = figure(0)[1];
  const digits = { mL: 2, "sq in": 1 }[unit] ?? 0;
  const pieces = job.line.decisions.order.lines.reduce(
    (n, line) => n + Object.values(line.counts).reduce((m, k) => m + k, 0),
    0,
  );
  const saved = pieces * (Number(last.money) - between((c) => Number(c.money)));
  return (
    <figure className="-mt-1">
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="w-full"
        role="img"
        aria-label={say(
          "White of one print: {follows} {unit} where it follows the picture, {here} here, {solid} solid",
          {
            follows: amount(first).toFixed(digits),
            unit,
            here: here.toFixed(digits),
            solid: amount(last).toFixed(digits),
          },
        )}
      >
        <path d={`M4 ${HIGH - 4}H${WIDE - 4}`} stroke="var(--hair2)" />
        <polyline
          points={data.map((c) => `${x(c.level_pct)},${y(amount(c))}`).join(" ")}
          fill="none"
          stroke="var(--soft)"
          strokeWidth={2}
        />
        <path d={`M${x(level)} ${HIGH - 4}V${y(here)}`} stroke="var(--act)" strokeWidth={2} strokeDasharray="3 3" />
        <circle cx={x(level)} cy={y(here)} r={5} fill="var(--act)" />
      </svg>
      <figcaption className="text-sm text-soft">
        {say("White of one print:")}{" "}
        <span className="num">
          {amount(first).toFixed(digits)} – <b className="text-ink">{here.toFixed(digits)}</b> –{" "}
          {amount(last).toFixed(digits)} {unit}
        </span>
        {saved > 0.005 && <>{say("; the order takes {saved} less than solid", { saved: money(saved) })}</>}.
      </figcaption>
    </figure>
  );
}
