import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client";
import type { TheirPicture } from "../../api/types";
import type { JobLine } from "../../line/useJobLine";
import { useMe } from "../../settings/me";
import { say } from "../../texts/say";

/** What this customer has brought before: one touch places it here. */
export function TheirPictures({ jobLine }: { jobLine: JobLine }) {
  const me = useMe();
  const { job } = jobLine;
  const { customer } = jobLine.document("order");
  const now = jobLine.document("place").file;
  const { data = [] } = useQuery({
    queryKey: ["their-pictures", job.id, customer],
    queryFn: () =>
      told<TheirPicture[]>(api.GET("/api/jobs/{job_id}/their-pictures", { params: { path: { job_id: job.id } } })),
    staleTime: 60_000,
  });
  const others = data.filter((p) => p.file !== now);
  if (!others.length || me.role === "viewer") return null;
  return (
    <section aria-label={say("Brought before by {customer}", { customer })}>
      <h3 className="font-semibold">{say("Brought before by {customer}", { customer })}</h3>
      <ul className="mt-1 flex flex-wrap gap-2">
        {others.map((p) => (
          <li key={p.file}>
            <button
              type="button"
              title={p.name}
              aria-label={say("Place {name}", { name: p.name })}
              onClick={() => jobLine.done("place", { file: p.file, page: 1 })}
              className="block rounded-md border border-hair2 bg-[#8a9ca3] p-1 hover:border-act"
            >
              <img src={p.picture} alt="" className="size-14 object-contain" />
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
