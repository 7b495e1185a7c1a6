import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, told } from "../../api/client";
import type { Cutter, Kinds, MachineSort, Oven, Press, Printer, Probe, Shop } from "../../api/types";
import { say } from "../../texts/say";
import { useSaying } from "../../ui/saying";

export type Machine = Printer | Press | Oven | Cutter | Probe;
export const SORTS: { sort: MachineSort; name: string; one: string }[] = [
  { sort: "printers", name: say("Printers"), one: "printer" },
  { sort: "presses", name: say("Presses"), one: "press" },
  { sort: "ovens", name: say("Ovens"), one: "oven" },
  { sort: "cutters", name: say("Cutters"), one: "cutter" },
  { sort: "probes", name: say("Probes"), one: "probe" },
];

export function useKinds() {
  return useQuery({ queryKey: ["kinds"], queryFn: () => told<Kinds>(api.GET("/api/kinds")), staleTime: 600_000 }).data;
}

/** The machine of that id, and what sort it is. */
export function machineOf(shop: Shop | undefined, id: string): { sort: MachineSort; machine: Machine } | null {
  for (const { sort } of SORTS) {
    const machine = shop?.[sort].find((m) => m.id === id);
    if (machine) return { sort, machine };
  }
  return null;
}

/** Changes to one machine: a value that is put right is saved at once, and is the shop's own from then on. */
export function useChanges(sort: MachineSort, id: string) {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  return useMemo(() => {
    const path = { sort, machine: id };
    const after = () => queries.invalidateQueries();
    return {
      wrong,
      change: (body: Record<string, unknown>) =>
        tell(told(api.PUT("/api/machines/{sort}/{machine}", { params: { path }, body })).then(after)),
      checked: () => tell(told(api.POST("/api/machines/{sort}/{machine}/checked", { params: { path } })).then(after)),
    };
  }, [queries, sort, id, wrong, tell]);
}

export type Changes = ReturnType<typeof useChanges>;
