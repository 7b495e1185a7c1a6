type TypedProps = { label: string; value: string; onChange: (v: string) => void; hint?: string };

/** A line of text that is read when its form is sent. */
export function Typed({ label, value, onChange, hint }: TypedProps) {
  return (
    <label>
      <span className="font-semibold">{label}</span>
      <input
        className="field"
        placeholder={hint}
        value={value}
        maxLength={200}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}
