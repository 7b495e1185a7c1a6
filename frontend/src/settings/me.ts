import { useQuery } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { api, told } from "../api/client";
import type { Me, Welcome } from "../api/types";

export const MeContext = createContext<Me | null>(null);

/** Who is signed in at this browser; inside the gate there is always somebody. */
export function useMe(): Me {
  const me = useContext(MeContext);
  if (!me) throw new Error("useMe needs the Gate");
  return me;
}

/** Whether somebody may do what is the owner's, or was given to them. */
export function may(me: Me, right: NonNullable<Me["rights"]>[number]): boolean {
  return me.role === "owner" || (me.role === "technician" && (me.rights ?? []).includes(right));
}

export function useWelcome() {
  return useQuery({
    queryKey: ["welcome"],
    queryFn: () => told<Welcome>(api.GET("/api/welcome")),
    staleTime: Number.POSITIVE_INFINITY,
    retry: 2,
  });
}
