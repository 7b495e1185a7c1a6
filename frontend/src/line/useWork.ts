import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, told } from "../api/client";
import { useFollowing } from "../ui/following";

type Begin = "/api/jobs/{job_id}/plates" | "/api/jobs/{job_id}/lettering";

/** Long work on a print. */
export function useWork(jobId: string, print: string, path: Begin) {
  const queries = useQueryClient();
  const begin = useCallback(
    () => told<{ key: string }>(api.POST(path, { params: { path: { job_id: jobId }, query: { print } } })),
    [path, jobId, print],
  );
  return useFollowing(begin, () => void queries.invalidateQueries({ queryKey: ["job", jobId] }));
}
