import type { ReactNode } from "react";
import { useMe } from "../../settings/me";
import { say, sayMany } from "../../texts/say";
import { useAtWork } from "../../ui/atMachine";
import { Button, Switch } from "../../ui/parts";
import { Refused } from "../../ui/saying";
import { Care } from "./Care";
import type { Changes, Machine } from "./machines";
import { Words } from "./Value";

type OneMachineProps = {
  machine: Machine;
  changes: Changes;
  verdict: string;
  sub: string;
  drawing: ReactNode;
  below?: ReactNode;
  children: ReactNode;
};

/** One machine: drawn to scale, its values beside it, what nobody has looked at yet said first. */
export function OneMachine({ machine, changes, verdict, sub, drawing, below, children }: OneMachineProps) {
  const me = useMe();
  const now = useAtWork(machine.id);
  const open = Object.keys(machine.sources ?? {}).length;
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_380px] max-[1100px]:grid-cols-1 max-[1100px]:overflow-auto">
      <section
        aria-label={machine.name}
        className="flex min-h-0 flex-col overflow-auto bg-bench max-[1100px]:overflow-visible"
      >
        <div className="px-6 pt-4">
          <h1 className="text-[17px] leading-snug font-bold">{verdict}</h1>
          <p className="text-sm text-soft">{sub}</p>
        </div>
        <div className={`flex flex-col ${below ? "h-[300px] shrink-0" : "min-h-[300px] grow"}`}>{drawing}</div>
        {below && <div className="px-6 pb-4">{below}</div>}
      </section>
      <aside aria-label={say("Its values")} className="min-h-0 overflow-auto border-l border-hair bg-panel px-5 py-4">
        {!("feeds" in machine || "measures" in machine) && now && <Care now={now} />}
        {open > 0 && (
          <div className="mb-4 border-l-4 border-need pl-3">
            <p className="font-semibold">
              {sayMany(open, "{count} value comes from memory", "{count} values come from memory")}
            </p>
            <p className="text-sm text-soft">{say("Put right what is different; then say that the rest is so.")}</p>
            {me.role !== "viewer" && (
              <div className="mt-1.5">
                <Button onClick={() => void changes.checked()}>{say("All of it is so here")}</Button>
              </div>
            )}
          </div>
        )}
        <Refused said={changes.wrong} />
        <fieldset disabled={me.role === "viewer"} className="flex flex-col gap-3">
          <Words label={say("Called")} value={machine.name} onDone={(name) => void changes.change({ name })} />
          {children}
          <Switch
            label={say("Retired")}
            hint={say("Offered to no new work; jobs that were made on it keep it.")}
            value={machine.retired ?? false}
            onChange={(retired) => void changes.change({ retired })}
          />
        </fieldset>
      </aside>
    </main>
  );
}
