import { useState } from "react";
import { api, told } from "../../api/client";
import type { PersonHours, Today, TodayPerson } from "../../api/types";
import { Overlay } from "../../ui/Overlay";
import { Button, Switch } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { clock } from "./day";

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
type Window = [number, number];

const minutes = (text: string) => {
  const [h, m] = text.split(":").map(Number);
  return (h ?? 0) * 60 + (m ?? 0);
};

type HoursProps = { person: TodayPerson; onClose: () => void; onDone: (today: Today) => void };

/** When somebody is here: a week, and the break in the middle of it. */
export function Hours({ person, onClose, onDone }: HoursProps) {
  const [hours, setHours] = useState<PersonHours>(person.hours);
  const { wrong, tell } = useSaying();
  const save = async () => {
    const ok = await tell(
      told<Today>(
        api.PUT("/api/today/hours/{user_id}", { params: { path: { user_id: person.id } }, body: hours as never }),
      ).then(onDone),
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
      title={`When ${person.name} is here`}
      sub="The plan uses these hands at these times alone."
    >
      <form
        className="flex flex-col gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <Switch
          label="Plan work for these hands"
          value={hours.plans}
          onChange={(plans) => setHours({ ...hours, plans })}
        />
        {DAYS.map((day, at) => (
          <Row key={day} name={day} window={week[at] ?? null} usual={[480, 1020]} onChange={(w) => put(at, w)} />
        ))}
        <Row
          name="Break"
          window={(hours.rest as Window | null) ?? null}
          usual={[750, 780]}
          onChange={(rest) => setHours({ ...hours, rest: rest as never })}
        />
        <Refused said={wrong} />
        <div className="mt-2 flex gap-2">
          <Button kind="go" type="submit">
            Plan with it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Overlay>
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
