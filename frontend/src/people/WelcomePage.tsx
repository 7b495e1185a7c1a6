import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useId, useState } from "react";
import { api, ProblemError, told } from "../api/client";
import type { Welcome } from "../api/types";
import { say } from "../texts/say";
import { Button } from "../ui/parts";

/** Who is here? The first run makes the owner; the demo lets anybody in by one click. */
export function WelcomePage({ welcome }: { welcome: Welcome }) {
  useEffect(() => {
    document.title = say("Sign in · Offsetter");
  }, []);
  return (
    <main className="grid h-full place-items-center overflow-auto bg-ground p-6">
      <div className="w-full max-w-md rounded-xl border border-hair2 bg-panel p-7">
        <p className="text-[17px] font-extrabold">Offsetter</p>
        {welcome.needs_owner ? <FirstOwner /> : <SignIn demo={welcome.demo_people ?? []} />}
      </div>
    </main>
  );
}

function useEnter() {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const enter = async (asked: Promise<Welcome>) => {
    try {
      queries.setQueryData(["welcome"], await asked);
      await queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "welcome" });
    } catch (error) {
      if (error instanceof ProblemError) setProblem(error);
    }
  };
  return { enter, problem };
}

function FirstOwner() {
  const { enter, problem } = useEnter();
  return (
    <NameForm
      title={say("Open this shop")}
      sub={say("You become its owner: you see everything and let others in.")}
      go={say("Open the shop")}
      isNew
      problem={problem}
      onGo={(body) => void enter(told<Welcome>(api.POST("/api/welcome/owner", { body })))}
    />
  );
}

function SignIn({ demo }: { demo: [string, string][] }) {
  const { enter, problem } = useEnter();
  const [byPassword, setByPassword] = useState(demo.length === 0);
  return (
    <>
      {demo.length > 0 && (
        <section className="mt-3" aria-label={say("Demo people")}>
          <h1 className="text-2xl font-bold">{say("The demo shop: who are you?")}</h1>
          <p className="mt-1 text-soft">
            {say("One click signs in; the shop, its people and its orders are invented.")}
          </p>
          <div className="mt-4 flex flex-col gap-2">
            {demo.map(([name, role]) => (
              <Button
                key={name}
                kind={role === "owner" ? "go" : "plain"}
                wide
                onClick={() => void enter(told<Welcome>(api.POST("/api/welcome/demo", { body: { name } })))}
              >
                {name}, {role}
              </Button>
            ))}
          </div>
          {!byPassword && (
            <div className="mt-3">
              <Button kind="quiet" onClick={() => setByPassword(true)}>
                {say("Sign in with a password instead")}
              </Button>
            </div>
          )}
        </section>
      )}
      {byPassword && (
        <NameForm
          title={demo.length ? say("With a password") : say("Sign in")}
          sub={say("Your name stands beside all you decide and do.")}
          go={say("Sign in")}
          problem={problem}
          onGo={({ name, password }) =>
            void enter(told<Welcome>(api.POST("/api/welcome/sign-in", { body: { name, password } })))
          }
        />
      )}
    </>
  );
}

type NameFormProps = {
  title: string;
  sub: ReactNode;
  go: string;
  isNew?: boolean;
  problem: ProblemError | null;
  onGo: (given: { name: string; password: string; shop: string }) => void;
};

function NameForm({ title, sub, go, isNew, problem, onGo }: NameFormProps) {
  const id = useId();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [shop, setShop] = useState("");
  return (
    <form
      className="mt-3 flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        onGo({ name: name.trim(), password, shop: shop.trim() });
      }}
    >
      <div>
        <h1 className="text-2xl font-bold">{title}</h1>
        <p className="mt-1 text-soft">{sub}</p>
      </div>
      {isNew && (
        <div>
          <label htmlFor={`${id}-shop`} className="font-semibold">
            {say("The shop is called")}
          </label>
          <input
            id={`${id}-shop`}
            className="field"
            minLength={2}
            maxLength={60}
            required
            value={shop}
            onChange={(e) => setShop(e.target.value)}
          />
        </div>
      )}
      <div>
        <label htmlFor={`${id}-name`} className="font-semibold">
          {isNew ? say("Your name") : say("Name")}
        </label>
        <input
          id={`${id}-name`}
          className="field"
          autoComplete="username"
          maxLength={60}
          required
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </div>
      <div>
        <label htmlFor={`${id}-password`} className="font-semibold">
          {say("Password")}
        </label>
        <input
          id={`${id}-password`}
          type="password"
          className="field"
          autoComplete={isNew ? "new-password" : "current-password"}
          minLength={isNew ? 10 : 1}
          required
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {isNew && <p className="mt-1 text-sm text-soft">{say("At least ten letters: three words do.")}</p>}
      </div>
      {problem && (
        <p role="alert" className="border-l-4 border-stop pl-3">
          <span className="font-semibold">{problem.happened}</span> {problem.thenDo}
        </p>
      )}
      <Button kind="go" type="submit">
        {go}
      </Button>
    </form>
  );
}
