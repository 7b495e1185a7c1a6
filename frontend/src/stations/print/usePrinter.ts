import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, told } from "../../api/client";
import type { AtPrinter, Job } from "../../api/types";
import { asksEvery } from "../../ui/Sending";

/** The printer of this job's next run, asked again while something is on its way. */
export function usePrinter(job: Job) {
  const queries = useQueryClient();
  const query = useQuery({
    queryKey: ["printer", job.id, job.print],
    queryFn: () =>
      told<AtPrinter>(
        api.GET("/api/jobs/{job_id}/printer", { params: { path: { job_id: job.id }, query: { print: job.print } } }),
      ),
    refetchInterval: (q) => asksEvery(q.state.data),
  });
  const ended = query.data?.sends?.map((s) => `${s.id}${s.state}`).join() ?? "";
  // What came out is counted by the server: the job is read again.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a send that ends is what this waits for
  useEffect(() => {
    void queries.invalidateQueries({ queryKey: ["job", job.id] });
  }, [ended, queries, job.id]);
  return { seen: query.data, again: () => queries.invalidateQueries({ queryKey: ["printer", job.id] }) };
}
