import { useMemo } from "react";
import type { Finding, Station } from "../api/types";
import type { JobLine } from "../line/useJobLine";
import { useMe } from "../settings/me";
import { say } from "../texts/say";
import { useHotkeys } from "../ui/keys";
import { Note } from "../ui/parts";

/** An empty bench that says what it waits for. */
export function Waits({ station }: { station: Station }) {
  return (
    <div className="grid grow place-items-center p-8 text-center">
      <p className="max-w-sm text-soft">
        {say(
          "This bench waits for {waits_for}. Go back to Order (key 1) and drop the customer's file on the garment.",
          { waits_for: station.waits_for || say("the stations before it") },
        )}
      </p>
    </div>
  );
}

/** Letters that mean nothing else on a job's page: each applies one fix, Z takes it back. */
const FIX_KEYS = ["a", "d", "e", "g", "i", "q", "v", "x"];

const WORST_FIRST: Finding["severity"][] = ["blocker", "caution", "note"];

type FindingsProps = { station: Station; jobLine: JobLine; worst?: boolean };

/** What the station found. worst: what stops or needs a person, first in the card; otherwise the notes, after the decisions. */
export function Findings({ station, jobLine, worst = false }: FindingsProps) {
  const me = useMe();
  const { patch } = jobLine;
  const findings = useMemo(
    () => WORST_FIRST.flatMap((severity) => station.findings.filter((f) => f.severity === severity)),
    [station.findings],
  );
  const fixes = useMemo(() => findings.filter((f) => f.patch).slice(0, FIX_KEYS.length), [findings]);
  const here = useMemo(() => findings.filter((f) => worst === (f.severity !== "note")), [findings, worst]);
  const keys = useMemo(() => {
    if (me.role === "viewer") return {};
    const own = fixes.flatMap((f, i) => (here.includes(f) ? [[FIX_KEYS[i] ?? "", () => patch(f)] as const] : []));
    return Object.fromEntries(own);
  }, [fixes, here, patch, me.role]);
  useHotkeys(keys);
  return (
    <>
      {here.map((f) => (
        <Note key={f.code} finding={f} onPatch={patch} hotkey={FIX_KEYS[fixes.indexOf(f)]?.toUpperCase()} />
      ))}
    </>
  );
}
