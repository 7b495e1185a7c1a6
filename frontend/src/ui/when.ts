import { locale, say } from "../texts/say";
/** A day and a time as said in the shop: "Fri 27 Nov, 15:00". */
export function when(iso: string): string {
  const at = new Date(iso);
  const day = at.toLocaleDateString(locale(), { weekday: "short", day: "numeric", month: "short" });
  return `${day.replace(",", "")}, ${at.toLocaleTimeString(locale(), { hour: "2-digit", minute: "2-digit" })}`;
}

/** How long ago, in days: what matters for what lies in the store. */
export function daysAgo(iso: string): string {
  const days = Math.floor((Date.now() - new Date(iso).getTime()) / 86_400_000);
  return days < 1 ? say("today") : days === 1 ? say("yesterday") : say("{days} days ago", { days });
}
