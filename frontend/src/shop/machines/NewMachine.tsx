import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { MachineKind } from "../../api/types";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Typed } from "../../ui/Typed";

type NewMachineProps = { kind: MachineKind; onAdded: (id: string) => void; onBack?: () => void };

/** A machine of a general kind, by the name that it is called in the shop. */
export function NewMachine({ kind, onBack, onAdded }: NewMachineProps) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const { wrong, tell } = useSaying();
  const add = async () => {
    const asked = told<{ id: string }>(
      api.POST("/api/machines/{sort}", {
        params: { path: { sort: kind.sort } },
        body: { kind: kind.id, name: name.trim() },
      }),
    );
    if (!(await tell(asked))) return;
    await queries.invalidateQueries();
    onAdded((await asked).id);
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Typed
        label={say("What is it called in the shop?")}
        value={name}
        onChange={setName}
        hint={say("a name that is said aloud")}
      />
      <Refused said={wrong} />
      <div className="mt-2 flex gap-2">
        <Button kind="go" type="submit" disabled={name.trim().length < 2}>
          {say("Add it")}
        </Button>
        {onBack && <Button onClick={onBack}>{say("Another kind")}</Button>}
      </div>
    </form>
  );
}
