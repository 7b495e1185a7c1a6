import { useOutbox } from "../api/outbox";
import type { Document } from "../api/types";
import { useShop } from "../api/useShop";
import { useUnits } from "../settings/settings";
import { say } from "../texts/say";
import { fieldInWords, valueInWords } from "./decisionWords";
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
          {isConflict ? say("Take theirs") : say("I see")}
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
            {say("Save mine on top")}
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
    (k) => k !== "seen" && JSON.stringify(a[k]) !== JSON.stringify(b[k]),
  );
  const units = useUnits();
  const { shop } = useShop();
  const said = (k: string, of: Record<string, unknown>) => valueInWords(k, of[k], units, shop);
  return (
    <table className="mt-4 w-full text-left">
      <thead>
        <tr className="border-b border-hair">
          <th className="py-1 font-semibold">{say("What differs")}</th>
          <th className="py-1 font-semibold">{say("{author}, kept", { author })}</th>
          <th className="py-1 font-semibold">{say("Yours")}</th>
        </tr>
      </thead>
      <tbody>
        {differ.map((k) => (
          <tr key={k} className="border-b border-hair">
            <td className="py-1">{fieldInWords(k)}</td>
            <td className="num py-1">{said(k, a)}</td>
            <td className="num py-1">{said(k, b)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
