import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../api/client";
import { forgetAtPress } from "../api/offline";
import type { PersonRow, Welcome } from "../api/types";
import { say } from "../texts/say";
import { Button, Pick } from "./parts";

/** Another person takes this screen over, by PIN. */
export function Switching({ me, onDone }: { me: string; onDone?: () => void }) {
  const queries = useQueryClient();
  const people = useQuery({ queryKey: ["people"], queryFn: () => told<PersonRow[]>(api.GET("/api/people")) });
  const others = (people.data ?? []).filter((p) => p.name !== me && p.has_pin && p.is_active);
  const [name, setName] = useState("");
  const [pin, setPin] = useState("");
  const [wrong, setWrong] = useState("");
  const first = others[0];
  // What is not known yet has its place already: nothing moves away under a finger.
  if (!first && !people.isPending) return null;
  const chosen = name || (first?.name ?? "");
  return (
    <form
      className="rounded-lg border border-hair2 p-3"
      onSubmit={(e) => {
        e.preventDefault();
        told<Welcome>(api.POST("/api/welcome/switch", { body: { name: chosen, pin } }))
          .then((welcome) => {
            queries.setQueryData(["welcome"], welcome);
            void forgetAtPress().then(() => queries.refetchQueries({ queryKey: ["welcome"] }));
            onDone?.();
          })
          .catch((error: unknown) => {
            setPin("");
            if (error instanceof ProblemError) setWrong(`${error.happened} ${error.thenDo}`);
          });
      }}
    >
      <p className="font-semibold">{say("Change hands")}</p>
      <div className="mt-1 grid grid-cols-[1fr_110px_auto] items-end gap-2">
        <Pick
          label={say("Who")}
          value={chosen}
          onChange={setName}
          options={others.map((p) => ({ id: p.name, name: p.name }))}
        />
        <label>
          <span className="font-semibold">{say("PIN")}</span>
          <input
            className="field num"
            type="password"
            inputMode="numeric"
            autoComplete="off"
            value={pin}
            onChange={(e) => setPin(e.target.value)}
          />
        </label>
        <Button type="submit" disabled={pin.length < 4 || !first}>
          {say("Switch")}
        </Button>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-sm text-stop">
          {wrong}
        </p>
      )}
    </form>
  );
}
