import { useState } from "react";
import type { AtWork, Due } from "../../api/types";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { useHands } from "../../ui/atMachine";
import { Button, NumberField } from "../../ui/parts";
import { Refused } from "../../ui/saying";
import { Typed } from "../../ui/Typed";
import { when } from "../../ui/when";

/** What a machine wants done: what is due first, then what comes, as shares of their intervals. */
export function Care({ now }: { now: AtWork }) {
  const me = useMe();
  const hands = useHands(now.machine);
  const care = now.care ?? [];
  const due = care.filter((d) => d.state === "due");
  const rest = care.filter((d) => d.state !== "due");
  return (
    <section aria-label={say("Care")} className="mb-5">
      <h2 className="text-lg font-bold">{due.length ? say("To do") : say("Nothing waits to be done")}</h2>
      <Refused said={hands.wrong} />
      <ul className="flex flex-col gap-3">
        {due.map((d) => (
          <li key={d.task.id}>
            <DueTask due={d} hands={hands} />
          </li>
        ))}
      </ul>
      <ul className="mt-3 flex flex-col gap-2 border-t border-hair pt-3">
        {rest.map((d) => (
          <li key={d.task.id}>
            <Coming due={d} hands={hands} />
          </li>
        ))}
      </ul>
      {(now.care_off ?? []).map(([id, name]) => (
        <p key={String(id)} className="mt-1 text-sm text-soft">
          {say("{name}: not wanted here.", { name })}{" "}
          {me.role !== "viewer" && (
            <button
              type="button"
              className="text-act underline underline-offset-2"
              onClick={() => void hands.set(String(id), { days: null, every: null, is_off: false })}
            >
              {say("Wanted after all")}
              <span className="sr-only">: {name}</span>
            </button>
          )}
        </p>
      ))}
      <RoomNote now={now} hands={hands} />
      <p className="mt-2">
        <a href="/api/at-work/care.ics" className="font-semibold text-act underline underline-offset-2">
          {say("Care as a calendar")}
        </a>
      </p>
    </section>
  );
}

type Hands = ReturnType<typeof useHands>;

export function DueTask({ due, hands }: { due: Due; hands: Hands }) {
  const me = useMe();
  const [why, setWhy] = useState<string | null>(null);
  const { task } = due;
  const record = (outcome: "done" | "skipped", reason = "") =>
    void hands.record({ kind: "cared", task: task.id, outcome, reason, totals: {} });
  return (
    <div className={`border-l-4 pl-3 ${due.skipped_today ? "border-hair2" : "border-need"}`}>
      <h3 className="font-semibold">{say("{name}, {minutes} min", { name: task.name, minutes: task.minutes })}</h3>
      <p className="text-sm text-soft">
        {due.skipped_today
          ? say("Skipped today: {skipped_why}. {cost}", { skipped_why: due.skipped_why, cost: due.cost })
          : `${sentence(due.said)}. ${task.why}`}
      </p>
      {!due.skipped_today && due.skipped_at && (
        <p className="text-sm text-need">{say("Skipped before. {cost}", { cost: due.cost })}</p>
      )}
      <Steps due={due} hands={hands} />
      {me.role !== "viewer" && (
        <div className="mt-1.5 flex flex-wrap items-end gap-2">
          <Button onClick={() => record("done")}>{say("Done")}</Button>
          {why === null ? (
            !due.skipped_today && (
              <Button kind="quiet" onClick={() => setWhy("")}>
                {say("Skip it")}
              </Button>
            )
          ) : (
            <form
              className="flex items-end gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                record("skipped", why);
                setWhy(null);
              }}
            >
              <Typed label={say("Why")} value={why} onChange={setWhy} />
              <Button type="submit" disabled={!why.trim()}>
                {say("Skip it")}
              </Button>
            </form>
          )}
        </div>
      )}
    </div>
  );
}

function Steps({ due, hands }: { due: Due; hands: Hands }) {
  const me = useMe();
  const { task } = due;
  return (
    <details className="mt-0.5">
      <summary className="cursor-pointer text-sm font-semibold text-act">{say("How")}</summary>
      <ol className="list-decimal pl-5 text-sm">
        {task.steps.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ol>
      {task.part && <p className="text-sm text-soft">{say("Parts: {part}", { part: task.part })}</p>}
      {task.caution && (
        <p className="mt-1 border-l-4 border-stop pl-2 text-sm">
          <span className="font-semibold">{say("Take care.")}</span> {task.caution}
        </p>
      )}
      {me.role !== "viewer" && <Interval due={due} hands={hands} />}
    </details>
  );
}

const UNITS = { m2: say("m²"), prints: say("prints"), presses: say("pressings"), cut_m: say("m of cut") } as const;

/** How often it is done here: from memory until the shop has said so. */
function Interval({ due, hands }: { due: Due; hands: Hands }) {
  const { task } = due;
  const use = (Object.keys(UNITS) as (keyof typeof UNITS)[]).find((u) => task[u] != null);
  const own = { days: task.days ?? null, every: use ? (task[use] ?? null) : null, is_off: false };
  return (
    <div className="mt-1 flex flex-wrap items-end gap-2">
      {task.days != null && (
        <div className="w-28">
          <NumberField
            label={say("Every")}
            unit={say("days")}
            value={task.days}
            onDone={(v) => v >= 1 && void hands.set(task.id, { ...own, days: Math.round(v) })}
          />
        </div>
      )}
      {use && (
        <div className="w-36">
          <NumberField
            label={task.days != null ? say("or after") : say("After")}
            unit={UNITS[use]}
            value={task[use] ?? 0}
            onDone={(v) => v > 0 && void hands.set(task.id, { ...own, every: v })}
          />
        </div>
      )}
      <Button
        kind="quiet"
        label={say("Not wanted here: {name}", { name: task.name })}
        onClick={() => void hands.set(task.id, { ...own, is_off: true })}
      >
        {say("Not wanted here")}
      </Button>
    </div>
  );
}

function Coming({ due, hands }: { due: Due; hands: Hands }) {
  const me = useMe();
  const share = Math.min(1, due.share);
  return (
    <div>
      <div className="flex items-baseline justify-between gap-2">
        <span>{due.task.name}</span>
        <span className="num shrink-0 text-sm text-soft">{due.said}</span>
      </div>
      <div className="h-1.5 rounded bg-hair" aria-hidden="true">
        <div
          className={`h-full rounded ${due.state === "soon" ? "bg-need" : "bg-act"}`}
          style={{ width: `${share * 100}%` }}
        />
      </div>
      <div className="flex items-baseline justify-between gap-2">
        <span className="text-sm text-soft">
          {due.done_at
            ? say("{done_at} by {done_by}", { done_at: when(due.done_at), done_by: due.done_by })
            : say("not noted yet")}
        </span>
        {me.role !== "viewer" && (
          <Button
            kind="quiet"
            label={say("Done now: {name}", { name: due.task.name })}
            onClick={() =>
              void hands.record({ kind: "cared", task: due.task.id, outcome: "done", reason: "", totals: {} })
            }
          >
            {say("Done now")}
          </Button>
        )}
      </div>
      <Steps due={due} hands={hands} />
    </div>
  );
}

function RoomNote({ now, hands }: { now: AtWork; hands: Hands }) {
  const me = useMe();
  const [open, setOpen] = useState(false);
  const [celsius, setCelsius] = useState(22);
  const [humidity, setHumidity] = useState(50);
  return (
    <div className={`mt-3 border-l-4 pl-3 ${now.room_is_right ? "border-hair2" : "border-need"}`}>
      <p>
        <span className="font-semibold">{say("The room.")}</span> {now.room || say("Nobody has noted it.")}
      </p>
      <p className="text-sm text-soft">{say("Good: 20 to 25 °C, 40 to 60 % humidity (from memory).")}</p>
      {me.role !== "viewer" &&
        (open ? (
          <form
            className="mt-1 flex flex-wrap items-end gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void hands.record({ kind: "room", celsius, humidity_pct: humidity }).then((ok) => ok && setOpen(false));
            }}
          >
            <div className="w-24">
              <NumberField label={say("Air")} unit="°C" decimals={1} value={celsius} onDone={setCelsius} />
            </div>
            <div className="w-24">
              <NumberField label={say("Humidity")} unit="%" value={humidity} onDone={setHumidity} />
            </div>
            <Button type="submit">{say("Note it")}</Button>
          </form>
        ) : (
          <Button kind="quiet" onClick={() => setOpen(true)}>
            {say("Note the room")}
          </Button>
        ))}
    </div>
  );
}

function sentence(said: string): string {
  return said.charAt(0).toUpperCase() + said.slice(1);
}
