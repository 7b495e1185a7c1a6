import { useState } from "react";
import { Link } from "react-router";
import { api, told } from "../api/client";
import type { AtPrinter, Due, Send } from "../api/types";
import { useMe } from "../settings/me";
import { say } from "../texts/say";
import { useHands } from "./atMachine";
import { useHotkeys } from "./keys";
import { Button, Pick } from "./parts";
import { Refused, useSaying } from "./saying";
import { several } from "./several";
import { Typed } from "./Typed";

export const MOVING: Send["state"][] = ["handing over", "waiting", "printing", "held up", "in its folder", "taken"];
const WATCHED_MS = 1_500;
const IDLE_MS = 15_000;

/** How often a printer is asked after: sooner while something is on its way. */
export function asksEvery(seen: AtPrinter | undefined): number {
  return seen?.sends?.some((s) => MOVING.includes(s.state)) ? WATCHED_MS : IDLE_MS;
}

/** From the released run to its printer: is it ready, which tray, what is asked for first; then how far it is. */
export function Sending({ seen, again }: { seen: AtPrinter | undefined; again: () => void }) {
  if (!seen?.printer) return null;
  const newest = seen.sends?.[0];
  const shown = newest && (newest.run === seen.run || MOVING.includes(newest.state) || newest.state === "unknown");
  if (seen.way === "hand" && !shown)
    return (
      <p className="text-sm text-soft">
        {say("{name} is not on the network: carry the file to it, or", { name: seen.name })}{" "}
        <Link to={`/machines/${seen.printer}`} className="font-semibold text-act underline underline-offset-2">
          {say("say how it is reached")}
        </Link>
        .
      </p>
    );
  return (
    <section
      aria-label={say("At {name}", { name: seen.name })}
      className="flex flex-col gap-2 border-t border-hair pt-3"
    >
      <h3 className="font-bold">
        {seen.name}
        {seen.said && <span className={seen.is_hindered ? "text-stop" : ""}>: {seen.said}</span>}
      </h3>
      {shown && <OnItsWay send={newest} unit={seen.unit ?? "sheet"} again={again} />}
      {!(shown && newest.state !== "not sent" && isOpen(newest)) && seen.run && <ToSend seen={seen} again={again} />}
    </section>
  );
}

export function isOpen(send: Send): boolean {
  return MOVING.includes(send.state) || send.state === "unknown";
}

function ToSend({ seen, again }: { seen: AtPrinter; again: () => void }) {
  const me = useMe();
  const { wrong, tell } = useSaying();
  const [tray, setTray] = useState("");
  const [passed, setPassed] = useState<Record<string, string>>({});
  const [isGoing, setGoing] = useState(false);
  const trays = seen.trays ?? [];
  const taken = tray || seen.tray || "";
  const chosen = trays.find((t) => t.id === taken);
  const open = (seen.care ?? []).filter((d) => !passed[d.task.id]?.trim());
  const [first = 1, count = 0] = seen.sheets ?? [1, 0];
  const canSend = me.role !== "viewer" && !open.length && !isGoing && count > 0;
  const send = async (anyway = false) => {
    setGoing(true);
    const body = { tray: taken, anyway, passed: Object.entries(passed).map(([task, reason]) => ({ task, reason })) };
    await tell(told(api.POST("/api/runs/{run_id}/sends", { params: { path: { run_id: seen.run ?? "" } }, body })));
    again();
    setGoing(false);
  };
  useHotkeys({ x: () => void (canSend && send()) });
  if (me.role === "viewer") return null;
  const where =
    seen.way === "folder" ? say("into {name}'s folder", { name: seen.name }) : say("to {name}", { name: seen.name });
  return (
    <>
      {(seen.care ?? []).map((d) => (
        <Before
          key={d.task.id}
          due={d}
          machine={seen.printer}
          put={passed[d.task.id]}
          onPut={(why) => setPassed({ ...passed, [d.task.id]: why })}
          again={again}
        />
      ))}
      {trays.length > 0 && (
        <div>
          <Pick
            label={say("From")}
            value={taken}
            options={[
              ...(taken ? [] : [{ id: "", name: say("no tray fits") }]),
              ...trays.map((t) => ({ id: t.id, name: `${t.name}${t.fits ? "" : say(" (does not fit)")}` })),
            ]}
            onChange={setTray}
          />
          {chosen && (
            <p className={`text-sm ${chosen.fits && !chosen.is_empty ? "text-soft" : "text-need"}`}>
              {chosen.said.charAt(0).toUpperCase() + chosen.said.slice(1)}.
            </p>
          )}
        </div>
      )}
      {seen.nozzles && (
        <p className={`border-l-4 pl-2 text-sm ${seen.nozzles_show ? "border-need" : "border-hair2"}`}>
          {seen.nozzles}
        </p>
      )}
      {(seen.notes ?? []).map((n) => (
        <p key={n} className="border-l-4 border-need pl-2 text-sm">
          {n}
        </p>
      ))}
      <Refused said={wrong} />
      <div className="flex flex-wrap gap-2">
        <Button kind="go" hotkey="X" disabled={!canSend} onClick={() => void send()}>
          {first > 1
            ? say("Send the rest, {sheets}, {where}", { sheets: several(count, seen.unit ?? "sheet"), where })
            : say("Send {sheets} {where}", { sheets: several(count, seen.unit ?? "sheet"), where })}
        </Button>
        {seen.is_hindered && (
          <Button disabled={!canSend} onClick={() => void send(true)}>
            {say("Send it all the same")}
          </Button>
        )}
      </div>
      {open.length > 0 && (
        <p className="text-sm text-soft">{say("First what is asked for above, or a reason why not.")}</p>
      )}
    </>
  );
}

type BeforeProps = {
  due: Due;
  machine: string;
  put: string | undefined;
  onPut: (why: string) => void;
  again: () => void;
};

/** A task of care before the first job: done, or put off for this run with a reason. */
function Before({ due, machine, put, onPut, again }: BeforeProps) {
  const hands = useHands(machine);
  const [why, setWhy] = useState<string | null>(null);
  return (
    <div className={`border-l-4 pl-3 ${put ? "border-hair2" : "border-need"}`}>
      <p>
        <span className="font-semibold">
          {say("{name}, {minutes} min.", { name: due.task.name, minutes: due.task.minutes })}
        </span>{" "}
        <span className="text-sm text-soft">
          {put
            ? say("Put off: {put}.", { put })
            : `${due.said.charAt(0).toUpperCase()}${due.said.slice(1)}. ${due.task.why}`}
        </span>
      </p>
      {due.task.caution && <p className="text-sm">{due.task.caution}</p>}
      <Refused said={hands.wrong} />
      {!put && (
        <div className="mt-1 flex flex-wrap items-end gap-2">
          <Button
            label={say("{name}: done", { name: due.task.name })}
            onClick={() =>
              void hands
                .record({ kind: "cared", task: due.task.id, outcome: "done", reason: "", totals: {} })
                .then(again)
            }
          >
            {say("Done")}
          </Button>
          {why === null ? (
            <Button kind="quiet" label={say("Put off: {name}", { name: due.task.name })} onClick={() => setWhy("")}>
              {say("Put it off")}
            </Button>
          ) : (
            <form
              className="flex items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                onPut(why.trim());
              }}
            >
              <Typed label={say("Why")} value={why} onChange={setWhy} />
              <Button type="submit" disabled={!why.trim()}>
                {say("Put it off")}
              </Button>
            </form>
          )}
        </div>
      )}
    </div>
  );
}

const SAID: Record<Send["state"], string> = {
  "handing over": say("is being sent"),
  waiting: say("waits at the printer"),
  printing: say("prints"),
  "held up": say("is held up"),
  done: say("is printed"),
  cancelled: say("was stopped"),
  failed: say("was given up by the printer"),
  "not sent": say("was not sent"),
  unknown: say("may have come out"),
  "in its folder": say("lies in its folder"),
  taken: say("was taken by its program"),
};

/** One sending, to its end; where nobody can know, a person is asked. */
function OnItsWay({ send, unit, again }: { send: Send; unit: string; again: () => void }) {
  const me = useMe();
  const { wrong, tell } = useSaying();
  const path = { send_id: send.id };
  const done = send.sheets_done ?? 0;
  const sheets = send.sheets ?? 1;
  const canStop = ["waiting", "printing", "held up", "in its folder"].includes(send.state);
  const seen = (came_out: boolean) =>
    void tell(told(api.POST("/api/sends/{send_id}/seen", { params: { path }, body: { came_out } }))).then(again);
  return (
    <div
      role="status"
      className={`border-l-4 pl-3 ${send.state === "unknown" || send.state === "not sent" || send.state === "failed" ? "border-stop" : send.state === "held up" ? "border-need" : "border-act"}`}
    >
      <p>
        <span className="font-semibold">
          {say("What {by} sent {state}.", { by: send.by, state: SAID[send.state] })}
        </span>{" "}
        {isOpen(send) && send.way === "network" && send.state !== "unknown" && (
          <span className="num">{say("{done} of {sheets}", { done, sheets: several(sheets, unit) })}</span>
        )}
      </p>
      {send.said && <p className="text-sm">{send.said}</p>}
      {(send.state === "printing" || send.state === "held up") && (
        <div className="mt-1 h-2 rounded bg-hair" aria-hidden="true">
          <div className="h-full rounded bg-act" style={{ width: `${(done / sheets) * 100}%` }} />
        </div>
      )}
      <Refused said={wrong} />
      {me.role !== "viewer" && canStop && (
        <div className="mt-1.5">
          <Button
            onClick={() => void tell(told(api.POST("/api/sends/{send_id}/cancel", { params: { path } }))).then(again)}
          >
            {send.way === "folder" ? say("Take it back") : say("Stop it")}
          </Button>
        </div>
      )}
      {me.role !== "viewer" && send.state === "unknown" && (
        <div className="mt-1.5 flex flex-wrap gap-2">
          <Button onClick={() => seen(true)}>{say("I looked: it came out")}</Button>
          <Button onClick={() => seen(false)}>{say("It did not")}</Button>
        </div>
      )}
    </div>
  );
}
