import { useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";

type Settings = {
  theme: "light" | "dark";
  length: "mm" | "in";
  heat: "C" | "F";
  /** Of what the shop's computer says, by its code; empty: English. */
  language: string;
};
type Store = Settings & { change: (part: Partial<Settings>) => void };

const KEY = "offsetter.settings";
/** The server says its sentences in these. */
const UNITS = "offsetter-units";
function tell({ length, heat, language }: Settings) {
  // biome-ignore lint/suspicious/noDocumentCookie: what would set it otherwise is not in every browser
  document.cookie = `${UNITS}=${length}-${heat}${language && `-${language}`}; path=/; max-age=31536000; samesite=strict`;
}
const SettingsContext = createContext<Store | null>(null);

export function useSettings(): Store {
  const store = useContext(SettingsContext);
  if (!store) throw new Error("useSettings needs a SettingsProvider");
  return store;
}

export function SettingsProvider({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const [settings, setSettings] = useState<Settings>(() => {
    const kept = read();
    tell(kept); // before the first question is asked
    return kept;
  });
  useEffect(() => {
    document.documentElement.dataset.theme = settings.theme;
  }, [settings]);
  const store = useMemo(
    () => ({
      ...settings,
      change: (part: Partial<Settings>) => {
        const next = { ...settings, ...part };
        setSettings(next);
        localStorage.setItem(KEY, JSON.stringify(next));
        if (next.length === settings.length && next.heat === settings.heat && next.language === settings.language)
          return;
        tell(next);
        void queries.invalidateQueries();
      },
    }),
    [settings, queries],
  );
  return <SettingsContext.Provider value={store}>{children}</SettingsContext.Provider>;
}

function read(): Settings {
  const dark = window.matchMedia("(prefers-color-scheme: dark)").matches;
  const fallback: Settings = { theme: dark ? "dark" : "light", length: "mm", heat: "C", language: "" };
  try {
    return { ...fallback, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Settings>) };
  } catch {
    return fallback;
  }
}

const MM_PER_INCH = 25.4;
const M_PER_YARD = 0.9144;

/** Words for lengths and temperatures in the units this person reads. */
export function useUnits() {
  const { length, heat } = useSettings();
  return useMemo(
    () => ({
      unit: length,
      length: (mm: number, digits = 0) =>
        length === "mm" ? `${mm.toFixed(digits)} mm` : `${(mm / MM_PER_INCH).toFixed(digits + 2)} in`,
      size: (width: number, height: number) =>
        length === "mm"
          ? `${width.toFixed(0)} x ${height.toFixed(0)} mm`
          : `${(width / MM_PER_INCH).toFixed(2)} x ${(height / MM_PER_INCH).toFixed(2)} in`,
      metres: (m: number) => (length === "mm" ? `${m.toFixed(2)} m` : `${(m / M_PER_YARD).toFixed(2)} yd`),
      /** A figure with its unit, where readers differ in it. */
      figure: (value: number, unit: string): [number, string] => {
        if (length === "mm") return [value, unit];
        if (unit === "m") return [value / M_PER_YARD, "yd"];
        if (unit === "m²") return [value / M_PER_YARD ** 2, "sq yd"];
        return unit === "cm²" ? [value / (MM_PER_INCH / 10) ** 2, "sq in"] : [value, unit];
      },
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
