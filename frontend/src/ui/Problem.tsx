import { useOutbox } from "../api/outbox";
import type { Document } from "../api/types";
import { Overlay } from "./Overlay";
import { Button } from "./parts";

/** A refusal in its three parts; when two people changed the same station, with both values. */
export function ProblemOverlay() {
  const { problem, clearProblem, decide } = useOutbox();
  if (!problem) return null;
  const more = problem.more;
  const isConflict = problem.code === "saved-elsewhere" && more.mine !== undefined;
  return (
    <Overlay title={problem.happened} open onClose={clearProblem} wide={isConflict}>
      <p>{problem.kept}</p>
      <p className="mt-1 font-semibold">{problem.thenDo}</p>
      {isConflict && <Both theirs={more.theirs} mine={more.mine} author={String(more.author)} />}
      <div className="mt-5 flex gap-2">
        <Button kind="go" onClick={clearProblem}>
          {isConflict ? "Take theirs" : "I see"}
        </Button>
        {isConflict && typeof more.job === "string" && (
          <Button
            onClick={() => {
              clearProblem();
              decide(
                more.job as string,
                String(more.print ?? ""),
                more.station as Document,
                Number(more.revision),
                more.mine as Record<string, unknown>,
              );
            }}
          >
            Save mine on top
          </Button>
        )}
      </div>
    </Overlay>
  );
}

function Both({ theirs, mine, author }: { theirs: unknown; mine: unknown; author: string }) {
  const a = (theirs ?? {}) as Record<string, unknown>;
  const b = (mine ?? {}) as Record<string, unknown>;
  const differ = [...new Set([...Object.keys(a), ...Object.keys(b)])].filter(
    (k) => JSON.stringify(a[k]) !== JSON.stringify(b[k]),
  );
  return (
    <table className="mt-4 w-full text-left">
      <thead>
        <tr className="border-b border-hair">
          <th className="py-1 font-semibold">What differs</th>
          <th className="py-1 font-semibold">{author}, kept</th>
          <th className="py-1 font-semibold">Yours</th>
        </tr>
      </thead>
      <tbody>
        {differ.map((k) => (
          <tr key={k} className="border-b border-hair">
            <td className="py-1">{inWords(k)}</td>
            <td className="num py-1">{shown(a[k])}</td>
            <td className="num py-1">{shown(b[k])}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function inWords(key: string): string {
  return key.replace(/_um$/, " (micrometres)").replace(/_pct$/, " (%)").replaceAll("_", " ");
}

function shown(value: unknown): string {
  if (value === null || value === undefined) return "as usual";
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}
