import { useId, useState } from "react";
import type { Decisions } from "../api/types";
import { useShop } from "../api/useShop";
import { say } from "../texts/say";
import { useMoney } from "../ui/money";
import { Overlay } from "../ui/Overlay";
import { Button } from "../ui/parts";

type Order = Decisions["order"];
type Changes = Pick<Order, "title" | "customer" | "due" | "lines" | "quoted">;
type OrderFormProps = { open: boolean; onClose: () => void; order?: Order; onSave: (order: Changes) => void };

/** Who, what and until when: asked once, at the counter. */
export function OrderForm({ open, onClose, order, onSave }: OrderFormProps) {
  return (
    <Overlay
      title={order ? say("The order") : say("New order")}
      open={open}
      onClose={onClose}
      sub={say("Pieces by size, then the file: everything else is worked out.")}
    >
      <Fields onClose={onClose} order={order} onSave={onSave} />
    </Overlay>
  );
}

function Fields({ onClose, order, onSave }: Omit<OrderFormProps, "open">) {
  const { sign } = useMoney();
  const { shop } = useShop();
  const id = useId();
  const [title, setTitle] = useState(order?.title ?? "");
  const [customer, setCustomer] = useState(order?.customer ?? "");
  const [due, setDue] = useState(localTime(order ? new Date(order.due) : friday()));
  const [quoted, setQuoted] = useState(order?.quoted?.toString() ?? "");
  const [lines, setLines] = useState<LineDraft[]>(() => draftsOf(order));
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const blanks = shop?.blanks ?? [];
  const blankOf = (line: LineDraft) => blanks.find((b) => b.id === line.blank) ?? blanks[0];
  const change = (at: number, part: Partial<LineDraft>) =>
    setLines(lines.map((l, i) => (i === at ? { ...l, ...part } : l)));

  const save = () => {
    const found: Record<string, string> = {};
    const kept: Order["lines"] = [];
    for (const line of lines) {
      const numbers: Record<string, number> = {};
      for (const size of Object.keys(blankOf(line)?.sizes ?? {})) {
        const n = Number(line.counts[size] || 0);
        if (!Number.isInteger(n) || n < 0)
          found.counts = say("“{counts}” pieces of size {size} cannot be ordered.", {
            counts: line.counts[size],
            size,
          });
        if (n > 0) numbers[size] = n;
      }
      const blank = blankOf(line);
      if (kept.some((k) => k.blank === blank?.id))
        found.counts = say("The same blank stands here twice: put its sizes together in one.");
      if (Object.keys(numbers).length && blank) kept.push({ id: line.id, blank: blank.id, counts: numbers });
    }
    if (!found.counts && !kept.length) found.counts = say("Order at least one piece.");
    if (!title.trim()) found.title = say("Give the job a name that is said aloud in the shop.");
    if (!customer.trim()) found.customer = say("Who is it for?");
    const when = new Date(due);
    if (Number.isNaN(when.getTime())) found.due = say("Give a day and a time.");
    else if (when <= new Date() && due !== (order ? localTime(new Date(order.due)) : ""))
      found.due = say("This time has passed. Give one from now on.");
    const price = quoted.trim() ? Number(quoted.replace(",", ".")) : null;
    if (price !== null && !(price >= 0)) found.quoted = say("“{quoted}” is not a price.", { quoted });
    setWrong(found);
    if (Object.keys(found).length) return;
    onSave({
      title: title.trim(),
      customer: customer.trim(),
      due: when.toISOString(),
      lines: kept,
      quoted: price,
    });
    onClose();
  };
  return (
    <form
      className="flex flex-col gap-3"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      <Field label={say("Job")} id={`${id}-title`} value={title} onChange={setTitle} wrong={wrong.title} />
      <Field
        label={say("Customer")}
        id={`${id}-customer`}
        value={customer}
        onChange={setCustomer}
        wrong={wrong.customer}
      />
      <div className="grid grid-cols-[3fr_2fr] gap-3">
        <Field
          label={say("Due")}
          id={`${id}-due`}
          type="datetime-local"
          value={due}
          onChange={setDue}
          wrong={wrong.due}
        />
        <Field
          label={say("Quoted, {sign} a piece", { sign })}
          id={`${id}-quoted`}
          value={quoted}
          onChange={setQuoted}
          wrong={wrong.quoted}
        />
      </div>
      {lines.map((line, at) => (
        <fieldset key={line.id} className="rounded-lg border border-hair2 p-3">
          <legend className="px-1 font-semibold">
            {lines.length > 1 ? say("Blank {at}, pieces by size", { at: at + 1 }) : say("Blank, pieces by size")}
          </legend>
          <label className="sr-only" htmlFor={`${id}-blank-${at}`}>
            {lines.length > 1 ? say("Blank {at}", { at: at + 1 }) : say("Blank")}
          </label>
          <select
            id={`${id}-blank-${at}`}
            className="field"
            value={blankOf(line)?.id}
            onChange={(e) => change(at, { blank: e.target.value })}
          >
            {blanks.map((b) => (
              <option key={b.id} value={b.id}>
                {b.name}, {b.colour_name},{" "}
                {Object.entries(b.fibres ?? {})
                  .map(([f, s]) => `${Math.round(s * 100)} % ${f}`)
                  .join(", ") || (b.coated ? say("coated") : say("hard"))}
              </option>
            ))}
          </select>
          <div className="mt-2 grid grid-cols-4 gap-2">
            {Object.keys(blankOf(line)?.sizes ?? {}).map((size) => (
              <Field
                key={size}
                label={size}
                id={`${id}-${at}-${size}`}
                value={line.counts[size] ?? ""}
                onChange={(v) => change(at, { counts: { ...line.counts, [size]: v } })}
              />
            ))}
          </div>
          {lines.length > 1 && (
            <div className="mt-2">
              <Button kind="quiet" onClick={() => setLines(lines.filter((_, i) => i !== at))}>
                {say("Take this blank out")}
              </Button>
            </div>
          )}
        </fieldset>
      ))}
      {wrong.counts && (
        <p role="alert" className="text-sm text-stop">
          {wrong.counts}
        </p>
      )}
      {lines.length < 6 && (
        <div>
          <Button
            kind="quiet"
            onClick={() =>
              setLines([
                ...lines,
                { id: freeId(lines), blank: unused(blanks, lines.map(blankOf))?.id ?? "", counts: {} },
              ])
            }
          >
            {say("Another blank in the same job")}
          </Button>
        </div>
      )}
      <div className="mt-2 flex gap-2">
        <Button kind="go" type="submit">
          {order ? say("Save the order") : say("Take the order")}
        </Button>
        <Button onClick={onClose}>{say("Leave it")}</Button>
      </div>
    </form>
  );
}

type LineDraft = { id: string; blank: string; counts: Record<string, string> };

function draftsOf(order: Order | undefined): LineDraft[] {
  if (!order) return [{ id: "a", blank: "", counts: {} }];
  return order.lines.map((l) => ({
    id: l.id ?? "a",
    blank: l.blank,
    counts: Object.fromEntries(Object.entries(l.counts).map(([s, n]) => [s, String(n)])),
  }));
}

function freeId(lines: LineDraft[]): string {
  return [..."abcdefghijkl"].find((c) => lines.every((l) => l.id !== c)) ?? "z";
}

function unused<B extends { id: string }>(blanks: B[], taken: (B | undefined)[]): B | undefined {
  return blanks.find((b) => taken.every((t) => t?.id !== b.id)) ?? blanks[0];
}

type FieldProps = {
  label: string;
  id: string;
  value: string;
  onChange: (v: string) => void;
  wrong?: string | undefined;
  type?: string;
};

function Field({ label, id, value, onChange, wrong, type = "text" }: FieldProps) {
  return (
    <div>
      <label htmlFor={id} className="font-semibold">
        {label}
      </label>
      <input
        id={id}
        type={type}
        className="field"
        value={value}
        aria-invalid={Boolean(wrong)}
        aria-describedby={wrong ? `${id}-wrong` : undefined}
        onChange={(e) => onChange(e.target.value)}
      />
      {wrong && (
        <p id={`${id}-wrong`} role="alert" className="mt-1 text-sm text-stop">
          {wrong}
        </p>
      )}
    </div>
  );
}

function localTime(at: Date): string {
  const shifted = new Date(at.getTime() - at.getTimezoneOffset() * 60_000);
  return shifted.toISOString().slice(0, 16);
}

function friday(): Date {
  const day = new Date();
  day.setDate(day.getDate() + ((5 - day.getDay() + 7) % 7 || 7));
  day.setHours(15, 0, 0, 0);
  return day;
}
