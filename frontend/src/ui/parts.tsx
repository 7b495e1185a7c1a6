import { Slider as RadixSlider, Switch as RadixSwitch, ToggleGroup } from "radix-ui";
import { type ReactNode, useCallback, useEffect, useId, useRef, useState } from "react";
import type { Finding, State } from "../api/types";
import { say } from "../texts/say";
import { worded } from "../texts/words";

export function Key({ children }: { children: ReactNode }) {
  return <kbd className="num rounded border border-current px-1 text-sm font-semibold">{children}</kbd>;
}

type ButtonProps = {
  children: ReactNode;
  onClick?: () => void;
  kind?: "go" | "plain" | "quiet" | "stop";
  hotkey?: string;
  disabled?: boolean;
  type?: "button" | "submit";
  label?: string;
  wide?: boolean;
};

export function Button({
  children,
  onClick,
  kind = "plain",
  hotkey,
  disabled,
  type = "button",
  label,
  wide,
}: ButtonProps) {
  const look = {
    go: "bg-act text-on-act border-act",
    plain: "bg-raise text-ink border-hair2",
    quiet: "bg-transparent text-act border-transparent underline-offset-4 hover:underline",
    stop: "bg-raise text-stop border-stop",
  }[kind];
  return (
    <button
      type={type}
      onClick={onClick}
      disabled={disabled}
      aria-label={label}
      className={`inline-flex min-h-10 items-center justify-center gap-2 rounded-lg border px-3.5 py-1.5 text-left font-semibold leading-tight disabled:border-hair disabled:bg-transparent disabled:text-soft ${look} ${wide ? "w-full" : ""}`}
    >
      {children}
      {hotkey && <Key>{hotkey}</Key>}
    </button>
  );
}

type SliderProps = {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  shown: string;
  ends?: [string, string];
  onMove: (value: number) => void;
  onDone: (value: number) => void;
};

const KEYS_REST_MS = 350;

/** A run of arrow keys is one gesture: decided when the keys rest, or at once when a pointer lets go. */
function useGesture(onDone: (value: number) => void) {
  const pending = useRef<{ value: number; timer: ReturnType<typeof setTimeout> } | null>(null);
  const isPointer = useRef(false);
  const latest = useRef(onDone);
  latest.current = onDone;
  const flush = useCallback(() => {
    if (!pending.current) return;
    clearTimeout(pending.current.timer);
    const { value } = pending.current;
    pending.current = null;
    latest.current(value);
  }, []);
  useEffect(() => flush, [flush]);
  const commit = (value: number) => {
    if (pending.current) clearTimeout(pending.current.timer);
    pending.current = { value, timer: setTimeout(flush, KEYS_REST_MS) };
    if (isPointer.current) flush();
    isPointer.current = false;
  };
  return { commit, flush, onPointerDown: () => (isPointer.current = true) };
}

/** Moves live while dragged, is decided when let go: one revision a gesture. */
export function Slider({ label, value, min, max, step, shown, ends, onMove, onDone }: SliderProps) {
  const id = useId();
  const gesture = useGesture(onDone);
  return (
    <div>
      <div className="flex items-baseline justify-between gap-2">
        <span id={id} className="font-semibold">
          {label}
        </span>
        <span className="num">{shown}</span>
      </div>
      <RadixSlider.Root
        className="relative flex h-7 touch-none select-none items-center"
        min={min}
        max={max}
        step={step}
        value={[value]}
        onValueChange={([v]) => v !== undefined && onMove(v)}
        onValueCommit={([v]) => v !== undefined && gesture.commit(v)}
        onPointerDown={gesture.onPointerDown}
        onBlur={gesture.flush}
      >
        <RadixSlider.Track className="relative h-[3px] grow rounded bg-hair2">
          <RadixSlider.Range className="absolute h-full rounded bg-act" />
        </RadixSlider.Track>
        <RadixSlider.Thumb
          aria-labelledby={id}
          aria-valuetext={shown}
          className="block size-5 rounded-full border-[2.5px] border-act bg-raise"
        />
      </RadixSlider.Root>
      {ends && (
        <div className="flex justify-between text-sm text-soft">
          <span>{ends[0]}</span>
          <span>{ends[1]}</span>
        </div>
      )}
    </div>
  );
}

type NumberProps = {
  label: string;
  value: number;
  unit?: string;
  error?: string | undefined;
  onDone: (value: number) => void;
  hideLabel?: boolean;
  decimals?: number;
};

/** A typed number: decided on Enter or when left; what cannot be a number is said at the field and not sent. */
export function NumberField({ label, value, unit, error, onDone, hideLabel, decimals = 0 }: NumberProps) {
  const id = useId();
  const [text, setText] = useState(value.toFixed(decimals));
  const [own, setOwn] = useState("");
  useEffect(() => setText(value.toFixed(decimals)), [value, decimals]);
  const finish = () => {
    const number = Number(text.replace(",", "."));
    if (text.trim() === "" || !Number.isFinite(number)) {
      setOwn(say("“{text}” is not a number.", { text }));
      return;
    }
    setOwn("");
    if (number.toFixed(decimals) !== value.toFixed(decimals)) onDone(number);
  };
  const wrong = own || error;
  return (
    <div>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "font-semibold"}>
        {label}
      </label>
      <div className="flex items-center gap-1.5">
        <input
          id={id}
          className="field num"
          inputMode="decimal"
          value={text}
          aria-invalid={Boolean(wrong)}
          aria-describedby={wrong ? `${id}-wrong` : undefined}
          onChange={(e) => setText(e.target.value)}
          onBlur={finish}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              e.stopPropagation();
              finish();
            }
          }}
        />
        {unit && <span className="text-soft">{unit}</span>}
      </div>
      {wrong && (
        <p id={`${id}-wrong`} className="mt-1 text-sm text-stop" role="alert">
          {wrong}
        </p>
      )}
    </div>
  );
}

type ChoiceProps<T extends string> = {
  label: string;
  value: T;
  options: { id: T; name: string }[];
  onChange: (value: T) => void;
  hideLabel?: boolean;
};

/** Before each id: to the group of buttons an empty value is that none is pressed, to us it is one of them. */
const IS = "is ";

export function Choice<T extends string>({ label, value, options, onChange, hideLabel }: ChoiceProps<T>) {
  const id = useId();
  return (
    <div>
      <span id={id} className={hideLabel ? "sr-only" : "mb-1 block font-semibold"}>
        {label}
      </span>
      <ToggleGroup.Root
        type="single"
        value={`${IS}${value}`}
        aria-labelledby={id}
        onValueChange={(v) => v && onChange(v.slice(IS.length) as T)}
        className="inline-flex w-full rounded-lg border border-hair2 bg-raise p-[3px]"
      >
        {options.map((o) => (
          <ToggleGroup.Item
            key={o.id}
            value={`${IS}${o.id}`}
            className="grow rounded-md px-2.5 py-1 text-sm font-medium text-ink data-[state=on]:bg-act data-[state=on]:font-semibold data-[state=on]:text-on-act"
          >
            {o.name}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  );
}

export function Pick<T extends string>({ label, value, options, onChange }: ChoiceProps<T>) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className="font-semibold">
        {label}
      </label>
      <select id={id} className="field" value={value} onChange={(e) => onChange(e.target.value as T)}>
        {options.map((o) => (
          <option key={o.id} value={o.id}>
            {o.name}
          </option>
        ))}
      </select>
    </div>
  );
}

type SwitchProps = { label: string; hint?: string; value: boolean; onChange: (value: boolean) => void };

export function Switch({ label, hint, value, onChange }: SwitchProps) {
  const id = useId();
  return (
    <div className="flex items-start justify-between gap-3">
      <label htmlFor={id}>
        <span className="block font-semibold">{label}</span>
        {hint && <span className="block text-sm text-soft">{hint}</span>}
      </label>
      <RadixSwitch.Root
        id={id}
        checked={value}
        onCheckedChange={onChange}
        className="relative mt-0.5 h-7 w-13 shrink-0 rounded-full border border-hair2 bg-raise data-[state=checked]:border-act data-[state=checked]:bg-act"
      >
        <RadixSwitch.Thumb className="block size-5 translate-x-1 rounded-full bg-hair2 transition-transform data-[state=checked]:translate-x-[26px] data-[state=checked]:bg-on-act" />
      </RadixSwitch.Root>
    </div>
  );
}

type NoteProps = {
  finding: Finding;
  onPatch?: ((finding: Finding) => void) | undefined;
  hotkey?: string | undefined;
};

/** One finding: what, why, and the fix that one key applies. */
export function Note({ finding, onPatch, hotkey }: NoteProps) {
  const edge = { note: "border-hair2", caution: "border-need", blocker: "border-stop" }[finding.severity];
  const word = { note: "", caution: say("Caution: "), blocker: say("Stop: ") }[finding.severity];
  return (
    <div className={`border-l-4 pl-3 ${edge}`}>
      <p className="font-semibold leading-snug">
        {word && <span className={finding.severity === "blocker" ? "text-stop" : "text-need"}>{word}</span>}
        {finding.is_new && <span className="text-need">{say("new since you said yes:")} </span>}
        {finding.message}
      </p>
      <p className="text-sm text-soft">{finding.why}</p>
      {finding.fix_text && !finding.patch && <p className="text-sm">{finding.fix_text}</p>}
      {finding.patch && onPatch && (
        <div className="mt-1.5">
          <Button onClick={() => onPatch(finding)} {...(hotkey ? { hotkey } : {})}>
            {finding.fix_text}
          </Button>
        </div>
      )}
    </div>
  );
}

const STATE_LOOK: Record<State, { colour: string; shape: ReactNode }> = {
  done: { colour: "text-done", shape: <path d="M1 6l3 3 6-7" fill="none" stroke="currentColor" strokeWidth="2.2" /> },
  "needs you": { colour: "text-need", shape: <path d="M5.5 0.5L10.5 5.5L5.5 10.5L0.5 5.5Z" fill="currentColor" /> },
  blocked: { colour: "text-stop", shape: <path d="M1 1h9v9h-9z" fill="currentColor" /> },
  ready: {
    colour: "text-act",
    shape: <circle cx="5.5" cy="5.5" r="4" fill="none" stroke="currentColor" strokeWidth="2.2" />,
  },
  open: {
    colour: "text-soft",
    shape: <circle cx="5.5" cy="5.5" r="4" fill="none" stroke="currentColor" strokeWidth="1.2" />,
  },
  "out of date": {
    colour: "text-old",
    shape: (
      <circle cx="5.5" cy="5.5" r="4" fill="none" stroke="currentColor" strokeWidth="2.2" strokeDasharray="3.2 2" />
    ),
  },
  "not needed": { colour: "text-soft", shape: <path d="M1 5.5H10" stroke="currentColor" strokeWidth="2" /> },
};

/** A state as shape and word: never by colour alone. */
export function StateMark({ state, wordless }: { state: State; wordless?: boolean }) {
  const look = STATE_LOOK[state];
  return (
    <span className={`inline-flex items-center gap-1 whitespace-nowrap text-sm font-semibold ${look.colour}`}>
      <svg width="11" height="11" viewBox="0 0 11 11" aria-hidden="true">
        {look.shape}
      </svg>
      {wordless ? <span className="sr-only">{worded(state)}</span> : worded(state)}
    </span>
  );
}
