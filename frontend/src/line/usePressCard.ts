import { useQuery } from "@tanstack/react-query";
import { api, told } from "../api/client";
import type { PressCard } from "../api/types";

/** All that press mode needs to go on without the server. */
export function usePressCard(jobId: string, print: string, part: PressCard["part"] = "press") {
  return useQuery({
    queryKey: ["press-card", jobId, print, part],
    queryFn: () =>
      told<PressCard>(
        api.GET("/api/jobs/{job_id}/press-card", { params: { path: { job_id: jobId }, query: { print, part } } }),
      ),
    staleTime: 0,
    gcTime: Number.POSITIVE_INFINITY,
  });
}
