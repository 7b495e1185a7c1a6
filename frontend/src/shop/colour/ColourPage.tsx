import { type ReactNode, useEffect } from "react";
import { useNavigate, useParams } from "react-router";
import type { Condition } from "../../api/types";
import { say } from "../../texts/say";
import { Brands } from "./Brands";
import { OneCondition } from "./OneCondition";
import { Profiles } from "./Profiles";
import { useColour } from "./useColour";
import { awaitsProof, words } from "./words";

/** What the shop's printers make of colour: conditions watched and corrected, profiles, customers' colours. */
export default function ColourPage() {
  const { what = "" } = useParams();
  const navigate = useNavigate();
  const query = useColour();
  useEffect(() => {
    document.title = say("Colour · Offsetter");
  }, []);
  const room = query.data;
  if (!room) return <main className="p-6 text-soft">{query.error?.message ?? say("Opening colour…")}</main>;
  const open = what || room.conditions[0]?.id || "profiles";
  const condition = room.conditions.find((c) => c.id === open);
  const known = room.conditions.filter((c) => c.condition);
  const bare = room.conditions.filter((c) => !c.condition);
  const row = (id: string, name: ReactNode, more: ReactNode) => (
    <li key={id}>
      <button
        type="button"
        aria-current={id === open ? "true" : undefined}
        onClick={() => navigate(`/colour/${id}`)}
        className={`w-full border-l-4 px-3 py-1.5 text-left ${id === open ? "border-act bg-act-soft" : "border-transparent"}`}
      >
        <span className="block font-semibold">{name}</span>
        <span className="block text-sm text-soft">{more}</span>
      </button>
    </li>
  );
  return (
    <div className="grid min-h-0 grow grid-cols-[280px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside
        aria-label={say("Colour")}
        className="min-h-0 overflow-auto border-r border-hair bg-panel py-4 max-[900px]:max-h-60"
      >
        <ul>
          {row("profiles", say("Profiles"), say("{profiles} kept", { profiles: room.profiles.length }))}
          {row("customers", say("Customers' colours"), say("{brands} watched for", { brands: room.brands.length }))}
        </ul>
        <h2 className="mt-3 px-4 font-semibold">{say("Printers with a profile")}</h2>
        <ul>{known.map((c) => row(c.id, c.printer_name, <Says condition={c} />))}</ul>
        <h2 className="mt-3 px-4 font-semibold">{say("Without one")}</h2>
        <ul>{bare.map((c) => row(c.id, c.printer_name, `${words(c.media)}, ${c.mode_name}`))}</ul>
      </aside>
      {condition ? (
        <OneCondition key={condition.id} condition={condition} room={room} />
      ) : open === "customers" ? (
        <Brands room={room} />
      ) : (
        <Profiles room={room} />
      )}
    </div>
  );
}

function Says({ condition }: { condition: Condition }) {
  const { drift } = condition;
  const isUnproven = awaitsProof(condition);
  return (
    <>
      {words(condition.media)}, {condition.mode_name}
      {isUnproven && <span className="block font-semibold text-need">{say("◆ corrected, not measured since")}</span>}
      {drift && !isUnproven && (
        <span className={`block font-semibold ${drift.wants_correction ? "text-need" : "text-done"}`}>
          {drift.wants_correction
            ? say("◆ wandered {mean_delta_e}", { mean_delta_e: drift.mean_delta_e.toFixed(1) })
            : say("✓ within {mean_delta_e}", { mean_delta_e: drift.mean_delta_e.toFixed(1) })}
        </span>
      )}
    </>
  );
}
