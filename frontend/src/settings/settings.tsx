import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";

type Settings = {
  theme: "light" | "dark";
  length: "mm" | "in";
  heat: "C" | "F";
};
type Store = Settings & { change: (part: Partial<Settings>) => void };

const KEY = "offsetter.settings";
const SettingsContext = createContext<Store | null>(null);

export function useSettings(): Store {
  const store = useContext(SettingsContext);
  if (!store) throw new Error("useSettings needs a SettingsProvider");
  return store;
}

export function SettingsProvider({ children }: { children: ReactNode }) {
  const [settings, setSettings] = useState<Settings>(read);
  useEffect(() => {
    localStorage.setItem(KEY, JSON.stringify(settings));
    document.documentElement.dataset.theme = settings.theme;
  }, [settings]);
  const store = useMemo(
    () => ({ ...settings, change: (part: Partial<Settings>) => setSettings((s) => ({ ...s, ...part })) }),
    [settings],
  );
  return <SettingsContext.Provider value={store}>{children}</SettingsContext.Provider>;
}

function read(): Settings {
  const dark = window.matchMedia("(prefers-color-scheme: dark)").matches;
  const fallback: Settings = { theme: dark ? "dark" : "light", length: "mm", heat: "C" };
  try {
    return { ...fallback, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Settings>) };
  } catch {
    return fallback;
  }
}

const MM_PER_INCH = 25.4;

const MILLIMETRES = /(\d+(?:\.\d+)?)(?: x (\d+(?:\.\d+)?))? mm\b/g;

function inInches(_: string, one: string, two: string | undefined): string {
  const inches = (mm: string) => (Number(mm) / MM_PER_INCH).toFixed(Number(mm) < 10 ? 3 : 2);
  return two === undefined ? `${inches(one)} in` : `${inches(one)} x ${inches(two)} in`;
}

/** Words for lengths and temperatures in the units this person reads. */
export function useUnits() {
  const { length, heat } = useSettings();
  return useMemo(
    () => ({
      unit: length,
      length: (mm: number, digits = 0) =>
        length === "mm" ? `${mm.toFixed(digits)} mm` : `${(mm / MM_PER_INCH).toFixed(digits + 2)} in`,
      /** A sentence of the server's, its millimetres in this person's units. */
      say: (sentence: string) => (length === "mm" ? sentence : sentence.replace(MILLIMETRES, inInches)),
      metres: (m: number) => (length === "mm" ? `${m.toFixed(2)} m` : `${(m / 0.9144).toFixed(2)} yd`),
      toShown: (mm: number) => (length === "mm" ? mm : mm / MM_PER_INCH),
      toMm: (shown: number) => (length === "mm" ? shown : shown * MM_PER_INCH),
      heat: (celsius: number) =>
        heat === "C" ? `${Math.round(celsius)} °C` : `${Math.round((celsius * 9) / 5 + 32)} °F`,
      bothHeats: (celsius: number) => {
        const c = `${Math.round(celsius)} °C`;
        const f = `${Math.round((celsius * 9) / 5 + 32)} °F`;
        return heat === "C" ? `${c} (${f})` : `${f} (${c})`;
      },
    }),
    [length, heat],
  );
}
