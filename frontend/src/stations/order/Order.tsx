import { useMemo, useState } from "react";
import { type DrawingOf, drawingOf, type Garment } from "../../api/types";
import { Bench, Dimension, PrintDimensions, toneAt } from "../../bench/Bench";
import { GarmentPicture } from "../../bench/GarmentPicture";
import { useSteady } from "../../bench/steady";
import { OrderForm } from "../../line/OrderForm";
import { Standings } from "../../line/Standings";
import type { StationProps } from "../../line/station";
import { useUnits } from "../../settings/settings";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { useHotkeys } from "../../ui/keys";
import { useMoney } from "../../ui/money";
import { Button, Key, NumberField, Pick, Slider } from "../../ui/parts";
import { when } from "../../ui/when";
import { Findings } from "../Waits";
import { BeingLookedAt, FileDrop, useArtworkFile } from "./FileDrop";
import { Names } from "./Names";
import { Pieces, Prints, SizeWidths } from "./Pieces";
import { PlacedPrint } from "./PlacedPrint";
import { Prices } from "./Prices";
import { TheirPictures } from "./TheirPictures";

/** Top, right, bottom, left: below a cup's wall rolled out there is room for the cup. */
const ROUND_PAD = [14, 120, 210, 170] as const;
const FLAT_PAD = [14, 120, 44, 40] as const;

export function OrderBench({ station, jobLine }: StationProps) {
  const units = useUnits();
  const file = useArtworkFile(jobLine);
  const drawing = drawingOf(station, "order");
  if (!drawing) return null;
  const { garment } = drawing;
  const box = garment.box;
  const place = jobLine.document("place");
  return (
    <FileDrop file={file}>
      <Bench
        movable
        label={say("Size {size} of the blank, {place}, with its print, to scale", {
          size: garment.size,
          place: garment.place ?? say("front"),
        })}
        bounds={boundsOf(garment)}
        pad={jobLine.line.pictures?.on_cup ? ROUND_PAD : FLAT_PAD}
      >
        <GarmentPicture garment={garment}>
          {box && jobLine.line.pictures && (
            <PlacedPrint garment={garment} href={jobLine.line.pictures.cloth} jobLine={jobLine} />
          )}
        </GarmentPicture>
        {box && (
          <>
            <Dimension
              along="y"
              from={0}
              to={box.y_mm}
              at={box.x_mm + box.width_mm / 2}
              tone={toneAt(garment, box.x_mm + box.width_mm / 2, box.y_mm / 2)}
              said={
                box.y_mm < 0
                  ? say("{length} over the edge", { length: units.length(-box.y_mm) })
                  : units.length(box.y_mm)
              }
              away={-70}
            />
            <PrintDimensions garment={garment} />
          </>
        )}
        <Legend garment={garment} offset={place.offset_um ?? 0} />
      </Bench>
      {jobLine.line.pictures?.on_cup && <OnCup href={jobLine.line.pictures.on_cup} />}
      {!place.file && !place.text && <EmptyDrop onChoose={file.choose} />}
    </FileDrop>
  );
}

/** The blank, and a print that hangs over its edge. */
function boundsOf(garment: Garment): [number, number, number, number] {
  const [left, top, right, bottom] = garment.bounds_mm;
  const box = garment.box;
  if (!box) return [left, top, right, bottom];
  return [
    Math.min(left, box.x_mm),
    Math.min(top, box.y_mm),
    Math.max(right, box.x_mm + box.width_mm),
    Math.max(bottom, box.y_mm + box.height_mm),
  ];
}

type OrderFit = DrawingOf<"order">["fits"][number];
type SpareSides = NonNullable<DrawingOf<"order">["spare"]>;

const BELOW: { [origin: string]: string } = {
  collar: say("Below collar"),
  "shoulder seam": say("Below seam"),
  rim: say("Below the rim"),
  "upper edge": say("Below the edge"),
};

function Legend({ garment, offset }: { garment: Garment; offset: number }) {
  const units = useUnits();
  const side =
    offset === 0
      ? garment.centre_y_mm == null && garment.origin === "collar"
        ? say("centred on the fold")
        : say("on the middle line")
      : offset > 0
        ? say("{length} to the wearer's left", { length: units.length(Math.abs(offset) / 1000, 1) })
        : say("{length} to the wearer's right", { length: units.length(Math.abs(offset) / 1000, 1) });
  return (
    // On a narrow bench a shoulder comes under it.
    <text
      fontSize={14}
      fill="var(--soft)"
      stroke="var(--bench)"
      strokeWidth={5}
      strokeLinejoin="round"
      paintOrder="stroke"
    >
      <tspan x={20} y={24}>
        {say("size {size}", { size: garment.size })}
      </tspan>
      <tspan x={20} y={43}>
        {garment.place}
        {garment.origin === "collar" || garment.origin === "shoulder seam" ? say(", wearer's side") : ""}
      </tspan>
      <tspan x={20} y={62}>
        {side}
      </tspan>
      {garment.origin !== "collar" && (
        <tspan x={20} y={81}>
          {say("from the {origin}", { origin: worded(garment.origin) })}
        </tspan>
      )}
      {garment.safe && (
        <tspan x={20} y={100}>
          {say("dashed: safe zone")}
        </tspan>
      )}
    </text>
  );
}

/** The flat wrap as it ends up: round the cup. */
function OnCup({ href }: { href: string }) {
  const steady = useSteady(href);
  return (
    <figure className="pointer-events-none absolute bottom-4 left-44 rounded-lg border border-hair2 bg-panel px-3 py-2">
      <img src={steady} alt={say("The print round the cup, from its left, its front and its right")} className="h-28" />
      <figcaption className="text-sm text-soft">{say("round it: left, front, right")}</figcaption>
    </figure>
  );
}

function EmptyDrop({ onChoose }: { onChoose: () => void }) {
  return (
    <div className="pointer-events-none absolute inset-0 grid place-items-center">
      <div className="pointer-events-auto max-w-xs rounded-xl border-2 border-dashed border-act bg-panel p-5 text-center">
        <p className="font-semibold">{say("Drop the customer's file here")}</p>
        <p className="my-2 text-sm text-soft">
          {say(
            "PNG, JPEG, TIFF, WebP, PDF or SVG. It is measured at once; a file that cannot be printed is refused with the reason.",
          )}
        </p>
        <Button kind="go" hotkey="U" onClick={onChoose}>
          {say("Choose a file")}
        </Button>
      </div>
    </div>
  );
}

export function OrderCard({ station, jobLine }: StationProps) {
  const { money } = useMoney();
  const units = useUnits();
  const [editing, setEditing] = useState(false);
  const drawing = drawingOf(station, "order");
  const place = jobLine.document("place");
  const order = jobLine.document("order");
  const width = (place.width_um ?? 210_000) / 1000;
  const below = (place.below_collar_um ?? 85_000) / 1000;
  const errors = jobLine.fieldErrors;
  return (
    <>
      <Findings worst station={station} jobLine={jobLine} />
      <div className="flex items-start justify-between gap-3">
        <p>
          <span className="font-semibold">{order.customer}</span>
          <br />
          <span className="text-soft">
            {say("due {due}", { due: when(order.due) })}
            {order.quoted ? (
              <>
                <br />
                {say("quoted {quoted} a piece", { quoted: money(order.quoted) })}
              </>
            ) : null}
          </span>
        </p>
        <Button onClick={() => setEditing(true)}>{say("Change")}</Button>
      </div>
      <Pieces jobLine={jobLine} />
      {place.text && <Names jobLine={jobLine} />}
      <div>
        {!place.text && (
          <Slider
            label={say("Print width")}
            value={width}
            min={20}
            max={Math.max(place.place?.endsWith("sleeve") ? 200 : 420, width)}
            step={1}
            shown={units.length(width)}
            onMove={(v) => jobLine.move("place", { width_um: Math.round(v * 1000) })}
            onDone={(v) => jobLine.done("place", { width_um: Math.round(v * 1000) })}
          />
        )}
        <div className="grid grid-cols-2 gap-3">
          <NumberField
            label={place.text ? say("At most wide") : say("Width")}
            unit={units.unit}
            decimals={units.unit === "mm" ? 0 : 2}
            value={units.toShown(width)}
            error={
              errors.width_um &&
              say("The width {wrong}.", {
                wrong: errors.width_um.replace(/\d+$/, (um) => units.length(Number(um) / 1000)),
              })
            }
            onDone={(v) => jobLine.done("place", { width_um: Math.round(units.toMm(v) * 1000) })}
          />
          <NumberField
            label={BELOW[drawing?.garment.origin ?? "collar"] ?? say("Below collar")}
            unit={units.unit}
            decimals={units.unit === "mm" ? 0 : 2}
            value={units.toShown(below)}
            error={
              errors.below_collar_um &&
              say("The distance {wrong}.", {
                wrong: errors.below_collar_um.replace(/\d+$/, (um) => units.length(Number(um) / 1000)),
              })
            }
            onDone={(v) => jobLine.done("place", { below_collar_um: Math.round(units.toMm(v) * 1000) })}
          />
        </div>
        {drawing && <FitKeys fits={drawing.fits} jobLine={jobLine} />}
        {drawing && <Spare sides={drawing.spare ?? []} jobLine={jobLine} />}
        {drawing?.widest_why && (
          <p className="mt-1.5 text-sm text-soft">
            {say("Widest here: {widest_mm}. {widest_why}.", {
              widest_mm: units.length(drawing.widest_mm),
              widest_why: drawing.widest_why,
            })}
          </p>
        )}
      </div>
      <div className="flex items-center gap-2">
        {(place.offset_um ?? 0) !== 0 && (
          <Button onClick={() => jobLine.done("place", { offset_um: 0 })}>{say("Centre it")}</Button>
        )}
        {!place.text && <FileButton jobLine={jobLine} />}
        {!place.text && (drawing?.pages ?? 1) > 1 && (
          <Pick
            label={say("Page")}
            value={String(place.page ?? 1)}
            options={Array.from({ length: drawing?.pages ?? 1 }, (_, i) => ({
              id: String(i + 1),
              name: say("{i} of {pages}", { i: i + 1, pages: drawing?.pages }),
            }))}
            onChange={(page) => jobLine.done("place", { page: Number(page) })}
          />
        )}
      </div>
      {!place.text && <TheirPictures jobLine={jobLine} />}
      <SizeWidths jobLine={jobLine} />
      {!place.text && <Names jobLine={jobLine} />}
      <Prints jobLine={jobLine} />
      <Prices jobLine={jobLine} />
      <Standings job={jobLine.job} />
      <Findings station={station} jobLine={jobLine} />
      <OrderForm
        open={editing}
        onClose={() => setEditing(false)}
        order={order}
        onSave={(changed) => jobLine.done("order", changed)}
      />
    </>
  );
}

const FIT_KEYS = { largest: "g", cover: "v", sheet: "e" } as const;
const FIT_NAMES = {
  largest: { name: say("Largest"), said: say("The largest that fits on this side, and in printer and press") },
  cover: { name: say("Cover"), said: say("The whole blank, with a bleed over every edge") },
  sheet: { name: say("Sheet"), said: say("As large as the sheet takes: the spare is trimmed when it is laid") },
} as const;

/** Sizes in one touch: the largest that fits, one that covers the blank with its bleed, one that fills the sheet. */
function FitKeys({ fits, jobLine }: { fits: OrderFit[]; jobLine: StationProps["jobLine"] }) {
  const units = useUnits();
  const keys = useMemo(() => {
    const take = (fit: OrderFit) =>
      jobLine.done("place", {
        width_um: Math.round(fit.width_mm * 1000),
        widths_um: {},
        below_collar_um: Math.round(fit.below_mm * 1000),
        offset_um: 0,
      });
    return Object.fromEntries(fits.map((fit) => [FIT_KEYS[fit.name], () => take(fit)]));
  }, [fits, jobLine]);
  useHotkeys(keys);
  if (!fits.length) return null;
  return (
    <fieldset className="mt-2 flex gap-1.5">
      <legend className="mb-0.5 text-sm text-soft">{say("In one touch")}</legend>
      {fits.map((fit) => (
        <button
          key={fit.name}
          type="button"
          title={FIT_NAMES[fit.name].said}
          onClick={() => keys[FIT_KEYS[fit.name]]?.()}
          className="min-w-0 grow rounded-lg border border-hair2 px-2 py-1 text-left leading-tight"
        >
          <span className="flex items-center justify-between gap-1 font-semibold">
            {FIT_NAMES[fit.name].name} <Key>{FIT_KEYS[fit.name].toUpperCase()}</Key>
          </span>
          <span className="num text-sm text-soft">{units.length(fit.width_mm)}</span>
        </button>
      ))}
    </fieldset>
  );
}

/** A print that is larger than its blank on purpose: where the blank is laid on it. */
function Spare({ sides, jobLine }: { sides: SpareSides; jobLine: StationProps["jobLine"] }) {
  if (!sides.length) return null;
  const place = jobLine.document("place");
  const near = (mm: number, um: number | undefined) => Math.abs(mm - (um ?? 0) / 1000) < 0.6;
  return (
    <fieldset className="mt-2 flex flex-wrap gap-1.5">
      <legend className="mb-0.5 text-sm text-soft">{say("The print is larger: its spare is left")}</legend>
      {sides.map((side) => (
        <button
          key={side.name}
          type="button"
          aria-pressed={near(side.below_mm, place.below_collar_um) && near(side.offset_mm, place.offset_um)}
          onClick={() =>
            jobLine.done("place", {
              below_collar_um: Math.round(side.below_mm * 1000),
              offset_um: Math.round(side.offset_mm * 1000),
            })
          }
          className="rounded-lg border border-hair2 px-2 py-1 aria-pressed:border-act aria-pressed:font-semibold"
        >
          {side.name}
        </button>
      ))}
    </fieldset>
  );
}

function FileButton({ jobLine }: { jobLine: StationProps["jobLine"] }) {
  const file = useArtworkFile(jobLine);
  const has = Boolean(jobLine.document("place").file);
  return (
    <>
      {file.input}
      <Button hotkey="U" onClick={file.choose}>
        {file.isSending || file.looking
          ? say("Looking at the file…")
          : has
            ? say("Another file")
            : say("Choose a file")}
      </Button>
      {file.looking && <BeingLookedAt looking={file.looking} onStop={file.stop} place="w-full" />}
    </>
  );
}
