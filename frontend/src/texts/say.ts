/** Texts of the pages in their reader's language: English where they stand, another by its catalogue, which the server keeps with its own. */
import { createInstance } from "i18next";

type Values = Record<string, string | number | null | undefined>;

const SETTINGS = "offsetter.settings";
const KEPT = "offsetter.texts";
const LONGEST_MS = 5_000;
const here = createInstance();
/** Most texts hold no value, and the language stays as long as the page does. */
const plain = new Map<string, string>();
begin("en", {});

/** What this page was loaded in, by its code; empty: English. */
export const LANGUAGE = languageKept();

/** texts: English to the same; where it counts, the first form's text and the name of each form ("{count} print_few"). */
function begin(code: string, texts: Record<string, string>) {
  plain.clear();
  void here.init({
    lng: code.replace("_", "-"),
    fallbackLng: false,
    initAsync: false,
    resources: { [code.replace("_", "-")]: { translation: texts } },
    // An English text is its own key, dots and colons and all.
    keySeparator: false,
    nsSeparator: false,
    interpolation: { prefix: "{", suffix: "}", escapeValue: false },
  });
}

// Pages name their texts as they are loaded: the language is there before them. Away from the server it is as it was last.
if (LANGUAGE) await load(LANGUAGE);

async function load(code: string): Promise<void> {
  const url = `/api/welcome/texts/${encodeURIComponent(code)}`;
  try {
    const answer = await fetch(url, { signal: AbortSignal.timeout(LONGEST_MS) });
    if (answer.ok) localStorage.setItem(KEPT, JSON.stringify({ code, texts: await answer.json() }));
  } catch {
    // kept from the last time
  }
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? "{}") as { code?: string; texts?: Record<string, string> };
    if (kept.code !== code || !kept.texts) return;
    begin(code, kept.texts);
    document.documentElement.lang = code.replace("_", "-");
  } catch {
    begin("en", {});
  }
}

export function languageKept(): string {
  try {
    return (JSON.parse(localStorage.getItem(SETTINGS) ?? "{}") as { language?: string }).language ?? "";
  } catch {
    return "";
  }
}

/** text: English, the names of its values in braces. */
export function say(text: string, values?: Values): string {
  if (values) return here.t(text, { replace: filled(values) });
  const known = plain.get(text);
  if (known !== undefined) return known;
  const told = here.t(text);
  plain.set(text, told);
  return told;
}

/** The same in the form that count takes; {count} is known. */
export function sayMany(count: number, one: string, many: string, values?: Values): string {
  return here.t(one, {
    count,
    // What stands in no catalogue is English, and counts as English does.
    defaultValue: count === 1 ? one : many,
    replace: { count, ...filled(values ?? {}) },
  });
}

const filled = (values: Values) => Object.fromEntries(Object.entries(values).map(([name, v]) => [name, v ?? ""]));

/** Days are written as this language writes them. */
export const locale = () => (here.language === "en" ? "en-GB" : here.language);

/** Such as "Ada and Bo". */
export const listed = (names: string[]) => new Intl.ListFormat(locale()).format(names);

/** As a sentence begins. */
export const capitalised = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
