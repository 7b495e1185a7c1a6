import { useState } from "react";
import { type DrawingOf, drawingOf } from "../../api/types";
import { Bench, Hatches } from "../../bench/Bench";
import type { StationProps } from "../../line/station";
import { say } from "../../texts/say";
import { Choice, Pick, Slider, Switch } from "../../ui/parts";
import { Findings, Waits } from "../Waits";
import { Figures } from "./Figures";
import { BESIDE, type Look, lookAt, nameOf } from "./looks";
import { type Point, Split } from "./Split";
import { Steps } from "./Steps";
import { usePoint } from "./usePoint";

const INTENTS = [
  { id: "relative", name: say("relative: keep what is reachable") },
  { id: "perceptual", name: say("perceptual: keep the shades apart") },
  { id: "saturation", name: say("saturation: keep it vivid") },
  { id: "absolute", name: say("absolute: imitate the paper too") },
] as const;
type Hatched = "none" | "gamut" | "over";

export function ColourBench({ station, jobLine, flips }: StationProps) {
  const drawing = drawingOf(station, "colour");
  const pictures = jobLine.line.pictures;
  const box = drawing?.garment.box;
  const [left, setLeft] = useState<Look>("asked");
  const [at, setAt] = useState(0.5);
  const [point, setPoint] = useState<Point | null>(null);
  const [hatched, setHatched] = useState<Hatched>("none");
  const figures = usePoint(pictures?.key ?? "", pictures ? point : null);
  if (!drawing || !pictures || !box) return <Waits station={station} />;
  const right = lookAt(flips);
  const misses = drawing.misses_share ?? 0;
  const over = drawing.over_limit_share;
  // A coloured sheet gives one colour: what inks reach or miss says nothing.
  const isSheet = drawing.sheets.length > 0;
  return (
    <div className="flex min-h-0 grow flex-col">
      <div className="flex min-h-0 grow">
        <div className="flex min-w-0 grow flex-col">
          <div className="flex flex-wrap items-center gap-x-5 gap-y-1 px-6 pt-3 text-sm">
            <label className="flex items-center gap-2">
              <span className="whitespace-nowrap">{say("left of the line")}</span>
              <select
                className="rounded-md border border-hair2 bg-raise px-2 py-1"
                value={left}
                onChange={(e) => setLeft(e.target.value as Look)}
              >
                {BESIDE.map((l) => (
                  <option key={l.id} value={l.id}>
                    {l.name}
                  </option>
                ))}
              </select>
            </label>
            <span className="whitespace-nowrap">
              {say("right of it")} <b>{nameOf(right)}</b>
            </span>
            {!isSheet && (
              <label className="flex items-center gap-2">
                <span className="whitespace-nowrap">{say("hatch")}</span>
                <select
                  className="rounded-md border border-hair2 bg-raise px-2 py-1"
                  value={hatched}
                  onChange={(e) => setHatched(e.target.value as Hatched)}
                >
                  <option value="none">{say("nothing")}</option>
                  <option value="gamut">
                    {say("what the inks miss: {misses} %", { misses: (misses * 100).toFixed(0) })}
                  </option>
                  <option value="over">
                    {say("what is over the ink limit: {over} %", { over: (over * 100).toFixed(1) })}
                  </option>
                </select>
              </label>
            )}
          </div>
          <Bench
            label={say("The print: {left}, and {right}", { left: nameOf(left), right: nameOf(right) })}
            bounds={[0, 0, box.width_mm, box.height_mm]}
            pad={PAD}
            movable
          >
            <Hatches />
            <Split
              pictures={pictures}
              left={left}
              right={right}
              at={at}
              onAt={setAt}
              point={point}
              onPoint={setPoint}
              w={box.width_mm}
              h={box.height_mm}
              grounds={{
                asked: "#aab2b6",
                pressed: "#ffffff",
                carrier: drawing.carrier ?? "#c9d0d3",
                cloth: drawing.garment.colour,
              }}
              isMirrored={drawing.mirrored ?? false}
              hatch={hatched === "none" ? null : pictures[hatched]}
            />
          </Bench>
        </div>
        {!isSheet && <Steps drawing={drawing} jobLine={jobLine} />}
      </div>
      <Figures point={figures} isDriven={drawing.is_driven ?? false} colorant={drawing.colorant ?? "ink"} />
    </div>
  );
}

const PAD = [20, 40, 46, 40] as const;

type SheetsProps = {
  sheets: DrawingOf<"colour">["sheets"];
  chosen: string;
  onChoose: (colour: string) => void;
};

/** The coloured sheet that gives the print its colour: chosen as it looks, and shown on the piece. */
function Sheets({ sheets, chosen, onChoose }: SheetsProps) {
  const now = sheets.find((s) => s.colour.toUpperCase() === chosen.toUpperCase());
  return (
    <fieldset>
      <legend className="font-semibold">
        {now ? say("Coloured sheet: {name}", { name: now.name }) : say("Coloured sheet")}
      </legend>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {sheets.map((s) => (
          <button
            key={s.name}
            type="button"
            aria-pressed={s === now}
            aria-label={s.name}
            title={s.name}
            onClick={() => onChoose(s.colour)}
            className={`h-9 w-9 rounded border-2 ${s === now ? "border-act ring-2 ring-act" : "border-hair2"}`}
            style={{ background: s.colour }}
          />
        ))}
      </div>
    </fieldset>
  );
}

export function ColourCard({ station, jobLine, flips, onFlip }: StationProps) {
  const doc = jobLine.document("colour");
  const drawing = drawingOf(station, "colour");
  if (!drawing) return <p className="text-soft">{station.sub}</p>;
  const isToner = drawing.colorant === "toner";
  const limit = doc.ink_limit_pct ?? drawing.limit_pct;
  const isSheet = drawing.sheets.length > 0;
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      <Choice
        label={say("Right of the line (F)")}
        value={lookAt(flips)}
        onChange={() => onFlip()}
        options={[
          { id: "cloth", name: say("piece") },
          { id: "pressed", name: say("white") },
          { id: "carrier", name: say("carrier") },
        ]}
      />
      {isSheet && (
        <Sheets
          sheets={drawing.sheets}
          chosen={doc.sheet_colour ?? ""}
          onChoose={(sheet_colour) => jobLine.done("colour", { sheet_colour })}
        />
      )}
      {!isSheet && (
        <>
          <Pick
            label={say("Colours that cannot be reached")}
            value={doc.intent ?? "relative"}
            options={[...INTENTS]}
            onChange={(intent) => jobLine.done("colour", { intent })}
          />
          <Switch
            label={say("Black-point compensation")}
            hint={say("dark shades keep their steps instead of clogging")}
            value={doc.black_point ?? true}
            onChange={(black_point) => jobLine.done("colour", { black_point })}
          />
        </>
      )}
      <Slider
        label={isToner ? say("Toner limit") : say("Ink limit")}
        value={limit}
        min={120}
        max={320}
        step={5}
        shown={`${limit.toFixed(0)} %`}
        ends={isToner ? [say("thin, weak"), say("heavy, flakes")] : [say("dry, weak"), say("wet, puddles")]}
        onMove={(v) => jobLine.move("colour", { ink_limit_pct: v })}
        onDone={(v) => jobLine.done("colour", { ink_limit_pct: v })}
      />
      <Findings station={station} jobLine={jobLine} />
    </>
  );
}
