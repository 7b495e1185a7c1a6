import { useEffect, useRef } from "react";

const HOLD_MS = 1_000;

type Hands = { onPress: () => void; onHold: () => void };

/** Space: a tap goes on, a second's hold asks. It never scrolls and never presses the button that has the focus. */
export function useSpace({ onPress, onHold }: Hands) {
  const latest = useRef({ onPress, onHold });
  latest.current = { onPress, onHold };
  useEffect(() => {
    let hold: ReturnType<typeof setTimeout> | null = null;
    let wasHeld = false;
    const down = (e: KeyboardEvent) => {
      if (e.key !== " " || (e.target as HTMLElement).tagName === "INPUT" || document.querySelector('[role="dialog"]'))
        return;
      e.preventDefault();
      if (e.repeat || hold) return;
      wasHeld = false;
      hold = setTimeout(() => {
        wasHeld = true;
        latest.current.onHold();
      }, HOLD_MS);
    };
    const up = (e: KeyboardEvent) => {
      if (e.key !== " " || !hold) return;
      e.preventDefault();
      clearTimeout(hold);
      hold = null;
      if (!wasHeld) latest.current.onPress();
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      if (hold) clearTimeout(hold);
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
}

/** The same for a hand without keys: the button held for a second. The click that ends a hold does nothing more. */
export function useHold({ onPress, onHold }: Hands) {
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const wasHeld = useRef(false);
  const stop = () => {
    if (timer.current) clearTimeout(timer.current);
    timer.current = null;
  };
  return {
    onPointerDown: () => {
      wasHeld.current = false;
      timer.current = setTimeout(() => {
        wasHeld.current = true;
        onHold();
      }, HOLD_MS);
    },
    onPointerUp: stop,
    onPointerLeave: stop,
    onClick: () => {
      if (!wasHeld.current) onPress();
      wasHeld.current = false;
    },
  };
}
