import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import { keep } from "../../api/keep";
import { useOutbox } from "../../api/outbox";
import type { PersonRow, SessionRow } from "../../api/types";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Overlay } from "../../ui/Overlay";
import { Button, Pick } from "../../ui/parts";
import { when } from "../../ui/when";
import { Programs } from "./Programs";

const ROLES = [
  { id: "owner" as const, name: say("owner: all, and people") },
  { id: "technician" as const, name: say("technician: all the work") },
  { id: "viewer" as const, name: say("viewer: looks, changes nothing") },
];

const RIGHTS = [
  { id: "prices" as const, name: say("say what things cost"), short: say("prices") },
  { id: "colours" as const, name: say("take customers' colours away"), short: say("customers' colours") },
];

/** Who works here, and where they are signed in. */
export default function PeoplePage() {
  const me = useMe();
  const isOwner = me.role === "owner";
  const people = useQuery({ queryKey: ["people"], queryFn: () => told<PersonRow[]>(api.GET("/api/people")) });
  const sessions = useQuery({
    queryKey: ["sessions"],
    queryFn: () => told<SessionRow[]>(api.GET("/api/sessions")),
    enabled: isOwner,
  });
  const [adding, setAdding] = useState(false);
  const [changing, setChanging] = useState<PersonRow | null>(null);
  const act = useAct();
  useEffect(() => {
    document.title = say("People · Offsetter");
  }, []);
  const rows = people.data ?? [];
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <div className="flex items-start justify-between gap-4">
        <h1 className="text-2xl font-bold">
          {rows.length === 1
            ? say("You are alone here yet")
            : say("{count} people may sign in", { count: rows.filter((p) => p.is_active).length })}
        </h1>
        {isOwner && (
          <Button kind="go" onClick={() => setAdding(true)}>
            {say("Let somebody in")}
          </Button>
        )}
      </div>
      {!isOwner && <p className="mt-1 text-soft">{say("The owner lets people in and sets their roles.")}</p>}
      <table className="mt-4 w-full max-w-3xl text-left">
        <thead>
          <tr className="border-b border-hair text-sm text-soft">
            <th className="py-1 font-normal">{say("Name")}</th>
            <th className="font-normal">{say("Role")}</th>
            <th className="font-normal">{say("Quick switch")}</th>
            <th className="font-normal">{isOwner ? say("Change") : ""}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((p) => (
            <tr key={p.id} className={`border-b border-hair ${p.is_active ? "" : "text-soft"}`}>
              <th scope="row" className="py-2">
                {p.name}
                {!p.is_active && <span className="font-normal"> {say("(shut out)")}</span>}
              </th>
              <td>
                {worded(p.role)}
                {p.role === "technician" && (p.rights ?? []).length > 0 && (
                  <span className="block text-sm text-soft">
                    {say("besides:")}{" "}
                    {RIGHTS.filter((r) => p.rights?.includes(r.id))
                      .map((r) => r.short)
                      .join(", ")}
                  </span>
                )}
              </td>
              <td>{p.has_pin ? say("by PIN") : say("no PIN yet")}</td>
              <td className="py-1">
                {isOwner && <Button onClick={() => setChanging(p)}>{say("Change {name}", { name: p.name })}</Button>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {isOwner && (
        <section aria-label={say("Signed in")} className="mt-8 max-w-3xl">
          <h2 className="text-lg font-bold">{say("Signed in now")}</h2>
          <ul className="mt-2">
            {(sessions.data ?? []).map((s) => (
              <li key={s.id} className="flex items-center justify-between gap-4 border-b border-hair py-1.5">
                <span>
                  <span className="font-semibold">{s.name}</span>{" "}
                  {say("at {device}, seen {seen_at}{is_this}", {
                    device: s.device,
                    seen_at: when(s.seen_at),
                    is_this: s.is_this ? say(" (this browser)") : "",
                  })}
                </span>
                {!s.is_this && (
                  <Button
                    onClick={() =>
                      void act(["sessions"], () =>
                        told(api.DELETE("/api/sessions/{session_id}", { params: { path: { session_id: s.id } } })),
                      )
                    }
                  >
                    {say("End it")}
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {isOwner && <Programs />}
      <PersonForm
        title={say("Let somebody in")}
        open={adding}
        onClose={() => setAdding(false)}
        onSave={(given) =>
          act(["people"], () =>
            told(
              api.POST("/api/people", {
                body: { name: given.name, role: given.role, password: given.password, pin: given.pin },
              }),
            ),
          )
        }
      />
      {changing && (
        <PersonForm
          title={say("Change {name}", { name: changing.name })}
          person={changing}
          open
          onClose={() => setChanging(null)}
          onSave={(given) =>
            act(["people"], () =>
              told(
                api.PATCH("/api/people/{user_id}", {
                  params: { path: { user_id: changing.id } },
                  body: {
                    role: given.role,
                    is_active: given.isActive,
                    rights: given.rights,
                    ...(given.password ? { password: given.password } : {}),
                    ...(given.pin ? { pin: given.pin } : {}),
                  },
                }),
              ),
            )
          }
        />
      )}
    </main>
  );
}

function useAct() {
  const queries = useQueryClient();
  const outbox = useOutbox();
  return async (key: string[], ask: () => Promise<unknown>): Promise<boolean> => {
    try {
      keep(queries, key, await ask());
      return true;
    } catch (error) {
      if (error instanceof ProblemError) outbox.sayProblem(error);
      return false;
    }
  };
}

type Right = NonNullable<PersonRow["rights"]>[number];
type Given = {
  name: string;
  role: PersonRow["role"];
  password: string;
  pin: string;
  isActive: boolean;
  rights: Right[];
};
type PersonFormProps = {
  title: string;
  person?: PersonRow;
  open: boolean;
  onClose: () => void;
  onSave: (given: Given) => Promise<boolean>;
};

function PersonForm({ title, person, open, onClose, onSave }: PersonFormProps) {
  const id = useId();
  const [given, setGiven] = useState<Given>({
    name: person?.name ?? "",
    role: person?.role ?? "technician",
    password: "",
    pin: "",
    isActive: person?.is_active ?? true,
    rights: person?.rights ?? [],
  });
  const change = (part: Partial<Given>) => setGiven({ ...given, ...part });
  return (
    <Overlay
      title={title}
      open={open}
      onClose={onClose}
      sub={
        person ? say("Left empty, password and PIN stay as they are.") : say("They sign in with the name and password.")
      }
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void onSave(given).then((ok) => ok && onClose());
        }}
      >
        {!person && (
          <div>
            <label htmlFor={`${id}-name`} className="font-semibold">
              {say("Name")}
            </label>
            <input
              id={`${id}-name`}
              className="field"
              required
              maxLength={60}
              value={given.name}
              onChange={(e) => change({ name: e.target.value })}
            />
          </div>
        )}
        <Pick label={say("Role")} value={given.role} options={ROLES} onChange={(role) => change({ role })} />
        <div>
          <label htmlFor={`${id}-password`} className="font-semibold">
            {person ? say("New password") : say("Password")}
          </label>
          <input
            id={`${id}-password`}
            type="password"
            autoComplete="new-password"
            className="field"
            required={!person}
            value={given.password}
            onChange={(e) => change({ password: e.target.value })}
          />
        </div>
        <div>
          <label htmlFor={`${id}-pin`} className="font-semibold">
            {say("PIN for the quick switch, 4 to 8 digits")}
          </label>
          <input
            id={`${id}-pin`}
            inputMode="numeric"
            autoComplete="off"
            className="field num"
            value={given.pin}
            onChange={(e) => change({ pin: e.target.value })}
          />
        </div>
        {person && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="size-5 accent-[var(--act)]"
              checked={given.isActive}
              onChange={(e) => change({ isActive: e.target.checked })}
            />
            {say("may sign in")}
          </label>
        )}
        {person && given.role === "technician" && (
          <fieldset className="flex flex-col gap-1">
            <legend className="font-semibold">{say("What else they may")}</legend>
            {RIGHTS.map((r) => (
              <label key={r.id} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="size-5 accent-[var(--act)]"
                  checked={given.rights.includes(r.id)}
                  onChange={(e) =>
                    change({
                      rights: e.target.checked ? [...given.rights, r.id] : given.rights.filter((x) => x !== r.id),
                    })
                  }
                />
                {r.name}
              </label>
            ))}
          </fieldset>
        )}
        <div className="mt-1 flex gap-2">
          <Button kind="go" type="submit">
            {say("Save")}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
    </Overlay>
  );
}
