import type { Cutter } from "../../api/types";
import { Bench } from "../../bench/Bench";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { useChanges } from "./machines";
import { OneMachine } from "./OneMachine";
import { Plate } from "./OneOven";
import { Length, Plain } from "./Value";

/** A roll or sheet is drawn as far as it lies before the blade. */
const SHOWN_MM = 500;

/** A cutter that stands apart from the printer. */
export function OneCutter({ cutter }: { cutter: Cutter }) {
  const units = useUnits();
  const changes = useChanges("cutters", cutter.id);
  const said = { sources: cutter.sources };
  return (
    <OneMachine
      machine={cutter}
      changes={changes}
      verdict={say("{name} cuts {width_mm} across, {speed_mm_s} mm a second", {
        name: cutter.name,
        width_mm: units.length(cutter.width_mm),
        speed_mm_s: cutter.speed_mm_s,
      })}
      sub={say("It finds the printed marks and follows the line of what is cut apart from its printer.")}
      drawing={
        <Bench
          label={say("{name}, what its blade reaches, to scale", { name: cutter.name })}
          bounds={[0, 0, cutter.width_mm, SHOWN_MM]}
          pad={[30, 120, 44, 90]}
        >
          <Plate width={cutter.width_mm} height={SHOWN_MM} />
        </Bench>
      }
    >
      <Length
        label={say("Reaches across")}
        value={cutter.width_mm}
        field="width_mm"
        {...said}
        onDone={(v) => void changes.change({ width_mm: v })}
      />
      <Plain
        label={say("Speed")}
        unit={"mm/s"}
        value={cutter.speed_mm_s}
        field="speed_mm_s"
        {...said}
        onDone={(v) => void changes.change({ speed_mm_s: v })}
      />
      <Length
        label={say("Smallest curve its blade follows")}
        fine
        value={cutter.least_radius_mm}
        field="least_radius_mm"
        {...said}
        onDone={(v) => void changes.change({ least_radius_mm: v })}
      />
    </OneMachine>
  );
}
