import type { Act } from "../../api/types";

/** An act in words. labels: slots and kinds as people call them. */
export function said(act: Act, labels: { [slot: string]: string }): string {
  const b = act.body;
  const of = (line: string | undefined, size: string | null | undefined, number?: number | null) => {
    const kind = `${line ?? "a"}/${size ?? ""}`;
    return labels[number ? `${kind}#${number}` : kind] ?? size ?? "";
  };
  switch (b.kind) {
    case "printed":
      return `printed ${b.count}${b.lot ? `, lot ${b.lot}` : ""}`;
    case "prepared":
      return `${b.stage}: ${b.count} done`;
    case "pressed": {
      const again = (b.stages ?? []).some((s) => s.again) ? ", pressed once more" : "";
      const early = (b.stages ?? []).some((s) => s.ended_early) ? ", a stage ended early" : "";
      return `pressed ${of(b.line, b.size, b.number)}${again}${early}`;
    }
    case "good":
      return `${b.count} x ${of(b.line, b.size)} good`;
    case "spoiled":
      return `${b.count} ${b.what}${b.size ? ` (${of(b.line, b.size, b.number)})` : ""} spoiled at ${b.stage}: ${b.cause}${b.outcome === "second" ? "; kept as second quality" : ""}`;
    case "resolved":
      return `chose for old work: ${{ use: "use as printed", rest: "reprint the rest", all: "reprint all" }[b.way]} (${b.reason})`;
    case "stored":
      return `${b.count} transfers into the store`;
    case "fetched":
      return `${b.count} transfers out of the store`;
    case "set-up":
      return `read the press back${b.changed?.length ? `, changed ${b.changed.join(", ").toLowerCase()}` : ""}`;
    case "renewed":
      return `took a new ${b.cover}`;
    case "signed":
      return `recorded that ${b.by} agreed to the proof${b.how ? ` (${b.how})` : ""}`;
    case "held":
      return `held the job: ${b.reason}`;
    case "resumed":
      return "took the job up again";
    case "cancelled":
      return `cancelled the job: ${b.reason}`;
    case "photographed":
      return `attached a photograph${b.note ? `: ${b.note}` : ""}`;
    case "closed":
      return b.short ? "closed the job short" : "closed the job";
    case "voided":
      return "took an act back";
  }
}
