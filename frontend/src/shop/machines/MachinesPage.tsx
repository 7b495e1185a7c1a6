import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import type { Brief, Cutter, MachineSort, Oven, Press, Printer, Probe } from "../../api/types";
import { useShop } from "../../api/useShop";
import { useMe } from "../../settings/me";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { useBriefs } from "../../ui/atMachine";
import { Button } from "../../ui/parts";
import { several } from "../../ui/several";
import { AddMachine } from "./AddMachine";
import { type Machine, machineOf, SORTS } from "./machines";
import { OneCutter } from "./OneCutter";
import { OneOven } from "./OneOven";
import { OnePress } from "./OnePress";
import { OnePrinter } from "./OnePrinter";
import { OneProbe } from "./OneProbe";

/** The shop's machines: what each takes and reaches, drawn; how a press heats; what is still from memory. */
export default function MachinesPage() {
  const { press: id = "" } = useParams();
  const navigate = useNavigate();
  const { shop } = useShop();
  const me = useMe();
  const briefs = useBriefs();
  const [isAdding, setAdding] = useState(false);
  useEffect(() => {
    document.title = say("Machines · Offsetter");
  }, []);
  const first = SORTS.flatMap(({ sort }): Machine[] => shop?.[sort] ?? [])[0]?.id ?? "";
  const open = machineOf(shop, id || first);
  const none = shop && !first;
  return (
    <div className="grid min-h-0 grow grid-cols-[280px_minmax(0,1fr)] max-[900px]:grid-cols-1 max-[900px]:overflow-auto">
      <aside
        aria-label={say("Machines")}
        className="flex min-h-0 flex-col border-r border-hair bg-panel max-[900px]:max-h-60"
      >
        <div className="min-h-0 grow overflow-auto py-3">
          {SORTS.map(({ sort, name }) => {
            const found: Machine[] = shop?.[sort] ?? [];
            if (!found.length) return null;
            return (
              <section key={sort} className="mb-3">
                <h2 className="px-4 font-semibold">{name}</h2>
                <ul>
                  {[...found]
                    .sort((a, b) => Number(a.retired) - Number(b.retired))
                    .map((m) => (
                      <li key={m.id}>
                        <button
                          type="button"
                          aria-current={m.id === open?.machine.id ? "true" : undefined}
                          onClick={() => navigate(`/machines/${m.id}`)}
                          className={`w-full border-l-4 px-3 py-1.5 text-left ${m.id === open?.machine.id ? "border-act bg-act-soft" : "border-transparent"}`}
                        >
                          <span className={`block font-semibold ${m.retired ? "text-soft line-through" : ""}`}>
                            {m.name}
                          </span>
                          <Told sort={sort} machine={m} brief={briefs.find((b) => b.machine === m.id)} />
                        </button>
                      </li>
                    ))}
                </ul>
              </section>
            );
          })}
        </div>
        {me.role !== "viewer" && (
          <div className="border-t border-hair px-4 py-3">
            <Button onClick={() => setAdding(true)}>{say("Add a machine")}</Button>
          </div>
        )}
      </aside>
      {open ? (
        <One key={open.machine.id} sort={open.sort} machine={open.machine} />
      ) : (
        <main className="p-6">
          {none && (
            <>
              <h1 className="text-2xl font-bold">{say("No machine stands here yet")}</h1>
              <p className="mt-1 max-w-xl text-soft">
                {say("A printer and a press are enough to begin with: the nearest general kind fills most of it in.")}
              </p>
            </>
          )}
        </main>
      )}
      {isAdding && (
        <AddMachine
          onClose={() => setAdding(false)}
          onAdded={(made) => {
            setAdding(false);
            navigate(`/machines/${made}`);
          }}
        />
      )}
    </div>
  );
}

function One({ sort, machine }: { sort: MachineSort; machine: Machine }) {
  if (sort === "printers") return <OnePrinter printer={machine as Printer} />;
  if (sort === "presses") return <OnePress press={machine as Press} />;
  if (sort === "probes") return <OneProbe probe={machine as Probe} />;
  if (sort === "cutters") return <OneCutter cutter={machine as Cutter} />;
  return <OneOven oven={machine as Oven} />;
}

/** Its most telling measure, and what nobody has looked at yet. */
function Told({ sort, machine, brief }: { sort: MachineSort; machine: Machine; brief: Brief | undefined }) {
  const units = useUnits();
  const { shop } = useShop();
  const open = Object.keys(machine.sources ?? {}).length;
  const by = (wide: number, high: number) => `${units.length(wide)} x ${units.length(high)}`;
  let said = "";
  if (sort === "printers") {
    const feeds = (machine as Printer).feeds.filter((f) => f.offered);
    said = feeds.map((f) => shop?.method_names[f.method] ?? f.method).join(", ");
  } else if (sort === "presses") {
    const press = machine as Press;
    said = `${worded(press.kind)}, ${by(press.platen_width_mm, press.platen_height_mm)}`;
  } else if (sort === "probes") said = say("for {measures}", { measures: worded((machine as Probe).measures) });
  else if (sort === "cutters")
    said = say("{width_mm} across", { width_mm: units.length((machine as Cutter).width_mm) });
  else said = by((machine as Oven).width_mm, (machine as Oven).length_mm);
  return (
    <span className="block text-sm text-soft">
      {machine.retired ? say("retired") : said}
      {!machine.retired && brief?.said && (
        <span className={`block ${brief.is_hindered ? "text-stop" : ""}`}>{brief.said}</span>
      )}
      {!machine.retired && brief?.low && <span className="block text-need">{brief.low}</span>}
      {!machine.retired && !!brief?.care_due && (
        <span className="block text-need">
          {say("{care_due} to do", { care_due: several(brief.care_due, "task") })}
        </span>
      )}
      {open > 0 && <span className="block text-need">{say("{open} to check", { open: several(open, "value") })}</span>}
    </span>
  );
}
