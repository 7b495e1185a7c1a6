import { useState } from "react";
import { api, told } from "../../api/client";
import type { PersonHours, Today, TodayPerson } from "../../api/types";
import { say } from "../../texts/say";
import { Overlay } from "../../ui/Overlay";
import { Button, Switch } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { clock } from "./day";

const DAYS = [
  say("Monday"),
  say("Tuesday"),
  say("Wednesday"),
  say("Thursday"),
  say("Friday"),
  say("Saturday"),
  say("Sunday"),
];
type Window = [number, number];

const minutes = (text: string) => {
  const [h, m] = text.split(":").map(Number);
  return (h ?? 0) * 60 + (m ?? 0);
};

type Days = NonNullable<Today["closed"]>[number];
type HoursProps = { person: TodayPerson; closed: Days[]; onClose: () => void; onDone: (today: Today) => void };

const DOES = [
  { id: "print", name: say("Print") },
  { id: "prepare", name: say("Powder, cure, dry") },
  { id: "cut", name: say("Cut") },
  { id: "press", name: say("Press") },
  { id: "inspect", name: say("Inspect") },
] as const;

/** When somebody is here and what they do: a week, the break in the middle of it, days off; and days that the shop is closed. */
export function Hours({ person, closed: before, onClose, onDone }: HoursProps) {
  const [closed, setClosed] = useState<Days[]>(before);
  const [hours, setHours] = useState<PersonHours>(person.hours);
  const { wrong, tell } = useSaying();
  const save = async () => {
    const own = api.PUT("/api/today/hours/{user_id}", {
      params: { path: { user_id: person.id } },
      body: hours as never,
    });
    const isSame = JSON.stringify(closed) === JSON.stringify(before);
    const ok = await tell(
      told<Today>(own)
        .then((seen) => (isSame ? seen : told<Today>(api.PUT("/api/today/closed", { body: { closed } }))))
        .then(onDone),
    );
    if (ok) onClose();
  };
  const week = hours.week as (Window | null)[];
  const put = (at: number, window: Window | null) =>
    setHours({ ...hours, week: week.map((w, i) => (i === at ? window : w)) as never });
  return (
    <Overlay
      open
      onClose={onClose}
      title={say("When {name} is here", { name: person.name })}
      sub={say("The plan uses these hands at these times alone.")}
    >
      <form
        className="flex flex-col gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <Switch
          label={say("Plan work for these hands")}
          value={hours.plans}
          onChange={(plans) => setHours({ ...hours, plans })}
        />
        {DAYS.map((day, at) => (
          <Row key={day} name={day} window={week[at] ?? null} usual={[480, 1020]} onChange={(w) => put(at, w)} />
        ))}
        <Row
          name={say("Break")}
          window={(hours.rest as Window | null) ?? null}
          usual={[750, 780]}
          onChange={(rest) => setHours({ ...hours, rest: rest as never })}
        />
        <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
          <legend className="font-semibold">
            {(hours.does ?? []).length ? say("Does") : say("Does everything; touch what it is that they do")}
          </legend>
          {DOES.map(({ id, name }) => (
            <label key={id} className="flex min-h-8 items-center gap-2">
              <input
                type="checkbox"
                checked={(hours.does ?? []).includes(id)}
                onChange={(e) =>
                  setHours({
                    ...hours,
                    does: e.target.checked ? [...(hours.does ?? []), id] : (hours.does ?? []).filter((d) => d !== id),
                  })
                }
              />
              {name}
            </label>
          ))}
        </fieldset>
        <DaysOff
          name={say("{name} is off", { name: person.name })}
          days={hours.off ?? []}
          onChange={(off) => setHours({ ...hours, off })}
        />
        <DaysOff name={say("The shop is closed")} days={closed} onChange={setClosed} />
        <Refused said={wrong} />
        <div className="mt-2 flex gap-2">
          <Button kind="go" type="submit">
            {say("Plan with it")}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
    </Overlay>
  );
}

/** Stretches of days, each from one to another. */
function DaysOff({ name, days, onChange }: { name: string; days: Days[]; onChange: (days: Days[]) => void }) {
  const today = new Date().toISOString().slice(0, 10);
  const put = (at: number, part: Partial<Days>) =>
    onChange(
      days.map((d, i) => {
        if (i !== at) return d;
        const now = { ...d, ...part };
        return now.last < now.first ? { first: part.first ?? now.last, last: part.first ?? now.last } : now;
      }),
    );
  return (
    <section aria-label={name}>
      <div className="flex items-center justify-between gap-3">
        <h3 className="font-semibold">{name}</h3>
        <Button
          kind="quiet"
          label={say("{name}: add days", { name })}
          onClick={() => onChange([...days, { first: today, last: today }])}
        >
          {say("Add days")}
        </Button>
      </div>
      {days.map((d, at) => (
        <div key={at} className="flex items-center gap-2 py-0.5">
          {(["first", "last"] as const).map((end) => (
            <input
              key={end}
              type="date"
              required
              aria-label={say("{name}, {end} day", { name, end })}
              className="field num w-40"
              value={d[end]}
              onChange={(e) => e.target.value && put(at, { [end]: e.target.value })}
            />
          ))}
          <Button
            kind="quiet"
            label={say("{name}: take these days out", { name })}
            onClick={() => onChange(days.filter((_, i) => i !== at))}
          >
            {say("Take out")}
          </Button>
        </div>
      ))}
    </section>
  );
}

type RowProps = { name: string; window: Window | null; usual: Window; onChange: (window: Window | null) => void };

function Row({ name, window, usual, onChange }: RowProps) {
  return (
    <div className="flex items-center gap-2">
      <label className="flex w-32 items-center gap-2">
        <input type="checkbox" checked={window !== null} onChange={(e) => onChange(e.target.checked ? usual : null)} />
        {name}
      </label>
      {window &&
        ([0, 1] as const).map((end) => (
          <input
            key={end}
            type="time"
            aria-label={`${name} ${end ? "until" : "from"}`}
            className="field num w-32"
            value={clock(window[end])}
            onChange={(e) => {
              const made: Window = [...window];
              made[end] = minutes(e.target.value);
              onChange(made);
            }}
          />
        ))}
    </div>
  );
}
