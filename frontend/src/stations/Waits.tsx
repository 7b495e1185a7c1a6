import type { Station } from "../api/types";
import type { JobLine } from "../line/useJobLine";
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

export function Findings({ station, jobLine }: { station: Station; jobLine: JobLine }) {
  return (
    <>
      {station.findings.map((f) => (
        <Note key={f.code} finding={f} onPatch={jobLine.patch} />
      ))}
    </>
  );
}
