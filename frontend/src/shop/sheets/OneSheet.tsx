import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, told } from "../../api/client";
import { keep } from "../../api/keep";
import type { SheetPiece, SheetView } from "../../api/types";
import { angleOf } from "../../bench/roll";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { capitalised, say } from "../../texts/say";
import { useFollowing } from "../../ui/following";
import { useHotkeys } from "../../ui/keys";
import { useMoney } from "../../ui/money";
import { Button, Choice, NumberField, Slider } from "../../ui/parts";
import { Running } from "../../ui/Running";
import { Refused, useSaying } from "../../ui/saying";
import { several } from "../../ui/several";
import { when } from "../../ui/when";
import { Laying, letterOf } from "./Laying";
import { type Move, useMoving } from "./useMoving";

const SEARCHING_MS = 900;

/** What a print at any angle is turned by at a time: each slant is a set of plates more. */
const STEP_DEG = 15;

type Turns = SheetView["lots"][number]["turns"];
/** What else of a sheet is changed. */
type Other = { gap_um?: number; by_outline?: boolean; turns?: { lot: string; to: Turns } };
const NUDGE_UM = 1000;

/** One sheet: laid to scale in the middle, what it takes and carries beside it. */
export function OneSheet({ id }: { id: string }) {
  const units = useUnits();
  const { money } = useMoney();
  const me = useMe();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const { wrong, tell: sent } = useSaying();
  const [chosen, setChosen] = useState<string | null>(null);
  const [gap, setGap] = useState<number | null>(null);
  const path = { sheet_id: id };
  const { data: sheet, error } = useQuery({
    queryKey: ["sheet", id],
    queryFn: () => told<SheetView>(api.GET("/api/sheets/{sheet_id}", { params: { path } })),
    refetchInterval: (q) => (q.state.data?.is_searching ? SEARCHING_MS : false),
    staleTime: 0,
  });
  // Refused because somebody changed it meanwhile: it is read as it is now.
  const tell = (asked: Promise<unknown>) =>
    sent(asked).then((ok) => {
      if (!ok) void queries.invalidateQueries({ queryKey: ["sheet", id] });
      return ok;
    });
  const accept = (seen: SheetView) => keep(queries, ["sheet", id], seen);
  const base = sheet?.revision ?? 0;
  const moving = useMoving(id);
  const plates = useFollowing(
    () => told<{ key: string }>(api.POST("/api/sheets/{sheet_id}/plates", { params: { path } })),
    () => void queries.invalidateQueries({ queryKey: ["sheet", id] }),
  );
  const canAct = me.role !== "viewer" && Boolean(sheet);
  const move = (to: Move) =>
    tell(
      told<SheetView>(api.POST("/api/sheets/{sheet_id}/move", { params: { path }, body: { ...to, base } })).then(
        accept,
      ),
    );
  const pin = (piece: SheetPiece) =>
    tell(
      told<SheetView>(
        api.POST("/api/sheets/{sheet_id}/pins", {
          params: { path },
          body: { piece: piece.id, out: piece.pinned, base },
        }),
      ).then(accept),
    );
  const again = (unpinned: boolean) =>
    tell(
      told<SheetView>(api.POST("/api/sheets/{sheet_id}/again", { params: { path }, body: { unpinned, base } })).then(
        accept,
      ),
    );
  const change = (copies: Record<string, number>, other: Other = {}, more: SheetView["more"] = []) =>
    sheet &&
    tell(
      told<SheetView>(
        api.PUT("/api/sheets/{sheet_id}", {
          params: { path },
          body: {
            base,
            gap_um: other.gap_um ?? null,
            by_outline: other.by_outline ?? null,
            lots: [...sheet.lots, ...more.map((l) => ({ ...l, turns: "90" as const }))]
              .map(({ job, print, slot, copies: n, turns }) => ({
                job,
                print,
                slot,
                copies: copies[keyOf({ job, print, slot })] ?? n,
                turns: other.turns?.lot === keyOf({ job, print, slot }) ? other.turns.to : turns,
              }))
              .filter((l) => l.copies > 0),
          },
        }),
      ).then(accept),
    );
  const release = () =>
    tell(
      told(api.POST("/api/sheets/{sheet_id}/run", { params: { path }, body: { base } })).then(() => {
        void queries.invalidateQueries({ queryKey: ["jobs"] });
        navigate("/sheets");
      }),
    );
  const giveUp = () =>
    tell(told(api.DELETE("/api/sheets/{sheet_id}", { params: { path } })).then(() => navigate("/sheets")));
  const lotOf = (p: SheetPiece) => sheet?.lots[p.lot];
  const piece = sheet?.pieces.find((p) => p.id === chosen) ?? null;
  const nudge = (along: number, across: number) =>
    piece &&
    canAct &&
    void move({ ...moveOf(piece), x_um: piece.x_um + across * NUDGE_UM, y_um: piece.y_um + along * NUDGE_UM });
  useHotkeys({
    escape: () => setChosen(null),
    ...(piece && canAct
      ? {
          arrowright: () => nudge(1, 0),
          arrowleft: () => nudge(-1, 0),
          arrowup: () => nudge(0, -1),
          arrowdown: () => nudge(0, 1),
          p: () => void pin(piece),
          q: () => void move(turnedOn(piece)),
        }
      : {}),
    ...(canAct ? { n: () => void again(false) } : {}),
  });
  if (error)
    return (
      <main className="grow p-6">
        <p className="text-stop">{error.message}</p>
        <p className="mt-3 flex items-center gap-3">
          <Link to="/sheets" className="font-semibold text-act underline underline-offset-2">
            {say("Back to Sheets")}
          </Link>
          {me.role !== "viewer" && (
            <Button kind="quiet" onClick={() => void giveUp()}>
              {say("Take the sheet apart")}
            </Button>
          )}
        </p>
      </main>
    );
  if (!sheet) return <main className="grow p-6 text-soft">{say("Laying it out…")}</main>;
  const amount = (um: number) =>
    sheet.room.sheet_um ? several(Math.round(um / sheet.room.sheet_um), "sheet") : units.metres(um / 1e6);
  const saves = sheet.alone_um - sheet.length_um;
  return (
    <main className="flex min-h-0 grow max-[900px]:flex-col max-[900px]:overflow-auto">
      <div className="flex min-h-0 min-w-0 grow flex-col max-[900px]:min-h-[420px]">
        <div className="px-6 pt-4">
          <h1 className="text-lg font-bold">
            {say("{pieces} of", { pieces: several(sheet.pieces.length, "print") })}{" "}
            {several(new Set(sheet.lots.map((l) => l.job)).size, "job")}{" "}
            {saves > 0
              ? say("on {amount}, {saved} less than each by itself", {
                  amount: amount(sheet.length_um),
                  saved: amount(saves),
                })
              : say("on {amount}", { amount: amount(sheet.length_um) })}
          </h1>
          <p className="text-soft">
            {sheet.mirrored
              ? say("{method} on {printer}, as it leaves the printer, mirrored", {
                  method: sheet.method,
                  printer: sheet.printer,
                })
              : say("{method} on {printer}, as it leaves the printer, not mirrored", {
                  method: sheet.method,
                  printer: sheet.printer,
                })}
            {sheet.is_searching && <span role="status"> {say("· a shorter layout is being searched for")}</span>}
          </p>
        </div>
        <Laying
          sheet={sheet}
          chosen={chosen}
          onChoose={setChosen}
          moving={moving}
          onMove={(to) => void move(to)}
          canMove={canAct}
        />
      </div>
      <aside
        aria-label={say("The sheet")}
        className="flex w-[356px] shrink-0 flex-col gap-3 overflow-auto border-l border-hair bg-panel px-5 py-4 max-[900px]:w-full max-[900px]:border-t"
      >
        {sheet.problems.map((p) => (
          <p key={p} className="border-l-4 border-stop pl-3">
            {p}.
          </p>
        ))}
        {sheet.lots
          .filter((l) => l.late)
          .map((l) => (
            <p key={keyOf(l)} className="border-l-4 border-need pl-3">
              <span className="font-semibold">{l.title}:</span> {l.late}.
            </p>
          ))}
        <Refused said={wrong} />
        {piece ? (
          <section
            aria-label={say("The chosen print")}
            className="rounded-lg border border-act bg-act-soft px-3.5 py-3"
          >
            <h2 className="font-bold">
              {say("{title}, {number} of {copies}", {
                title: sheet.lots[piece.lot]?.title,
                number: piece.number,
                copies: sheet.lots[piece.lot]?.copies,
              })}
            </h2>
            <p className="text-sm">
              {say("{width} x {height} as it lies{angle} · arrows move it by {step}", {
                width: units.length(piece.width_um / 1000),
                height: units.length(piece.height_um / 1000),
                angle: piece.slant ? say(", at {angle}°", { angle: angleOf(piece, piece.slant) }) : "",
                step: units.length(NUDGE_UM / 1000),
              })}
            </p>
            {canAct && (
              <div className="mt-2 flex flex-wrap gap-2">
                <Button hotkey="P" onClick={() => void pin(piece)}>
                  {piece.pinned ? say("Take the pin out") : say("Pin it here")}
                </Button>
                <Button hotkey="Q" onClick={() => void move(turnedOn(piece))}>
                  {say("Turn a quarter")}
                </Button>
                {sheet.room.by_outline && (
                  <Button hotkey="E" onClick={() => void move(leanedOn(piece))}>
                    {say("Turn {angle}°", { angle: STEP_DEG })}
                  </Button>
                )}
              </div>
            )}
            {canAct && lotOf(piece) && (
              <div className="mt-2.5">
                <Choice
                  label={say("The search may turn it")}
                  value={turnsOf(lotOf(piece)?.turns, sheet.room.by_outline)}
                  options={[
                    ...(sheet.room.by_outline ? [{ id: "any" as const, name: say("any way") }] : []),
                    { id: "90", name: say("by quarters") },
                    { id: "180", name: say("half round") },
                    { id: "0", name: say("not at all") },
                  ]}
                  onChange={(to) => {
                    const lot = lotOf(piece);
                    if (lot) void change({}, { turns: { lot: keyOf(lot), to } });
                  }}
                />
              </div>
            )}
          </section>
        ) : null}
        <dl className="grid grid-cols-[1fr_auto] gap-y-1">
          <dt>{sheet.room.sheet_um ? say("Sheets") : say("On the roll")}</dt>
          <dd className="num font-semibold">{amount(sheet.length_um)}</dd>
          <dt>{say("Each job by itself")}</dt>
          <dd className="num">{amount(sheet.alone_um)}</dd>
          <dt>{say("No layout takes less than")}</dt>
          <dd className="num">{amount(sheet.bound_um)}</dd>
          <dt>{say("Saves in {medium}", { medium: sheet.medium })}</dt>
          <dd className="num font-semibold">{money(sheet.saved)}</dd>
          <dt>{say("{medium} that is not print", { medium: capitalised(sheet.medium) })}</dt>
          <dd className="num">{(sheet.waste_share * 100).toFixed(0)} %</dd>
          <dt>{say("At the printer")}</dt>
          <dd className="num">{say("{minutes} min", { minutes: sheet.minutes })}</dd>
        </dl>
        <ul aria-label={say("On this sheet")} className="border-t border-hair">
          {sheet.lots.map((lot, i) => (
            <li
              key={keyOf(lot)}
              className="grid grid-cols-[22px_minmax(0,1fr)_76px] items-center gap-2 border-b border-hair py-1.5"
            >
              <span className="num font-bold">{letterOf(i)}</span>
              <span className="min-w-0">
                <Link to={`/jobs/${lot.job}/sheet`} className="block truncate font-semibold hover:underline">
                  {lot.title}
                </Link>
                <span className="block truncate text-sm text-soft">{lot.name}</span>
                <span className="block truncate text-sm text-soft">{say("due {due}", { due: when(lot.due) })}</span>
                {lot.copies !== lot.wanted && lot.wanted > 0 && (
                  <span className="block text-sm text-need">
                    {say("{wanted} are still to print", { wanted: lot.wanted })}
                  </span>
                )}
                {lot.unseen && (
                  <span className="block text-sm text-soft">
                    {say("nobody has looked at its {unseen} yet", { unseen: lot.unseen })}
                  </span>
                )}
              </span>
              <NumberField
                hideLabel
                label={say("Prints of {title}; 0 takes it off", { title: lot.title })}
                value={lot.copies}
                onDone={(n) => void change({ [keyOf(lot)]: Math.max(0, Math.min(500, Math.round(n))) })}
              />
            </li>
          ))}
        </ul>
        {canAct && sheet.more.length > 0 && (
          <ul aria-label={say("Could lie here too")} className="flex flex-col gap-1.5">
            {sheet.more.map((lot) => (
              <li key={keyOf(lot)}>
                <Button wide onClick={() => void change({}, {}, [lot])}>
                  {say("Add {copies} x {title}", { copies: lot.copies, title: lot.title })}
                </Button>
              </li>
            ))}
          </ul>
        )}
        <Choice
          label={say("Prints lie by")}
          value={sheet.room.by_outline ? "outlines" : "boxes"}
          options={[
            { id: "boxes", name: say("their boxes") },
            { id: "outlines", name: say("their outlines") },
          ]}
          onChange={(by) => void change({}, { by_outline: by === "outlines" })}
        />
        {sheet.room.by_outline && (
          <p className="-mt-1.5 text-sm text-soft">
            {say("They reach into each other: each is cut out along its own edge, by hand or by a cutter.")}
          </p>
        )}
        <Slider
          label={say("Gap between prints")}
          value={(gap ?? sheet.room.gap_um) / 1000}
          min={0}
          max={40}
          step={1}
          shown={units.length((gap ?? sheet.room.gap_um) / 1000)}
          ends={[say("less {medium}", { medium: sheet.medium }), say("easier to cut")]}
          onMove={(v) => setGap(v * 1000)}
          onDone={(v) => {
            setGap(null);
            void change({}, { gap_um: v * 1000 });
          }}
        />
        {canAct && (
          <div className="mt-auto flex flex-col gap-2 border-t border-hair pt-3">
            <div className="flex flex-wrap gap-2">
              <Button hotkey="N" onClick={() => void again(false)}>
                {say("Lay the rest anew")}
              </Button>
              {sheet.pieces.some((p) => p.pinned) && (
                <Button onClick={() => void again(true)}>{say("Take all pins out")}</Button>
              )}
            </div>
            {plates.isRunning ? (
              <Running work={plates} />
            ) : sheet.plates_ready ? (
              <Button kind="go" wide disabled={sheet.problems.length > 0} onClick={() => void release()}>
                {say("Release it as one run")}
              </Button>
            ) : (
              <Button kind="go" wide onClick={() => void plates.start()}>
                {say("Make the print files at full size")}
              </Button>
            )}
            <Button kind="quiet" onClick={() => void giveUp()}>
              {say("Take the sheet apart")}
            </Button>
          </div>
        )}
      </aside>
    </main>
  );
}

/** A little further against the clock: its plates are made anew at a slant. */
const leanedOn = (p: SheetPiece): Move => {
  const angle = (angleOf(p, p.slant) + STEP_DEG) % 360;
  return { ...moveOf(p), turned: angle % 180 >= 90, half: angle >= 180, slant: angle % 90 };
};

/** Boxes lie by quarters at most, whatever their outlines may. */
const turnsOf = (turns: Turns = "90", byOutline = false) => (turns === "any" && !byOutline ? "90" : turns);

const keyOf = (lot: { job: string; print: string; slot: string }) => `${lot.job}/${lot.print}/${lot.slot}`;

const moveOf = (p: SheetPiece): Move => ({
  piece: p.id,
  cut: p.cut,
  x_um: p.x_um,
  y_um: p.y_um,
  turned: p.turned,
  half: p.half,
  slant: p.slant,
});

/** A quarter further; a print that lies by its box goes back from there, for its label stands below it. */
const turnedOn = (p: SheetPiece): Move => ({
  ...moveOf(p),
  turned: !p.turned,
  half: p.outline.length > 0 && p.half !== p.turned,
});
