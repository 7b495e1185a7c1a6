import { useMemo } from "react";
import type { Station } from "../api/types";
import { useHotkeys } from "../keys";
import type { JobLine } from "../line/useJobLine";
import { useMe } from "../people/me";
import { Note } from "../ui/parts";

/** An empty bench that says what it waits for. */
export function Waits({ station }: { station: Station }) {
  return (
    <div className="grid grow place-items-center p-8 text-center">
      <p className="max-w-sm text-soft">
        This bench waits for {station.waits_for || "the stations before it"}. Go back to Order (key 1) and drop the
        customer's file on the garment.
      </p>
    </div>
  );
}

/** Letters that mean nothing else on a job's page: each applies one fix, Z takes it back. */
const FIX_KEYS = ["a", "d", "e", "g", "i", "q", "v", "x"];

export function Findings({ station, jobLine }: { station: Station; jobLine: JobLine }) {
  const me = useMe();
  const { findings } = station;
  const { patch } = jobLine;
  const fixes = useMemo(() => findings.filter((f) => f.patch).slice(0, FIX_KEYS.length), [findings]);
  const keys = useMemo(
    () => (me.role === "viewer" ? {} : Object.fromEntries(fixes.map((f, i) => [FIX_KEYS[i] ?? "", () => patch(f)]))),
    [fixes, patch, me.role],
  );
  useHotkeys(keys);
  return (
    <>
      {findings.map((f) => (
        <Note key={f.code} finding={f} onPatch={patch} hotkey={FIX_KEYS[fixes.indexOf(f)]?.toUpperCase()} />
      ))}
    </>
  );
}
