import { useEffect, useState } from "react";

/** Keeps the screen awake where the browser allows it; says so when it does not. */
export function useWakeLock(): "held" | "refused" | "asking" {
  const [state, setState] = useState<"held" | "refused" | "asking">("asking");
  useEffect(() => {
    let lock: WakeLockSentinel | null = null;
    const ask = async () => {
      if (document.visibilityState !== "visible") return;
      try {
        lock = await navigator.wakeLock.request("screen");
        setState("held");
      } catch {
        setState("refused");
      }
    };
    if (!("wakeLock" in navigator)) setState("refused");
    else void ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
  return state;
}
