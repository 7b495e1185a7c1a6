import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, told } from "../../api/client";
import type { Difference, Version } from "../../api/types";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { Pick } from "../../ui/parts";

type VersionsProps = { id: string; shown: number; onShow: (version: number) => void };

/** Every version of a recipe, and what two of them do otherwise. */
export function Versions({ id, shown, onShow }: VersionsProps) {
  const query = useQuery({
    queryKey: ["recipe", id, "versions", shown],
    queryFn: () =>
      told<Version[]>(api.GET("/api/recipes/{recipe_id}/versions", { params: { path: { recipe_id: id } } })),
  });
  const [against, setAgainst] = useState("");
  const rows = query.data ?? [];
  const others = rows.filter((r) => r.version !== shown);
  const left = Number(against) || others[0]?.version;
  const compared = useQuery({
    queryKey: ["recipe", id, "compare", left, shown],
    enabled: left !== undefined,
    queryFn: () =>
      told<Difference[]>(
        api.GET("/api/recipes/{recipe_id}/compare", {
          params: { path: { recipe_id: id }, query: { left: left ?? shown, right: shown } },
        }),
      ),
  });
  return (
    <section aria-label={say("Versions")}>
      <h2 className="font-semibold">{say("Versions")}</h2>
      <ul>
        {rows.map((r) => (
          <li key={r.version}>
            <button
              type="button"
              aria-current={r.version === shown ? "true" : undefined}
              onClick={() => onShow(r.version)}
              className={`w-full border-l-4 px-2 py-0.5 text-left ${r.version === shown ? "border-act bg-act-soft" : "border-transparent"}`}
            >
              <span className="num font-semibold">{r.version}</span> {worded(r.source)}
              {r.why && <span className="text-soft">: {r.why}</span>}
              {r.by && <span className="text-soft"> ({r.by})</span>}
            </button>
          </li>
        ))}
      </ul>
      {others.length > 0 && left !== undefined ? (
        <>
          <div className="mt-1.5">
            <Pick
              label={say("Compare with version")}
              value={String(left)}
              options={others.map((r) => ({ id: String(r.version), name: `${r.version}, ${worded(r.source)}` }))}
              onChange={setAgainst}
            />
          </div>
          <table className="mt-1.5 w-full text-sm">
            <thead>
              <tr className="border-b border-hair text-soft">
                <th className="text-left font-normal">{say("Stage")}</th>
                <th className="text-left font-normal">{say("version {left}", { left })}</th>
                <th className="text-left font-normal">{say("version {shown}", { shown })}</th>
              </tr>
            </thead>
            <tbody>
              {(compared.data ?? []).map((d) => (
                <tr key={`${d.stage}${d.what}`} className="border-b border-hair align-top">
                  <th scope="row" className="text-left font-normal">
                    {d.stage}, {d.what}
                  </th>
                  <td>{d.left}</td>
                  <td className="font-semibold">{d.right}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {compared.data?.length === 0 && <p className="text-sm text-soft">{say("They do the same.")}</p>}
        </>
      ) : (
        <p className="text-sm text-soft">
          {say("The only one. Values that you change become the next; jobs keep their own.")}
        </p>
      )}
    </section>
  );
}
