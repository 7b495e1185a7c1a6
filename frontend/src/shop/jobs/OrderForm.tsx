import { useId, useState } from "react";
import type { Decisions } from "../../api/types";
import { Overlay } from "../../ui/Overlay";
import { Button } from "../../ui/parts";
import { useShop } from "../useShop";

type Order = Decisions["order"];
type Changes = Pick<Order, "title" | "customer" | "due" | "line" | "quoted">;
type OrderFormProps = { open: boolean; onClose: () => void; order?: Order; onSave: (order: Changes) => void };

/** Who, what and until when: asked once, at the counter. */
export function OrderForm({ open, onClose, order, onSave }: OrderFormProps) {
  return (
    <Overlay
      title={order ? "The order" : "New order"}
      open={open}
      onClose={onClose}
      sub="Pieces by size, then the file: everything else is worked out."
    >
      <Fields onClose={onClose} order={order} onSave={onSave} />
    </Overlay>
  );
}

function Fields({ onClose, order, onSave }: Omit<OrderFormProps, "open">) {
  const { shop } = useShop();
  const id = useId();
  const [title, setTitle] = useState(order?.title ?? "");
  const [customer, setCustomer] = useState(order?.customer ?? "");
  const [due, setDue] = useState(localTime(order ? new Date(order.due) : friday()));
  const [quoted, setQuoted] = useState(order?.quoted?.toString() ?? "");
  const [blankId, setBlankId] = useState(order?.line.blank ?? "");
  const [counts, setCounts] = useState<Record<string, string>>(
    Object.fromEntries(Object.entries(order?.line.counts ?? {}).map(([s, n]) => [s, String(n)])),
  );
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const blank = shop?.blanks.find((b) => b.id === blankId) ?? shop?.blanks[0];

  const save = () => {
    const found: Record<string, string> = {};
    const numbers: Record<string, number> = {};
    for (const size of Object.keys(blank?.sizes ?? {})) {
      const n = Number(counts[size] || 0);
      if (!Number.isInteger(n) || n < 0) found.counts = `“${counts[size]}” pieces of size ${size} cannot be ordered.`;
      if (n > 0) numbers[size] = n;
    }
    if (!found.counts && !Object.keys(numbers).length) found.counts = "Order at least one piece.";
    if (!title.trim()) found.title = "Give the job a name that is said aloud in the shop.";
    if (!customer.trim()) found.customer = "Who is it for?";
    const when = new Date(due);
    if (Number.isNaN(when.getTime())) found.due = "Give a day and a time.";
    else if (when <= new Date() && due !== (order ? localTime(new Date(order.due)) : ""))
      found.due = "This time has passed. Give one from now on.";
    const price = quoted.trim() ? Number(quoted.replace(",", ".")) : null;
    if (price !== null && !(price >= 0)) found.quoted = `“${quoted}” is not a price.`;
    setWrong(found);
    if (Object.keys(found).length || !blank) return;
    onSave({
      title: title.trim(),
      customer: customer.trim(),
      due: when.toISOString(),
      line: { blank: blank.id, counts: numbers },
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
      <Field label="Job" id={`${id}-title`} value={title} onChange={setTitle} wrong={wrong.title} />
      <Field label="Customer" id={`${id}-customer`} value={customer} onChange={setCustomer} wrong={wrong.customer} />
      <div className="grid grid-cols-[3fr_2fr] gap-3">
        <Field label="Due" id={`${id}-due`} type="datetime-local" value={due} onChange={setDue} wrong={wrong.due} />
        <Field label="Quoted, € a piece" id={`${id}-quoted`} value={quoted} onChange={setQuoted} wrong={wrong.quoted} />
      </div>
      <div>
        <label htmlFor={`${id}-blank`} className="font-semibold">
          Blank
        </label>
        <select id={`${id}-blank`} className="field" value={blank?.id} onChange={(e) => setBlankId(e.target.value)}>
          {shop?.blanks.map((b) => (
            <option key={b.id} value={b.id}>
              {b.name}, {b.colour_name},{" "}
              {Object.entries(b.fibres)
                .map(([f, s]) => `${Math.round(s * 100)} % ${f}`)
                .join(", ")}
            </option>
          ))}
        </select>
      </div>
      <fieldset>
        <legend className="font-semibold">Pieces by size</legend>
        <div className="grid grid-cols-4 gap-2">
          {Object.keys(blank?.sizes ?? {}).map((size) => (
            <Field
              key={size}
              label={size}
              id={`${id}-${size}`}
              value={counts[size] ?? ""}
              onChange={(v) => setCounts({ ...counts, [size]: v })}
            />
          ))}
        </div>
        {wrong.counts && (
          <p role="alert" className="mt-1 text-sm text-stop">
            {wrong.counts}
          </p>
        )}
      </fieldset>
      <div className="mt-2 flex gap-2">
        <Button kind="go" type="submit">
          {order ? "Save the order" : "Take the order"}
        </Button>
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </form>
  );
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
