import { useEffect } from "react";

export type Hotkeys = Record<string, () => void>;

/** Keys of the page; silent while somebody types or an overlay is open. */
export function useHotkeys(keys: Hotkeys, isOn = true) {
  useEffect(() => {
    if (!isOn) return;
    const pressed = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
      const at = event.target as HTMLElement;
      const tag = at.tagName;
      if (tag === "INPUT" || tag === "TEXTAREA" || tag === "SELECT" || document.querySelector('[role="dialog"]'))
        return;
      // Enter and space belong to the control that has the focus.
      if ((event.key === "Enter" || event.key === " ") && (tag === "BUTTON" || tag === "A" || at.getAttribute("role")))
        return;
      if (event.key.startsWith("Arrow") && at.getAttribute("role")) return;
      const name = event.shiftKey && event.key.length === 1 ? `Shift+${event.key.toUpperCase()}` : event.key;
      const action = keys[name] ?? (event.shiftKey ? keys[event.key] : undefined) ?? keys[event.key.toLowerCase()];
      if (!action) return;
      event.preventDefault();
      action();
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [keys, isOn]);
}
