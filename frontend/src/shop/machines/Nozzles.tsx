import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, sent, told } from "../../api/client";
import { keep } from "../../api/keep";
import type { Checked, NozzlesView, Printer } from "../../api/types";
import { useMe } from "../../settings/me";
import { locale, say } from "../../texts/say";
import { FileButton } from "../../ui/FileButton";
import { useInkNames } from "../../ui/inks";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { when } from "../../ui/when";

const DAYS = 28;
const DAY_MS = 86_400_000;

/** A printer's nozzles: what the last check showed, the weeks before it as a strip, and the next step. */
export function Nozzles({ printer }: { printer: Printer }) {
  const queries = useQueryClient();
  const me = useMe();
  const [isReading, setReading] = useState(false);
  const [isSent, setSent] = useState(false);
  const { nameOf } = useInkNames();
  const { wrong, tell } = useSaying();
  const key = ["nozzles", printer.id];
  const path = { printer: printer.id };
  const { data: seen } = useQuery({
    queryKey: key,
    queryFn: () => told<NozzlesView>(api.GET("/api/nozzles/{printer}", { params: { path } })),
  });
  if (!seen?.channels.length) return null;
  const accept = (view: NozzlesView) => keep(queries, key, view);
  const read = async (scan: File) => {
    setReading(true);
    await tell(sent<NozzlesView>(`/api/nozzles/${printer.id}/scans`, scan).then(accept));
    setReading(false);
  };
  const rung = seen.next.rung;
  const last = seen.history.findLast((c) => c.kind === "check");
  return (
    <section aria-label={say("Nozzles")} className="mt-2">
      <h2 className="text-lg font-bold">{seen.next.said}</h2>
      <p className="text-soft">{seen.next.why}</p>
      <Refused said={wrong} />
      {isSent && (
        <p role="status" className="mt-1">
          {say("The sheet is on its way: scan it when it lies in the tray, then read the scan.")}
        </p>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {me.role !== "viewer" && (
          <>
            {seen.is_sent && (
              <Button
                kind={rung ? "plain" : "go"}
                onClick={() =>
                  void tell(
                    told(api.POST("/api/nozzles/{printer}/prints", { params: { path }, body: { tray: "" } })).then(() =>
                      setSent(true),
                    ),
                  )
                }
              >
                {say("Print the sheet")}
              </Button>
            )}
            <FileButton
              label={say("A scan of the nozzle sheet")}
              accept="image/*"
              kind={rung || seen.is_sent ? "plain" : "go"}
              disabled={isReading}
              onFile={(scan) => void read(scan)}
            >
              {isReading ? say("Reading the scan…") : say("Read a scan")}
            </FileButton>
            {rung && (
              <Button
                kind="go"
                onClick={() =>
                  void tell(
                    told<NozzlesView>(
                      api.POST("/api/nozzles/{printer}/cleanings", {
                        params: { path },
                        body: { cleaning: rung.id },
                      }),
                    ).then(accept),
                  )
                }
              >
                {say("The {id} cleaning is done", { id: rung.id })}
              </Button>
            )}
          </>
        )}
        <a href={`/api/nozzles/${printer.id}/sheet.tif`} className="text-act underline underline-offset-2">
          {say("The sheet, ink by ink (TIFF)")}
        </a>
        <a
          href={`/api/nozzles/${printer.id}/sheet.png`}
          download={`nozzles-${printer.id}.png`}
          className="text-act underline underline-offset-2"
        >
          {say("as a picture")}
        </a>
      </div>
      {last && (
        <div className="mt-3 grid gap-6 min-[1750px]:grid-cols-[auto_minmax(0,1fr)]">
          <Strip channels={seen.channels} history={seen.history} />
          <div className="min-w-0">
            <p className="text-sm text-soft">
              {say("Checked {at} by {by}: {outOf}", { at: when(last.at), by: last.by, outOf: outOf(last, nameOf) })}
            </p>
            {last.picture && (
              <img
                src={`/api/photos/${last.picture}.jpg`}
                alt={say("The scan with each missing line ringed: {outOf}", { outOf: outOf(last, nameOf) })}
                className="mt-1 max-h-72 rounded border border-hair"
              />
            )}
          </div>
        </div>
      )}
    </section>
  );
}

function outOf(check: Checked, nameOf: (channel: string) => string): string {
  const rows = Object.entries(check.missing ?? {}).filter(([, lines]) => lines.length);
  if (!rows.length) return say("all {lines} lines are there", { lines: check.lines });
  return rows
    .map(
      ([c, lines]) =>
        `${nameOf(c)} ${lines.slice(0, 6).join(", ")}${lines.length > 6 ? say(" and {lines} more", { lines: lines.length - 6 }) : ""}`,
    )
    .join("; ");
}

/** Four weeks: of each day and channel how many lines were missing; a day without a check is a gap, a cleaning a stroke under it. */
function Strip({ channels, history }: { channels: string[]; history: Checked[] }) {
  const { nameOf } = useInkNames();
  const today = new Date().setHours(0, 0, 0, 0);
  const days = Array.from({ length: DAYS }, (_, i) => today - (DAYS - 1 - i) * DAY_MS);
  const on = (day: number, kind: Checked["kind"]) =>
    history.filter((c) => c.kind === kind && new Date(c.at).setHours(0, 0, 0, 0) === day);
  const told = history
    .filter((c) => c.kind === "check")
    .map((c) => `${when(c.at)}: ${outOf(c, nameOf)}`)
    .slice(-6)
    .join(". ");
  return (
    <svg
      role="img"
      aria-label={say("Lines missing over four weeks. {told}", { told })}
      width={64 + DAYS * 16}
      height={channels.length * 22 + 34}
      className="shrink-0"
    >
      {channels.map((c, row) => (
        <text key={c} x={4} y={row * 22 + 20} fontSize={14} fill="var(--ink)" className="num font-semibold">
          {c}
        </text>
      ))}
      {days.map((day, at) => {
        const check = on(day, "check").at(-1);
        const x = 30 + at * 16;
        return (
          <g key={day}>
            {channels.map((c, row) => {
              const out = check?.missing?.[c]?.length;
              const y = row * 22 + 6;
              if (out === undefined)
                return <line key={c} x1={x + 7} x2={x + 7} y1={y + 8} y2={y + 10} stroke="var(--hair2)" />;
              return (
                <g key={c}>
                  <rect
                    x={x}
                    y={y}
                    width={14}
                    height={18}
                    rx={2}
                    fill={out ? "var(--stop-soft)" : "var(--raise)"}
                    stroke={out ? "var(--stop)" : "var(--hair2)"}
                  />
                  {out > 0 && (
                    <text
                      x={x + 7}
                      y={y + 14}
                      fontSize={out > 9 ? 11 : 13}
                      textAnchor="middle"
                      fill="var(--stop)"
                      className="num"
                    >
                      {out}
                    </text>
                  )}
                </g>
              );
            })}
            {on(day, "cleaning").length > 0 && (
              <path d={`M${x} ${channels.length * 22 + 10}h14`} stroke="var(--act)" strokeWidth={4} />
            )}
            {at % 7 === 6 && (
              <text x={x + 7} y={channels.length * 22 + 30} fontSize={14} textAnchor="middle" fill="var(--soft)">
                {new Date(day).toLocaleDateString(locale(), { day: "numeric", month: "short" })}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
