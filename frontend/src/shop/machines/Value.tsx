import { type ReactNode, useEffect, useId, useState } from "react";
import { useSettings, useUnits } from "../../settings/settings";
import { NumberField } from "../../ui/parts";

type Sourced = { sources: Record<string, string> | undefined; field: string };

/** Beside a value that nobody in the shop has looked at yet. */
export function Source({ sources, field }: Sourced) {
  const said = sources?.[field];
  return said ? <p className="text-sm text-need">{said}</p> : null;
}

type ValueProps = Sourced & { label: string; value: number; onDone: (value: number) => void };

/** A length in this person's unit, kept in mm. */
export function Length({ label, value, sources, field, onDone, fine }: ValueProps & { fine?: boolean }) {
  const units = useUnits();
  const digits = units.unit === "mm" ? (fine ? 2 : value % 1 ? 1 : 0) : fine ? 4 : 2;
  return (
    <div>
      <NumberField
        label={label}
        value={units.toShown(value)}
        unit={units.unit}
        decimals={digits}
        onDone={(v) => onDone(Math.round(units.toMm(v) * 1000) / 1000)}
      />
      <Source sources={sources} field={field} />
    </div>
  );
}

/** A temperature in this person's degrees, kept in °C. */
export function Heat({ label, value, sources, field, onDone }: ValueProps) {
  const { heat } = useSettings();
  const shown = heat === "C" ? value : (value * 9) / 5 + 32;
  const kept = (v: number) => (heat === "C" ? v : ((v - 32) * 5) / 9);
  return (
    <div>
      <NumberField label={label} value={shown} unit={`°${heat}`} onDone={(v) => onDone(kept(v))} />
      <Source sources={sources} field={field} />
    </div>
  );
}

type PlainProps = ValueProps & { unit?: string; decimals?: number; hideLabel?: boolean };

/** A figure that is kept as it is written. */
export function Plain({ label, value, sources, field, onDone, unit, decimals = 0, hideLabel = false }: PlainProps) {
  return (
    <div>
      <NumberField
        label={label}
        value={value}
        onDone={onDone}
        decimals={decimals}
        hideLabel={hideLabel}
        {...(unit ? { unit } : {})}
      />
      <Source sources={sources} field={field} />
    </div>
  );
}

type WordsProps = Partial<Sourced> & {
  label: string;
  value: string;
  onDone: (value: string) => void;
  lines?: number;
  hint?: string;
};

/** Words that are decided when they are left, or on Enter where they are one line. */
export function Words({ label, value, onDone, lines = 1, sources, field, hint }: WordsProps): ReactNode {
  const id = useId();
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const finish = () => text.trim() !== value && onDone(text.trim());
  const common = { id, className: "field", value: text, onBlur: finish, placeholder: hint };
  return (
    <div>
      <label htmlFor={id} className="font-semibold">
        {label}
      </label>
      {lines > 1 ? (
        <textarea {...common} rows={lines} onChange={(e) => setText(e.target.value)} />
      ) : (
        <input
          {...common}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter") return;
            e.stopPropagation();
            finish();
          }}
        />
      )}
      {field && <Source sources={sources} field={field} />}
    </div>
  );
}
