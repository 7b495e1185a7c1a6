import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ProblemError } from "../api/client";
import { useOutbox } from "../api/outbox";
import { useMe } from "../settings/me";
import { say } from "../texts/say";
import { Button } from "../ui/parts";

type MendProps = { what: string; why: string; onMend: () => Promise<unknown> };

/** Something that cannot be read: why, and for the owner its last good version by one touch. */
export function Mend({ what, why, onMend }: MendProps) {
  const queries = useQueryClient();
  const outbox = useOutbox();
  const me = useMe();
  const [isGoing, setIsGoing] = useState(false);
  const mend = async () => {
    setIsGoing(true);
    try {
      await onMend();
      await queries.invalidateQueries();
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
    }
    setIsGoing(false);
  };
  return (
    <div role="alert" className="mt-3 border-l-4 border-stop pl-3">
      <p className="font-semibold">{what}</p>
      <p className="text-soft">{why}</p>
      {me.role === "owner" ? (
        <div className="mt-2">
          <Button onClick={() => void mend()} disabled={isGoing}>
            {say("Go back to the last version that can be read")}
          </Button>
        </div>
      ) : (
        <p className="text-sm text-soft">{say("The owner can go back to its last good version.")}</p>
      )}
    </div>
  );
}
