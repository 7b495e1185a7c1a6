import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import { keep } from "../../api/keep";
import type { Token, TokenMade } from "../../api/types";
import { listed, say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Button, Switch } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Typed } from "../../ui/Typed";
import { when } from "../../ui/when";

const KEY = ["tokens"];

/** Other programs that may bring orders, or read where theirs stand; each by a token that is told once. */
export function Programs() {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => told<Token[]>(api.GET("/api/tokens")) });
  const [isAdding, setAdding] = useState(false);
  const [name, setName] = useState("");
  const [brings, setBrings] = useState(true);
  const [reads, setReads] = useState(true);
  const [made, setMade] = useState<TokenMade | null>(null);
  const rows = data ?? [];
  const rights = [...(brings ? ["bring orders" as const] : []), ...(reads ? ["read orders" as const] : [])];
  const add = async () => {
    const asked = told<TokenMade>(api.POST("/api/tokens", { body: { name: name.trim(), rights } }));
    if (!(await tell(asked.then(setMade)))) return;
    setAdding(false);
    setName("");
    await queries.invalidateQueries({ queryKey: KEY });
  };
  const end = (id: string) =>
    tell(
      told<Token[]>(api.DELETE("/api/tokens/{token_id}", { params: { path: { token_id: id } } })).then((left) =>
        keep(queries, KEY, left),
      ),
    );
  return (
    <section aria-label={say("Programs")} className="mt-8 max-w-3xl">
      <h2 className="text-lg font-bold">{say("Programs that may bring orders")}</h2>
      <p className="text-soft">
        {say(
          "A web shop or another program, by a token of its own. What it brings is held until somebody has looked at it.",
        )}
      </p>
      <Refused said={wrong} />
      {made && (
        <div role="status" className="mt-2 border-l-4 border-act pl-3">
          <p className="font-semibold">{say("The token of {name}, shown this once:", { name: made.name })}</p>
          <p className="num break-all select-all">{made.token}</p>
          <Button onClick={() => setMade(null)}>{say("It is written down")}</Button>
        </div>
      )}
      <ul className="mt-2">
        {rows.map((t) => (
          <li
            key={t.id}
            className={`flex flex-wrap items-center justify-between gap-3 border-b border-hair py-1.5 ${t.ended_at ? "text-soft" : ""}`}
          >
            <span>
              <span className="font-semibold">{t.name}</span>
              {say(", may {rights}", { rights: listed(t.rights.map(worded)) })}
              <span className="block text-sm text-soft">
                {t.ended_at
                  ? say("ended {ended_at}", { ended_at: when(t.ended_at) })
                  : t.used_at
                    ? say("came last {used_at}", { used_at: when(t.used_at) })
                    : say("let in by {made_by}, {made_at}; never came yet", {
                        made_by: t.made_by,
                        made_at: when(t.made_at),
                      })}
              </span>
            </span>
            {!t.ended_at && (
              <Button kind="stop" label={say("End it: {name}", { name: t.name })} onClick={() => void end(t.id)}>
                {say("End it")}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <div className="mt-3">
        {isAdding ? (
          <form
            className="flex flex-col gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void add();
            }}
          >
            <Typed
              label={say("What is it called?")}
              value={name}
              onChange={setName}
              hint={say("such as: the web shop")}
            />
            <Switch label={say("It may bring orders")} value={brings} onChange={setBrings} />
            <Switch label={say("It may read where its orders stand")} value={reads} onChange={setReads} />
            <div className="flex gap-2">
              <Button kind="go" type="submit" disabled={name.trim().length < 2 || !rights.length}>
                {say("Let it in")}
              </Button>
              <Button onClick={() => setAdding(false)}>{say("Leave it")}</Button>
            </div>
          </form>
        ) : (
          <Button onClick={() => setAdding(true)}>{say("Let a program in")}</Button>
        )}
      </div>
    </section>
  );
}
