import type { Progress } from "../api/types";
import { say } from "../texts/say";
import { Button } from "./parts";

type RunningProps = { work: { progress: Progress | null; cancel: () => Promise<void> } };

/** How far long work is, in its own units. */
export function Running({ work }: RunningProps) {
  const p = work.progress;
  const share = p?.whole ? (p.done ?? 0) / p.whole : 0;
  return (
    <div role="status">
      <div className="h-2 rounded bg-hair" aria-hidden="true">
        <div className="h-full rounded bg-act" style={{ width: `${share * 100}%` }} />
      </div>
      <div className="mt-1.5 flex items-center justify-between">
        <span className="num">
          {p?.whole
            ? say("{done} of {whole} {unit}", { done: p.done, whole: p.whole, unit: p.unit })
            : say("waiting for its turn")}
        </span>
        <Button onClick={() => void work.cancel()}>{say("Cancel")}</Button>
      </div>
    </div>
  );
}
