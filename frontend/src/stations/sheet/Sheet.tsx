import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, told } from "../../api/client";
import { type CutView, type DrawingOf, drawingOf, type RunLayout } from "../../api/types";
import { useSize } from "../../bench/Bench";
import { CORE, Core, fitRoll, LEAD, Leading, RULER, Torn } from "../../bench/roll";
import type { StationProps } from "../../line/station";
import { useUnits } from "../../settings/settings";
import { capitalised, say } from "../../texts/say";
import { useHotkeys } from "../../ui/keys";
import { Button, Choice, NumberField, Slider, Switch } from "../../ui/parts";
import { several } from "../../ui/several";
import { Findings, Waits } from "../Waits";
import { PART_SAID, Prints } from "./Prints";
import { Sheets } from "./Sheets";
import { UNDER_PX, Under } from "./Under";

export function SheetBench({ station, jobLine }: StationProps) {
  const drawing = drawingOf(station, "sheet");
  const pictures = jobLine.line.pictures;
  const lines = useCut(jobLine, Boolean(drawing?.cut));
  if (!drawing || !pictures) return <Waits station={station} />;
  if (!drawing.layout) return <p className="p-6">{station.verdict}.</p>;
  const hrefs = jobLine.line.run_pictures ?? [];
  if (drawing.layout.sheet_um)
    return (
      <Sheets
        layout={drawing.layout}
        hrefs={drawing.feed === "garment" ? [pictures.cloth] : hrefs.length ? hrefs : [pictures.carrier]}
        names={drawing.names ?? []}
        cloth={drawing.feed === "garment" ? drawing.colour : ""}
        mirrored={drawing.mirrored}
        said={drawing.order_said}
        label={drawing.label}
        lines={lines}
      />
    );
  return (
    <Roll
      layout={drawing.layout}
      hrefs={hrefs.length ? hrefs : [pictures.carrier]}
      names={drawing.names ?? []}
      mirrored={drawing.mirrored}
      said={drawing.order_said}
      lines={lines}
    />
  );
}

/** The cutter's line round each sort of the run, once the hand rests. */
function useCut(jobLine: StationProps["jobLine"], isCut: boolean) {
  const { job } = jobLine;
  const query = useQuery({
    queryKey: ["cut", job.id, job.print, job.revisions],
    queryFn: () =>
      told<CutView[]>(
        api.GET("/api/jobs/{job_id}/cut", { params: { path: { job_id: job.id }, query: { print: job.print } } }),
      ),
    enabled: isCut,
    placeholderData: (before) => before,
  });
  return isCut ? query.data : undefined;
}

const AROUND_SAID = say(
  "Around each print, cut away later: its label, the fold's ticks, an arrow to the top, the distance from the collar.",
);

type RollProps = {
  layout: RunLayout;
  hrefs: string[];
  names: string[];
  mirrored: boolean;
  said: string;
  lines?: CutView[] | undefined;
};

/** The roll seen from above: its leading edge at the left, the core at the right, each cut where scissors go. */
function Roll({ layout, hrefs, names, mirrored, said, lines }: RollProps) {
  const units = useUnits();
  const { ref, width, height } = useSize();
  const plan = useMemo(
    () => fitRoll(layout.cut_lengths_um, layout.media_um, width - 48 - CORE - LEAD, height - UNDER_PX),
    [layout, width, height],
  );
  const { scale, rows } = plan;
  const wide = (layout.media_um / 1000) * scale;
  const rowHigh = wide + RULER + 14;
  const margin = ((layout.media_um - layout.printable_um) / 2000) * scale;
  return (
    <div ref={ref} className="min-h-0 grow overflow-auto">
      {width > 0 && (
        <svg
          width={width}
          height={rows.length * rowHigh + 10}
          role="img"
          aria-label={
            mirrored
              ? say("The run on the roll: {prints}, {lengths}, mirrored", {
                  prints: several(layout.places.length, "print"),
                  lengths: several(layout.cut_lengths_um.length, "cut length"),
                })
              : say("The run on the roll: {prints}, {lengths}, not mirrored", {
                  prints: several(layout.places.length, "print"),
                  lengths: several(layout.cut_lengths_um.length, "cut length"),
                })
          }
        >
          <defs>
            <pattern id="margin-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V6" stroke="#5d6b71" strokeWidth="1.5" />
            </pattern>
          </defs>
          {rows.map((row, r) => {
            const x0 = 24 + LEAD;
            const y0 = 10 + RULER + r * rowHigh;
            const isLast = r === rows.length - 1;
            const rowLength = row.cuts.reduce((sum, c) => sum + (layout.cut_lengths_um[c] ?? 0), 0) / 1000;
            let along = 0;
            return (
              <g key={row.from}>
                {row.cuts.map((cut) => {
                  const length = (layout.cut_lengths_um[cut] ?? 0) / 1000;
                  const at = x0 + along * scale;
                  along += length;
                  return (
                    <g key={cut}>
                      <rect x={at} y={y0} width={length * scale} height={wide} fill="#8a9ca3" stroke="#5d6b71" />
                      <rect x={at} y={y0} width={length * scale} height={margin} fill="url(#margin-hatch)" />
                      <rect
                        x={at}
                        y={y0 + wide - margin}
                        width={length * scale}
                        height={margin}
                        fill="url(#margin-hatch)"
                      />
                      <Prints
                        layout={layout}
                        cut={cut + 1}
                        hrefs={hrefs}
                        names={names}
                        x={at}
                        y={y0}
                        scale={scale}
                        lines={lines}
                      />
                      <path
                        d={`M${at + length * scale} ${y0 - 9}V${y0 + wide + 9}`}
                        stroke="var(--heat)"
                        strokeWidth={2}
                        strokeDasharray="7 4"
                      />
                      <text x={at + 4} y={y0 - 9} fontSize={14} fill="var(--ink)" className="num">
                        {cut + 1} · {units.length(length)}
                      </text>
                    </g>
                  );
                })}
                {r === 0 ? <Leading x={x0} y={y0} wide={wide} /> : <Torn x={x0} y={y0} wide={wide} />}
                {isLast ? (
                  <Core x={x0 + rowLength * scale} y={y0} wide={wide} />
                ) : (
                  <Torn x={x0 + rowLength * scale + 6} y={y0} wide={wide} />
                )}
              </g>
            );
          })}
        </svg>
      )}
      <Under mirrored={mirrored} said={say("{said} Feed runs to the left.", { said })}>
        <p>
          {[
            ...(lines?.length ? [say("Red = the cutter's line.")] : []),
            ...(lines?.some((l) => l.through) ? [say("Violet = through the carrier.")] : []),
            say("Dashed = cut here."),
            layout.tiles?.length ? PART_SAID : AROUND_SAID,
          ].join(" ")}
        </p>
      </Under>
    </div>
  );
}

type Cut = NonNullable<DrawingOf<"sheet">["cut"]>;
type CutCardProps = { jobLine: StationProps["jobLine"]; cut: Cut; isWeeded: boolean };

/** The line that the cutter follows: how far outside the print, what of it is cut, and what goes along. */
function CutCard({ jobLine, cut, isWeeded }: CutCardProps) {
  const units = useUnits();
  const doc = jobLine.document("sheet");
  const lines = useCut(jobLine, true);
  const offset = cut.offset_um / 1000;
  const shape = doc.cut_shape ?? "outline";
  const whole = lines?.[0];
  return (
    <section aria-label={say("The cut line")} className="flex flex-col gap-3 border-t border-hair pt-3">
      <Slider
        label={say("Cut line, outside the print")}
        value={offset}
        min={-2}
        max={10}
        step={0.5}
        shown={units.length(offset, 1)}
        ends={[say("on the picture"), say("a wide border")]}
        onMove={(v) => jobLine.move("sheet", { cut_offset_um: Math.round(v * 1000) })}
        onDone={(v) => jobLine.done("sheet", { cut_offset_um: Math.round(v * 1000) })}
      />
      <Choice
        label={say("The line follows")}
        value={shape}
        onChange={(cut_shape) => jobLine.done("sheet", { cut_shape })}
        options={[
          { id: "outline", name: say("the picture") },
          { id: "box", name: say("a box") },
          { id: "rounded", name: say("round corners") },
          { id: "ellipse", name: say("an ellipse") },
        ]}
      />
      {shape === "outline" && (
        <Switch
          label={say("Cut the holes out too")}
          hint={say("off: what lies in them stays")}
          value={doc.cut_holes ?? true}
          onChange={(cut_holes) => jobLine.done("sheet", { cut_holes })}
        />
      )}
      {isWeeded && (
        <Switch
          label={say("A box to weed in round each print")}
          hint={say("so that each lifts off by itself")}
          value={doc.weed_boxes ?? true}
          onChange={(weed_boxes) => jobLine.done("sheet", { weed_boxes })}
        />
      )}
      <Switch
        label={say("Cut the prints apart")}
        hint={say("a box round each, through the carrier, last of all")}
        value={doc.cut_through ?? false}
        onChange={(cut_through) => jobLine.done("sheet", { cut_through })}
      />
      <details>
        <summary className="cursor-pointer">{say("Where the blade goes in, and which way round")}</summary>
        <div className="mt-2 flex flex-col gap-2">
          <Choice
            label={say("It goes in")}
            value={doc.cut_starts ?? "corner"}
            onChange={(cut_starts) => jobLine.done("sheet", { cut_starts })}
            options={[
              { id: "corner", name: say("at the sharpest corner") },
              { id: "foot", name: say("at the near end") },
              { id: "head", name: say("at the far end") },
            ]}
          />
          <Choice
            label={say("It goes round")}
            value={doc.cut_turns ?? ""}
            onChange={(cut_turns) => jobLine.done("sheet", { cut_turns })}
            options={[
              { id: "", name: say("as it comes") },
              { id: "clockwise", name: say("with the clock") },
              { id: "against", name: say("against it") },
            ]}
          />
        </div>
      </details>
      {whole?.why_not ? (
        <p className="border-l-4 border-stop pl-3 text-stop">{whole.why_not}</p>
      ) : (
        whole && (
          <p className="text-sm text-soft">
            {say(
              "{pieces}, {holes}, {nodes} nodes; {length} for the blade a print. A test cut, a circle in a square, goes with the first length{marks}.",
              {
                pieces: several(whole.pieces, "line"),
                holes: several(whole.holes, "hole"),
                nodes: whole.nodes,
                length: units.metres(whole.long_mm / 1000),
                marks: cut.marks ? say(", and three marks for the cutter to find the sheet by") : "",
              },
            )}
          </p>
        )
      )}
    </section>
  );
}

export function SheetCard({ station, jobLine }: StationProps) {
  const doc = jobLine.document("sheet");
  const keys = useMemo(() => ({ n: () => jobLine.done("sheet", { spares: 0 }) }), [jobLine]);
  useHotkeys(keys);
  const units = useUnits();
  const drawing = drawingOf(station, "sheet");
  if (!drawing) return <p className="text-soft">{station.sub}</p>;
  const { layout, spares } = drawing;
  const ledger = jobLine.job.ledger;
  const gap = (doc.gap_um ?? 8000) / 1000;
  const { feed, medium } = drawing;
  if (feed === "garment")
    return (
      <>
        <Findings worst station={station} jobLine={jobLine} />
        <p>
          {say(
            "What is printed is the piece itself: one after the other, nothing is laid beside it, and there are no spares.",
          )}
        </p>
        <Findings station={station} jobLine={jobLine} />
      </>
    );
  const amount = (um: number) =>
    layout?.sheet_um ? several(Math.round(um / layout.sheet_um), "sheet") : units.metres(um / 1e6);
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      {ledger.printed > 0 && (
        <p className="border-l-4 border-hair2 pl-3">
          {say("{printed} are printed, {in_hand} in hand. {left}", {
            printed: ledger.printed,
            in_hand: ledger.in_hand,
            left:
              ledger.to_print > 0
                ? say("This run carries the {to_print} still to print.", { to_print: ledger.to_print })
                : say("Nothing is left to print; the whole order is shown."),
          })}
        </p>
      )}
      <div className="grid grid-cols-3 gap-3">
        <NumberField
          label={say("Spares")}
          value={spares}
          onDone={(n) => jobLine.done("sheet", { spares: n })}
          error={jobLine.fieldErrors.spares}
        />
        <NumberField
          label={say("Across")}
          value={layout?.across ?? doc.across ?? 1}
          onDone={(n) => jobLine.done("sheet", { across: n })}
          error={jobLine.fieldErrors.across}
        />
        <NumberField
          label={feed === "sheet" ? say("Rows a sheet") : say("Rows a cut")}
          value={layout?.rows_per_cut ?? doc.rows_per_cut ?? 1}
          onDone={(n) => jobLine.done("sheet", { rows_per_cut: n })}
          error={jobLine.fieldErrors.rows_per_cut}
        />
      </div>
      {drawing.spares_why && (
        <p className="-mt-2 text-sm text-soft">{say("Spares: {spares_why}.", { spares_why: drawing.spares_why })}</p>
      )}
      {spares > 0 && (
        <div>
          <Button hotkey="N" onClick={keys.n}>
            {say("No spare")}
          </Button>
        </div>
      )}
      {layout && layout.sorts.length > 1 && (
        <ul className="text-sm" aria-label={say("On this run")}>
          {layout.sorts.map((sort, i) => (
            <li key={drawing.names?.[i] ?? i} className="flex justify-between gap-3 border-b border-hair py-0.5">
              <span>{drawing.names?.[i]}</span>
              <span className="num shrink-0">
                {layout.places.filter((p) => (p.sort ?? 0) === i).length} x {units.length(sort.width_um / 1000)}
              </span>
            </li>
          ))}
        </ul>
      )}
      <Slider
        label={say("Gap between prints")}
        value={gap}
        min={0}
        max={40}
        step={1}
        shown={units.length(gap)}
        ends={[say("less {medium}", { medium }), say("easier to cut")]}
        onMove={(v) => jobLine.move("sheet", { gap_um: v * 1000 })}
        onDone={(v) => jobLine.done("sheet", { gap_um: v * 1000 })}
      />
      <Switch
        label={say("Crop marks")}
        hint={say("at the corners of each print, to trim along a rule")}
        value={doc.crop_marks ?? false}
        onChange={(crop_marks) => jobLine.done("sheet", { crop_marks })}
      />
      <Switch
        label={say("Turn a quarter")}
        hint={say("a cut-out transfer may lie at any angle")}
        value={doc.turned ?? layout?.places[0]?.turned ?? false}
        onChange={(turned) => jobLine.done("sheet", { turned, across: null, rows_per_cut: null })}
      />
      {(doc.in_parts || !layout) && (
        <Switch
          label={say("In parts")}
          hint={
            feed === "sheet"
              ? say("a print that is too large for one sheet lies on several")
              : say("a print that is too large for one length lies on several")
          }
          value={doc.in_parts ?? false}
          onChange={(in_parts) => jobLine.done("sheet", { in_parts })}
        />
      )}
      {!!layout?.tiles?.length && (
        <Slider
          label={say("The parts overlap")}
          value={(doc.overlap_um ?? 0) / 1000}
          min={0}
          max={30}
          step={1}
          shown={units.length((doc.overlap_um ?? 0) / 1000)}
          ends={[say("edge to edge"), say("easier to lay")]}
          onMove={(v) => jobLine.move("sheet", { overlap_um: v * 1000 })}
          onDone={(v) => jobLine.done("sheet", { overlap_um: v * 1000 })}
        />
      )}
      {drawing.cut && <CutCard jobLine={jobLine} cut={drawing.cut} isWeeded={drawing.weeds ?? false} />}
      {layout && (
        <dl className="grid grid-cols-[1fr_auto] gap-y-1">
          <dt>{feed === "roll" ? say("On the roll") : say("The run takes")}</dt>
          <dd className="num font-semibold">{amount(layout.length_um)}</dd>
          {layout.grid_length_um > 0 && (
            <>
              <dt>{layout.places[0]?.turned ? say("Not turned") : say("Turned a quarter")}</dt>
              <dd className="num">{amount(layout.grid_length_um)}</dd>
            </>
          )}
          <dt>{say("{medium} that is not print", { medium: capitalised(medium) })}</dt>
          <dd className="num">{(layout.waste_share * 100).toFixed(0)} %</dd>
        </dl>
      )}
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}
