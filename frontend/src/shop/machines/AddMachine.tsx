import { useState } from "react";
import type { MachineKind } from "../../api/types";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { Overlay } from "../../ui/Overlay";
import { ByAddress } from "./ByAddress";
import { SORTS, useKinds } from "./machines";
import { NewMachine } from "./NewMachine";

/** A machine by its general kind: the kind fills what it can, the shop gives its name. */
export function AddMachine({ onClose, onAdded }: { onClose: () => void; onAdded: (id: string) => void }) {
  const kinds = useKinds();
  const me = useMe();
  const [isFound, setFound] = useState(false);
  const [kind, setKind] = useState<MachineKind | null>(null);
  return (
    <Overlay
      wide
      open
      onClose={onClose}
      title={kind ? kind.name : say("Which machine is it?")}
      sub={
        kind
          ? say("What this kind usually is gets filled in, and is marked until you have looked at it.")
          : say("The nearest kind will do: every value of it can be put right.")
      }
    >
      {kind ? (
        <NewMachine kind={kind} onBack={() => setKind(null)} onAdded={onAdded} />
      ) : (
        <>
          {me.role === "owner" && (
            <ByAddress
              kinds={kinds?.machines.filter((k) => k.sort === "printers") ?? []}
              onAdded={onAdded}
              onFound={setFound}
            />
          )}
          {!isFound &&
            SORTS.map(({ sort, name }) => (
              <section key={sort} className="mb-3">
                <h3 className="font-semibold">{name}</h3>
                <ul className="grid grid-cols-2 gap-x-4 max-[700px]:grid-cols-1">
                  {kinds?.machines
                    .filter((k) => k.sort === sort)
                    .map((k) => (
                      <li key={k.id}>
                        <button
                          type="button"
                          onClick={() => setKind(k)}
                          className="w-full rounded-md border-b border-hair px-2 py-1.5 text-left hover:bg-act-soft"
                        >
                          <span className="block font-semibold">{k.name}</span>
                          <span className="block text-sm text-soft">{k.said}</span>
                        </button>
                      </li>
                    ))}
                </ul>
              </section>
            ))}
        </>
      )}
    </Overlay>
  );
}
