import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { Introduced, MachineKind } from "../../api/types";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Button, Pick } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Typed } from "../../ui/Typed";

type ByAddressProps = {
  kinds: MachineKind[];
  onAdded: (id: string) => void;
  /** It answered, or another address is asked. */
  onFound: (isFound: boolean) => void;
};

/** A printer by its address: what it says of itself fills the form, a person confirms. */
export function ByAddress({ kinds, onAdded, onFound }: ByAddressProps) {
  const [address, setAddress] = useState("");
  const [isAsking, setAsking] = useState(false);
  const [found, setFound] = useState<Introduced | null>(null);
  const { wrong, tell } = useSaying();
  const ask = async () => {
    setAsking(true);
    await tell(
      told<Introduced>(api.POST("/api/links/ask", { body: { address } })).then((told) => {
        setFound(told);
        onFound(true);
      }),
    );
    setAsking(false);
  };
  if (found)
    return (
      <Confirm
        found={found}
        kinds={kinds}
        onBack={() => {
          setFound(null);
          onFound(false);
        }}
        onAdded={onAdded}
      />
    );
  return (
    <form
      className="mb-4 border-b border-hair pb-4"
      onSubmit={(e) => {
        e.preventDefault();
        void ask();
      }}
    >
      <Typed
        label={say("A printer on the network: its address")}
        value={address}
        onChange={setAddress}
        hint={say("as on its own panel, such as 192.168.1.40")}
      />
      <Refused said={wrong} />
      <div className="mt-2">
        <Button type="submit" kind="go" disabled={!address.trim() || isAsking}>
          {isAsking ? say("Asking it…") : say("Ask what it is")}
        </Button>
      </div>
    </form>
  );
}

type ConfirmProps = { found: Introduced; kinds: MachineKind[]; onBack: () => void; onAdded: (id: string) => void };

function Confirm({ found, kinds, onBack, onAdded }: ConfirmProps) {
  const queries = useQueryClient();
  const units = useUnits();
  const [kind, setKind] = useState(found.kind || kinds[0]?.id || "");
  const [name, setName] = useState(found.name.slice(0, 40));
  const { wrong, tell } = useSaying();
  const inks = found.told.supplies?.filter((s) => s.channel) ?? [];
  const trays = found.told.trays?.filter((t) => t.width_mm) ?? [];
  const add = async () => {
    let made = "";
    const asked = told<{ id: string }>(
      api.POST("/api/machines/{sort}", { params: { path: { sort: "printers" } }, body: { kind, name: name.trim() } }),
    ).then(async (machine) => {
      made = machine.id;
      await told(
        api.PUT("/api/links/{printer}", {
          params: { path: { printer: machine.id } },
          body: { address: found.address, folder: "" },
        }),
      );
    });
    const ok = await tell(asked);
    await queries.invalidateQueries();
    if (ok || made) onAdded(made);
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
      className="flex flex-col gap-3"
    >
      <p>
        <span className="font-semibold">{found.told.model || say("It")}</span> {say("answers at")}{" "}
        <span className="num">{found.address}</span>
        {inks.length > 0 && (
          <>
            {say("; it holds")} {inks.map((s) => s.name).join(", ")}
          </>
        )}
        {trays.length > 0 && (
          <>
            {say("; it takes")}{" "}
            {trays
              .map((t) => say("{width_mm} in its {name}", { width_mm: units.length(t.width_mm), name: t.name }))
              .join(", ")}
          </>
        )}
        .
      </p>
      <Pick
        label={found.kind ? say("That is most like") : say("Nothing known is near it: choose the nearest kind")}
        value={kind}
        options={kinds.map((k) => ({ id: k.id, name: k.name }))}
        onChange={setKind}
      />
      <Typed
        label={say("What is it called in the shop?")}
        value={name}
        onChange={setName}
        hint={say("a name that is said aloud")}
      />
      <Refused said={wrong} />
      <div className="flex gap-2">
        <Button kind="go" type="submit" disabled={name.trim().length < 2}>
          {say("Add it")}
        </Button>
        <Button onClick={onBack}>{say("Another address")}</Button>
      </div>
    </form>
  );
}
