/** Texts of the pages in their reader's language: English where they stand, another by its catalogue, which the server keeps with its own. */

type Values = Record<string, string | number | null | undefined>;
/** English to the same in this language; where it counts, each of the language's forms by its name (one, few, many, other). */
type Catalogue = { texts: Record<string, string>; counted: Record<string, Record<string, string>> };

const SETTINGS = "offsetter.settings";
const KEPT = "offsetter.texts";
let catalogue: Catalogue | null = null;
let forms = new Intl.PluralRules("en");

/** Before the first page is drawn. Away from the server the language is as it was last. */
export async function loadTexts(): Promise<void> {
  const code = languageHere();
  if (!code) return;
  try {
    const answer = await fetch(`/api/welcome/texts/${code}`);
    if (answer.ok) localStorage.setItem(KEPT, JSON.stringify({ code, ...(await answer.json()) }));
  } catch {
    // kept from the last time
  }
  const kept = JSON.parse(localStorage.getItem(KEPT) ?? "null") as (Catalogue & { code: string }) | null;
  if (kept?.code !== code) return;
  catalogue = kept;
  forms = new Intl.PluralRules(code.replace("_", "-"));
}

function languageHere(): string {
  try {
    return (JSON.parse(localStorage.getItem(SETTINGS) ?? "{}") as { language?: string }).language ?? "";
  } catch {
    return "";
  }
}

/** text: English, the names of its values in braces. */
export function say(text: string, values?: Values): string {
  const told = catalogue?.texts[text] ?? text;
  return values ? filled(told, values) : told;
}

/** The same in the form that count takes; {count} is known. */
export function sayMany(count: number, one: string, many: string, values?: Values): string {
  const told = catalogue?.counted[one]?.[forms.select(count)] ?? (count === 1 ? one : many);
  return filled(told, { count, ...values });
}

const filled = (text: string, values: Values) =>
  text.replace(/\{(\w+)\}/g, (all, name: string) => (name in values ? String(values[name] ?? "") : all));
