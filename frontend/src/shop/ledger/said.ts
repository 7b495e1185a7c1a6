import type { Act } from "../../api/types";
import { say } from "../../texts/say";

/** An act in words. labels: slots and kinds as people call them. */
export function said(act: Act, labels: { [slot: string]: string }): string {
  const b = act.body;
  const of = (line: string | undefined, size: string | null | undefined, number?: number | null) => {
    const kind = `${line ?? "a"}/${size ?? ""}`;
    return labels[number ? `${kind}#${number}` : kind] ?? size ?? "";
  };
  switch (b.kind) {
    case "printed":
      return say("printed {count}{which}", { count: b.count, which: b.lot ? say(", lot {lot}", { lot: b.lot }) : "" });
    case "prepared":
      return say("{stage}: {count} done", { stage: b.stage, count: b.count });
    case "pressed": {
      const again = (b.stages ?? []).some((s) => s.again) ? say(", pressed once more") : "";
      const early = (b.stages ?? []).some((s) => s.ended_early) ? say(", a stage ended early") : "";
      return say("pressed {of}{again}{early}", { of: of(b.line, b.size, b.number), again, early });
    }
    case "good":
      return say("{count} x {of} good", { count: b.count, of: of(b.line, b.size) });
    case "spoiled":
      return say("{count} {what}{which} spoiled at {stage}: {cause}{which2}", {
        count: b.count,
        what: b.what,
        which: b.size ? ` (${of(b.line, b.size, b.number)})` : "",
        stage: b.stage,
        cause: b.cause,
        which2: b.outcome === "second" ? say("; kept as second quality") : "",
      });
    case "resolved":
      return say("chose for old work: {value} ({reason})", {
        value: { use: "use as printed", rest: "reprint the rest", all: "reprint all" }[b.way],
        reason: b.reason,
      });
    case "stored":
      return say("{count} transfers into the store", { count: b.count });
    case "fetched":
      return say("{count} transfers out of the store", { count: b.count });
    case "set-up":
      return say("read the press back{which}", {
        which: b.changed?.length ? say(", changed {changed}", { changed: b.changed.join(", ").toLowerCase() }) : "",
      });
    case "renewed":
      return say("took a new {cover}", { cover: b.cover });
    case "signed":
      return say("recorded that {by} agreed to the proof{which}", { by: b.by, which: b.how ? ` (${b.how})` : "" });
    case "held":
      return say("held the job: {reason}", { reason: b.reason });
    case "resumed":
      return say("took the job up again");
    case "cancelled":
      return say("cancelled the job: {reason}", { reason: b.reason });
    case "photographed":
      return say("attached a photograph{which}", { which: b.note ? `: ${b.note}` : "" });
    case "closed":
      return b.short ? say("closed the job short") : say("closed the job");
    case "voided":
      return say("took an act back");
  }
}
