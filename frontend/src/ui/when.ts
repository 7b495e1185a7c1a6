/** A day and a time as said in the shop: "Fri 27 Nov, 15:00". */
export function when(iso: string): string {
  const at = new Date(iso);
  const day = at.toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short" });
  return `${day.replace(",", "")}, ${at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`;
}
