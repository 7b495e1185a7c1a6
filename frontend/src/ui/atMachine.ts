import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, newId, told } from "../api/client";
import { keep } from "../api/keep";
import type { components } from "../api/schema";
import type { AtWork, Brief } from "../api/types";
import { useSaying } from "./saying";

export type Done = components["schemas"]["DoneIn"]["body"];
const LIVE_MS = 10_000;

/** A machine as it stands now, asked again while it is looked at. */
export function useAtWork(machine: string) {
  return useQuery({
    queryKey: ["at-work", machine],
    queryFn: () => told<AtWork>(api.GET("/api/at-work/{machine}", { params: { path: { machine } } })),
    refetchInterval: LIVE_MS,
  }).data;
}

export function useBriefs(): Brief[] {
  const { data } = useQuery({
    queryKey: ["at-work"],
    queryFn: () => told<Brief[]>(api.GET("/api/at-work")),
    refetchInterval: LIVE_MS * 3,
  });
  return data ?? [];
}

/** What hands did at a machine. */
export function useHands(machine: string) {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const record = (body: Done) =>
    tell(
      told<AtWork>(
        api.POST("/api/at-work/{machine}/acts", { params: { path: { machine } }, body: { id: newId(), body } }),
      ).then((now) => {
        keep(queries, ["at-work", machine], now);
        void queries.invalidateQueries({ queryKey: ["at-work"], exact: true });
        void queries.invalidateQueries({ queryKey: ["stock"] });
      }),
    );
  const set = (task: string, own: { days: number | null; every: number | null; is_off: boolean }) =>
    tell(
      told<AtWork>(
        api.PUT("/api/at-work/{machine}/care/{task}", { params: { path: { machine, task } }, body: own }),
      ).then((now) => keep(queries, ["at-work", machine], now)),
    );
  return { wrong, record, set };
}
