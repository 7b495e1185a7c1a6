import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { Blank } from "../../api/types";
import { Overlay } from "../../ui/Overlay";
import { Button, Pick, Switch } from "../../ui/parts";
import { Typed } from "../../ui/Typed";
import { FromPhotograph } from "./FromPhotograph";
import { Obstacles, type Stands, typed } from "./Obstacles";

type BlankFormProps = { blank?: Blank; onClose: () => void; onSaved: (id: string) => void };
type Shape = "flat" | "mug" | "tube";
type Size = Blank["sizes"][string];

const SHAPES = [
  { id: "flat", name: "flat: cloth, panel, disc" },
  { id: "mug", name: "straight mug" },
  { id: "tube", name: "two-sided tube on a jig" },
] as const;

/** A blank of the shop's own: what it is made of, its colour, its measures. */
export function BlankForm({ blank, onClose, onSaved }: BlankFormProps) {
  const queries = useQueryClient();
  const [name, setName] = useState(blank?.name ?? "");
  const [kind, setKind] = useState<Blank["kind"]>(blank?.kind ?? "cloth");
  const [fibres, setFibres] = useState(
    Object.entries(blank?.fibres ?? { cotton: 1 })
      .map(([f, share]) => `${Math.round(share * 100)} ${f}`)
      .join(", "),
  );
  const [colour, setColour] = useState(blank?.colour ?? "#FFFFFF");
  const [colourName, setColourName] = useState(blank?.colour_name ?? "white");
  const [thick, setThick] = useState(String(blank?.thickness_mm ?? 0.4));
  const [scorch, setScorch] = useState(String(blank?.scorch_c ?? 205));
  const [price, setPrice] = useState(String(blank?.price ?? ""));
  const [coated, setCoated] = useState(blank?.coated ?? false);
  const [stretch, setStretch] = useState<NonNullable<Blank["stretch"]>>(blank?.stretch ?? "some");
  const [shape, setShape] = useState<Shape>("flat");
  const [measures, setMeasures] = useState(["400", "400", "45"]);
  const [isRound, setRound] = useState(false);
  const [obstacles, setObstacles] = useState<Stands[]>(() => (blank?.obstacles ?? []).map(typed));
  const [wrong, setWrong] = useState("");
  const number = (text: string) => Number(text.replace(",", "."));

  const save = async () => {
    const parts = fibres
      .split(",")
      .map((p) => p.trim())
      .filter(Boolean)
      .map((p) => /^(\d+(?:[.,]\d+)?)\s*%?\s+(.+)$/.exec(p));
    if (kind === "cloth" && parts.some((p) => !p)) return setWrong("Give fibres as “60 polyester, 40 cotton”.");
    const [a, b, c] = measures.map(number) as [number, number, number];
    const size: Size =
      shape === "mug"
        ? { diameter_mm: a, height_mm: b, handle_mm: c }
        : shape === "tube"
          ? { flat_width_mm: a, length_mm: b, fold_over_mm: c }
          : { width_mm: a, height_mm: b, is_round: isRound };
    const body = {
      name: name.trim(),
      kind,
      fibres: kind === "cloth" ? Object.fromEntries(parts.map((p) => [p?.[2] ?? "", number(p?.[1] ?? "0") / 100])) : {},
      colour,
      colour_name: colourName.trim(),
      thickness_mm: number(thick),
      scorch_c: number(scorch),
      coated: kind === "hard" && coated,
      stretch,
      price: price.replace(",", ".").trim() || "0",
      sizes: blank?.sizes ?? { one: size },
      obstacles: obstacles.map((o) => ({
        kind: o.kind,
        side: o.side,
        x_mm: number(o.x),
        y_mm: number(o.y),
        width_mm: number(o.wide),
        height_mm: number(o.long),
        stands_mm: number(o.stands),
      })),
    };
    const id =
      blank?.id ??
      name
        .trim()
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")
        .replace(/^-|-$/g, "");
    try {
      const saved = await told<Blank>(api.PUT("/api/blanks/{blank_id}", { params: { path: { blank_id: id } }, body }));
      for (const queryKey of [["shop"], ["blank"], ["job"], ["advice"]]) queries.invalidateQueries({ queryKey });
      onSaved(saved.id);
      onClose();
    } catch (error) {
      if (error instanceof ProblemError) setWrong(`${error.happened} ${error.kept} ${error.thenDo}`);
    }
  };
  const labels = {
    flat: ["Width", "Height"],
    mug: ["Diameter", "Height", "Handle's strip"],
    tube: ["Flat width", "Length", "Fold over"],
  }[shape];
  return (
    <Overlay title={blank ? `Change ${blank.name.toLowerCase()}` : "A blank of our own"} open onClose={onClose} wide>
      <form
        className="grid grid-cols-2 gap-x-6 gap-y-3 max-[700px]:grid-cols-1"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <Typed label="Name" value={name} onChange={setName} />
        <Pick
          label="It is"
          value={kind}
          options={[
            { id: "cloth", name: "cloth" },
            { id: "hard", name: "hard goods" },
          ]}
          onChange={setKind}
        />
        {kind === "cloth" ? (
          <Typed label="Fibres, in per cent" value={fibres} onChange={setFibres} />
        ) : (
          <Switch label="Coated" hint="its coating takes dye" value={coated} onChange={setCoated} />
        )}
        <Pick
          label="Stretch"
          value={stretch}
          options={[
            { id: "none", name: "none" },
            { id: "some", name: "some" },
            { id: "much", name: "much" },
          ]}
          onChange={setStretch}
        />
        <div>
          <label>
            <span className="font-semibold">Colour</span>
            <span className="flex gap-2">
              <input
                type="color"
                aria-label="Pick the colour"
                value={colour.toLowerCase()}
                onChange={(e) => setColour(e.target.value.toUpperCase())}
                className="h-11 w-14"
              />
              <input className="field num" value={colour} onChange={(e) => setColour(e.target.value.toUpperCase())} />
            </span>
          </label>
        </div>
        <Typed label="What the colour is called" value={colourName} onChange={setColourName} />
        <div className="col-span-full">
          <FromPhotograph onPicked={setColour} />
        </div>
        <div className="grid grid-cols-3 gap-2">
          <Typed label="Thick, mm" value={thick} onChange={setThick} />
          <Typed label="Scorches, °C" value={scorch} onChange={setScorch} />
          <Typed label="Price, €" value={price} onChange={setPrice} />
        </div>
        {!blank && (
          <>
            <Pick label="Shape" value={shape} options={[...SHAPES]} onChange={setShape} />
            <div className="grid grid-cols-3 gap-2">
              {labels.map((label, i) => (
                <Typed
                  key={label}
                  label={`${label}, mm`}
                  value={measures[i] ?? ""}
                  onChange={(v) => setMeasures(measures.map((m, k) => (k === i ? v : m)))}
                />
              ))}
            </div>
            {shape === "flat" && <Switch label="Round" hint="a disc" value={isRound} onChange={setRound} />}
          </>
        )}
        <Obstacles rows={obstacles} onChange={setObstacles} />
        {wrong && (
          <p role="alert" className="col-span-full border-l-4 border-stop pl-3 text-stop">
            {wrong}
          </p>
        )}
        <div className="col-span-full flex gap-2">
          <Button kind="go" type="submit">
            Save it
          </Button>
          <Button onClick={onClose}>Leave it</Button>
        </div>
      </form>
    </Overlay>
  );
}
