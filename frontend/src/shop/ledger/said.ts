import type { Act } from "../../api/types";
import { say, sayMany } from "../../texts/say";
import { worded } from "../../texts/words";

const WHAT = { transfer: say("transfer"), blank: say("blank"), piece: say("piece") };

/** An act in words. labels: slots and kinds as people call them. */
export function said(act: Act, labels: { [slot: string]: string }): string {
  const b = act.body;
  const of = (line: string | undefined, size: string | null | undefined, number?: number | null) => {
    const kind = `${line ?? "a"}/${size ?? ""}`;
    return labels[number ? `${kind}#${number}` : kind] ?? size ?? "";
  };
  switch (b.kind) {
    case "printed":
      return b.lot
        ? say("printed {count}, lot {lot}", { count: b.count, lot: b.lot })
        : say("printed {count}", { count: b.count });
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
      return say("{count} {what} spoiled at {stage}: {cause}{kept}", {
        count: b.count,
        what: b.size ? `${WHAT[b.what]} (${of(b.line, b.size, b.number)})` : WHAT[b.what],
        stage: b.stage,
        cause: b.cause,
        kept: b.outcome === "second" ? say("; kept as second quality") : "",
      });
    case "resolved":
      return say("chose for old work: {way} ({reason})", {
        way: { use: say("use as printed"), rest: say("reprint the rest"), all: say("reprint all") }[b.way],
        reason: b.reason,
      });
    case "stored":
      return sayMany(b.count, "{count} transfer into the store", "{count} transfers into the store");
    case "fetched":
      return sayMany(b.count, "{count} transfer out of the store", "{count} transfers out of the store");
    case "set-up":
      return b.changed?.length
        ? say("read the press back, changed {changed}", { changed: b.changed.join(", ").toLowerCase() })
        : say("read the press back");
    case "renewed":
      return say("took a new {cover}", { cover: worded(b.cover) });
    case "signed":
      return say("recorded that {by} agreed to the proof{how}", { by: b.by, how: b.how ? ` (${b.how})` : "" });
    case "held":
      return say("held the job: {reason}", { reason: b.reason });
    case "resumed":
      return say("took the job up again");
    case "cancelled":
      return say("cancelled the job: {reason}", { reason: b.reason });
    case "photographed":
      return b.note ? say("attached a photograph: {note}", { note: b.note }) : say("attached a photograph");
    case "closed":
      return b.short ? say("closed the job short") : say("closed the job");
    case "voided":
      return say("took an act back");
  }
}
