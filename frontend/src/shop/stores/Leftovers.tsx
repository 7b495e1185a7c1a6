import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, told } from "../../api/client";
import type { Leftover } from "../../api/types";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { Tables } from "../../ui/Tables";
import { daysAgo } from "../../ui/when";

const SCALE = 0.42;

/** Transfers left over, drawn to one scale: what lies there, how old it is, what it fits. */
export function Leftovers() {
  const units = useUnits();
  const query = useQuery({
    queryKey: ["leftovers"],
    queryFn: () => told<Leftover[]>(api.GET("/api/leftovers")),
    staleTime: 0,
  });
  const rows = query.data ?? [];
  const count = rows.reduce((n, r) => n + r.count, 0);
  return (
    <section aria-label={say("Transfers left over")}>
      <h1 className="text-2xl font-bold">
        {query.isLoading
          ? say("Stores")
          : rows.length
            ? say("{count} cured transfers lie in the store", { count })
            : say("No transfer lies in the store")}
      </h1>
      <p className="max-w-3xl text-soft">
        {rows.length
          ? say("All at one scale. A job that wants the same print, width and cloth is offered them at Print.")
          : say(
              "Transfers that a finished job has left over go here from Inspect; the next job that fits is offered them.",
            )}
      </p>
      {rows.length > 0 && <Tables list="leftovers" />}
      <ul className="mt-4 flex flex-wrap gap-5">
        {rows.map((r) => (
          <li key={r.id} className="w-64 rounded-xl border border-hair bg-panel p-4">
            <div className="grid h-44 place-items-center overflow-hidden rounded-md bg-[#8a9ca3]">
              <img
                src={`/api/pictures/${r.picture_key}/pressed.png`}
                alt={say("{name}, as it will look pressed", { name: r.name })}
                style={{ width: r.width_mm * SCALE, height: r.height_mm * SCALE }}
              />
            </div>
            <p className="mt-2 font-semibold">
              {r.count} x {r.name}
            </p>
            <p className="text-soft">
              {units.length(r.width_mm)} x {units.length(r.height_mm)}
            </p>
            <p className="flex items-center gap-1.5 text-sm">
              {say("fits cloth")}{" "}
              <span className="inline-block size-4 rounded border border-hair2" style={{ background: r.cloth }} />{" "}
              {r.cloth_name}
            </p>
            <p className="text-sm text-soft">
              {say("printed {daysAgo},", { daysAgo: daysAgo(r.printed_at) })}{" "}
              <Link to={`/codes/R${r.run}`} className="text-act underline underline-offset-2">
                {say("run R{run}", { run: r.run })}
              </Link>
              {say(", recipe version {recipe_version}{note}", {
                recipe_version: r.recipe_version,
                note: r.note ? `; ${r.note}` : "",
              })}
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
