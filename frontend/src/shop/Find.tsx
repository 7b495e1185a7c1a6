import { useEffect, useRef, useState } from "react";
import { Key } from "../ui/parts";

const REST_MS = 180;

type FindProps = { label: string; value: string; onFind: (words: string) => void };

/** Found by typing: asked for when the hand rests. F goes to it, Escape empties it. */
export function Find({ label, value, onFind }: FindProps) {
  const [typed, setTyped] = useState(value);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (typed === value) return;
    const rest = setTimeout(() => onFind(typed), REST_MS);
    return () => clearTimeout(rest);
  }, [typed, value, onFind]);
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const tag = (event.target as HTMLElement).tagName;
      if (event.key !== "f" || event.ctrlKey || event.metaKey || ["INPUT", "TEXTAREA", "SELECT"].includes(tag)) return;
      if (document.querySelector('[role="dialog"]')) return;
      event.preventDefault();
      field.current?.focus();
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, []);
  return (
    <label className="flex min-w-56 grow items-center gap-2 rounded-lg border border-hair2 bg-raise px-3 focus-within:border-act">
      <span className="sr-only">{label}</span>
      <input
        ref={field}
        type="search"
        value={typed}
        placeholder={label}
        className="h-10 min-w-0 grow bg-transparent outline-none placeholder:text-soft"
        onChange={(e) => setTyped(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          setTyped("");
          e.currentTarget.blur();
        }}
      />
      <Key>F</Key>
    </label>
  );
}
