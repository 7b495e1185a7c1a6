import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef } from "react";
import { whenSignedOut } from "../api/client";
import type { Me, Welcome } from "../api/types";
import { MeContext, useWelcome } from "../settings/me";
import { say } from "../texts/say";
import { Liking } from "./Liking";
import { WelcomePage } from "./WelcomePage";

const NEEDED = "needs me";

/** Lets a person through once they are signed in; what they began before stays on the screen behind it. */
export function Gate({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const welcome = useWelcome();
  useEffect(() => {
    whenSignedOut(() => void queries.invalidateQueries({ queryKey: ["welcome"] }));
  }, [queries]);
  const me = welcome.data?.me ?? null;
  // Somebody known who is cut off from the server for a moment goes on: the outbox keeps what they do.
  const last = useRef<Me | null>(null);
  if (welcome.data) last.current = me;
  if (welcome.isPending) return <p className="p-6 text-soft">{say("Opening the shop…")}</p>;
  if (!last.current) {
    if (welcome.error)
      return (
        <p className="p-6 text-stop">{say("{message} Reload in a moment.", { message: welcome.error.message })}</p>
      );
    return <WelcomePage welcome={welcome.data as Welcome} />;
  }
  return (
    <MeContext.Provider value={last.current} key={NEEDED + last.current.name}>
      <Liking me={last.current} />
      {children}
    </MeContext.Provider>
  );
}
