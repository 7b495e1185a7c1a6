import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { AtWork, Printer } from "../../api/types";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { useInkNames } from "../../ui/inks";
import { Button, Pick } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Typed } from "../../ui/Typed";

const HOW = {
  network: (now: AtWork) => say("On the network at {address}", { address: now.address }),
  folder: (now: AtWork) => say("Its own program takes files from {folder}", { folder: now.folder }),
  hand: () => say("By hand: files are carried to it, levels are noted"),
};

/** How a printer is reached; the owner says so, for what is typed here is spoken to. */
export function Reached({ printer, now }: { printer: Printer; now: AtWork }) {
  const me = useMe();
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const [isOpen, setOpen] = useState(false);
  const [way, setWay] = useState(now.reached);
  const [typed, setTyped] = useState(now.address || now.folder || "");
  const path = { printer: printer.id };
  const save = () => {
    const body = { address: way === "network" ? typed : "", folder: way === "folder" ? typed : "" };
    return tell(
      told(api.PUT("/api/links/{printer}", { params: { path }, body })).then(() => {
        setOpen(false);
        return queries.invalidateQueries({ queryKey: ["at-work"] });
      }),
    );
  };
  return (
    <section aria-label={say("How it is reached")} className="border-t border-hair pt-3">
      <h2 className="font-semibold">{say("How it is reached")}</h2>
      <p className="text-sm break-words text-soft">{HOW[now.reached](now)}.</p>
      <Refused said={wrong} />
      {me.role === "owner" && !isOpen && (
        <Button kind="quiet" onClick={() => setOpen(true)}>
          {say("Reach it another way")}
        </Button>
      )}
      {isOpen && (
        <form
          className="mt-1 flex flex-col gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <Pick
            label={say("How")}
            value={way}
            options={[
              { id: "network", name: say("over the network") },
              { id: "folder", name: say("through a folder of its own program") },
              { id: "hand", name: say("by hand") },
            ]}
            onChange={setWay}
          />
          {way === "network" && (
            <Typed
              label={say("Its address")}
              value={typed}
              onChange={setTyped}
              hint={say("as on its own panel, such as 192.168.1.40")}
            />
          )}
          {way === "folder" && (
            <Typed
              label={say("The folder")}
              value={typed}
              onChange={setTyped}
              hint={say("the whole path, such as /srv/film-in")}
            />
          )}
          <div className="flex gap-2">
            <Button kind="go" type="submit" disabled={way !== "hand" && !typed.trim()}>
              {say("Save")}
            </Button>
            <Button onClick={() => setOpen(false)}>{say("Leave it")}</Button>
          </div>
        </form>
      )}
      {me.role === "owner" && (now.unknown ?? []).length > 0 && <Naming printer={printer} names={now.unknown ?? []} />}
    </section>
  );
}

/** Containers whose names do not tell which ink they hold. */
function Naming({ printer, names }: { printer: Printer; names: string[] }) {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const { nameOf } = useInkNames();
  const inks = [
    { id: "", name: say("no ink") },
    ...["C", "M", "Y", "K", ...(printer.inks ?? []).slice(4), "W"].map((id) => ({ id, name: nameOf(id) })),
  ];
  return (
    <details className="mt-2">
      <summary className="cursor-pointer text-sm font-semibold text-act">
        {say("What else it holds ({names})", { names: names.length })}
      </summary>
      <Refused said={wrong} />
      <div className="mt-1 flex flex-col gap-2">
        {names.map((name) => (
          <Pick
            key={name}
            label={name}
            value=""
            options={inks}
            onChange={(ink) =>
              void tell(
                told(
                  api.PUT("/api/links/{printer}/channels", {
                    params: { path: { printer: printer.id } },
                    body: { channels: { [name]: ink } },
                  }),
                ).then(() => queries.invalidateQueries({ queryKey: ["at-work"] })),
              )
            }
          />
        ))}
      </div>
    </details>
  );
}
