import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ProblemError, told } from "../../api/client";
import type { Blank } from "../../api/types";
import { say } from "../../texts/say";
import { worded } from "../../texts/words";
import { useMoney } from "../../ui/money";
import { Overlay } from "../../ui/Overlay";
import { Button, Pick, Switch } from "../../ui/parts";
import { Typed } from "../../ui/Typed";
import { FromPhotograph } from "./FromPhotograph";
import { Obstacles, type Stands, typed } from "./Obstacles";
import { type Corners, OwnOutline } from "./OwnOutline";
import { type Own, OwnPlaces, ownOf } from "./OwnPlaces";
import { draftsOf, SHAPES, type Shape, SizeTable, shapeOf, sizesOf } from "./SizeTable";

const MATERIALS: NonNullable<Blank["material"]>[] = [
  "",
  "coated metal",
  "hardboard",
  "ceramic",
  "glass",
  "wood-grain",
  "plastic",
];

type BlankFormProps = {
  blank?: Blank;
  /** Another colour of this one: all but its colour and price is taken over. */
  like?: Blank;
  onClose: () => void;
  onSaved: (id: string) => void;
};

/** A blank of the shop's own: what it is made of, its colour, its measures. */
export function BlankForm({ blank, like, onClose, onSaved }: BlankFormProps) {
  const { sign } = useMoney();
  const queries = useQueryClient();
  const from = blank ?? like;
  const [name, setName] = useState(from?.name ?? "");
  const [kind, setKind] = useState<Blank["kind"]>(from?.kind ?? "cloth");
  const [fibres, setFibres] = useState(
    Object.entries(from?.fibres ?? { cotton: 1 })
      .map(([f, share]) => `${Math.round(share * 100)} ${f}`)
      .join(", "),
  );
  const [colour, setColour] = useState(blank?.colour ?? "#FFFFFF");
  const [colourName, setColourName] = useState(blank?.colour_name ?? (like ? "" : "white"));
  const [plural, setPlural] = useState(from?.plural ?? "");
  const [thick, setThick] = useState(String(from?.thickness_mm ?? 0.4));
  const [scorch, setScorch] = useState(String(from?.scorch_c ?? 205));
  const [price, setPrice] = useState(String(from?.price ?? ""));
  const [coated, setCoated] = useState(from?.coated ?? false);
  const [material, setMaterial] = useState<NonNullable<Blank["material"]>>(from?.material ?? "");
  const [foil, setFoil] = useState(from?.foil ?? true);
  const [upBy, setUpBy] = useState<NonNullable<Blank["up_by"]>>(from?.up_by ?? "");
  const [stretch, setStretch] = useState<NonNullable<Blank["stretch"]>>(from?.stretch ?? "some");
  const [shape, setShape] = useState<Shape>(shapeOf(Object.values(from?.sizes ?? {})[0]));
  const [sizes, setSizes] = useState(() => draftsOf(shape, from?.sizes));
  const [isRound, setRound] = useState(() =>
    Object.values(from?.sizes ?? {}).some((s) => "is_round" in s && s.is_round === true),
  );
  const [outline, setOutline] = useState<Corners>(() => {
    const first = Object.values(from?.sizes ?? {})[0];
    return first && "outline" in first ? ((first.outline ?? []) as Corners) : [];
  });
  const [obstacles, setObstacles] = useState<Stands[]>(() => (from?.obstacles ?? []).map(typed));
  const [places, setPlaces] = useState<Own[]>(() => (from?.places ?? []).map(ownOf));
  const [isPair, setPair] = useState((from?.items ?? 1) > 1);
  const [wrong, setWrong] = useState("");
  const number = (text: string) => Number(text.replace(",", "."));

  const save = async () => {
    const parts = fibres
      .split(",")
      .map((p) => p.trim())
      .filter(Boolean)
      .map((p) => /^(\d+(?:[.,]\d+)?)\s*%?\s+(.+)$/.exec(p));
    if (kind === "cloth" && parts.some((p) => !p)) return setWrong(say("Give fibres as “60 polyester, 40 cotton”."));
    const measured = sizesOf(shape, sizes, isRound, outline, from?.sizes);
    if (typeof measured === "string") return setWrong(measured);
    const body = {
      name: name.trim(),
      kind,
      fibres: kind === "cloth" ? Object.fromEntries(parts.map((p) => [p?.[2] ?? "", number(p?.[1] ?? "0") / 100])) : {},
      colour,
      plural: plural.trim(),
      colour_name: colourName.trim(),
      thickness_mm: number(thick),
      scorch_c: number(scorch),
      coated: kind === "hard" && coated,
      material: kind === "hard" ? material : ("" as const),
      foil,
      up_by: kind === "hard" ? upBy : ("" as const),
      stretch,
      price: price.replace(",", ".").trim() || "0",
      sizes: measured,
      items: isPair ? Math.max(2, from?.items ?? 2) : 1,
      places: places.map((p) => ({
        name: p.name.trim().toLowerCase(),
        width_mm: number(p.wide),
        height_mm: number(p.high),
      })),
      article: blank ? (blank.article ?? "") : like ? like.article || like.id : "",
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
    try {
      const saved = await told<Blank>(
        blank
          ? api.PUT("/api/blanks/{blank_id}", { params: { path: { blank_id: blank.id } }, body })
          : api.POST("/api/blanks", { body }),
      );
      for (const queryKey of [["shop"], ["blank"], ["job"], ["advice"]]) queries.invalidateQueries({ queryKey });
      onSaved(saved.id);
      onClose();
    } catch (error) {
      if (error instanceof ProblemError) setWrong(`${error.happened} ${error.kept} ${error.thenDo}`);
    }
  };
  return (
    <Overlay
      title={
        blank
          ? say("Change {name}", { name: blank.name.toLowerCase() })
          : like
            ? say("Another colour of {name}", { name: like.name.toLowerCase() })
            : say("A blank of our own")
      }
      open
      onClose={onClose}
      wide
    >
      <form
        className="grid grid-cols-2 gap-x-6 gap-y-3 max-[700px]:grid-cols-1"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <div className="grid grid-cols-2 gap-2">
          <Typed label={say("Name")} value={name} onChange={setName} />
          <Typed
            label={say("Several are called")}
            value={plural}
            onChange={setPlural}
            hint={`${name.trim() || say("name")}s`}
          />
        </div>
        <Pick
          label={say("It is")}
          value={kind}
          options={[
            { id: "cloth", name: say("cloth") },
            { id: "hard", name: say("hard goods") },
          ]}
          onChange={setKind}
        />
        {kind === "cloth" ? (
          <Typed label={say("Fibres, in per cent")} value={fibres} onChange={setFibres} />
        ) : (
          <div className="grid gap-2">
            <Pick
              label={say("Made of")}
              value={material}
              options={MATERIALS.map((m) => ({ id: m, name: m ? worded(m) : say("not known yet: it will be asked") }))}
              onChange={setMaterial}
            />
            <Switch label={say("Coated")} hint={say("its coating takes dye")} value={coated} onChange={setCoated} />
            <Switch
              label={say("Protective foil")}
              hint={say("comes off before it is pressed")}
              value={foil}
              onChange={setFoil}
            />
            <Pick
              label={say("Which way is up is told by")}
              value={upBy}
              options={[
                { id: "", name: say("nothing: it may be turned") },
                { id: "hanger", name: say("its hanger") },
                { id: "stand", name: say("its stand") },
              ]}
              onChange={setUpBy}
            />
          </div>
        )}
        {kind === "cloth" && (
          <Pick
            label={say("Stretch")}
            value={stretch}
            options={[
              { id: "none", name: say("none") },
              { id: "some", name: say("some") },
              { id: "much", name: say("much") },
            ]}
            onChange={setStretch}
          />
        )}
        <div>
          <label>
            <span className="font-semibold">{say("Colour")}</span>
            <span className="flex gap-2">
              <input
                type="color"
                aria-label={say("Pick the colour")}
                value={colour.toLowerCase()}
                onChange={(e) => setColour(e.target.value.toUpperCase())}
                className="h-11 w-14"
              />
              <input className="field num" value={colour} onChange={(e) => setColour(e.target.value.toUpperCase())} />
            </span>
          </label>
        </div>
        <Typed label={say("What the colour is called")} value={colourName} onChange={setColourName} />
        <div className="col-span-full">
          <FromPhotograph onPicked={setColour} />
        </div>
        <div className="grid grid-cols-3 gap-2">
          <Typed label={say("Thick, mm")} value={thick} onChange={setThick} />
          <Typed label={say("Scorches, °C")} value={scorch} onChange={setScorch} />
          <Typed label={say("Price, {sign}", { sign })} value={price} onChange={setPrice} />
        </div>
        {!from && (
          <Pick
            label={say("Shape")}
            value={shape}
            options={(Object.keys(SHAPES) as Shape[]).map((id) => ({ id, name: SHAPES[id].name }))}
            onChange={(chosen) => {
              setShape(chosen);
              setSizes(draftsOf(chosen, undefined));
            }}
          />
        )}
        {shape === "flat" && !outline.length && (
          <Switch label={say("Round")} hint={say("a disc")} value={isRound} onChange={setRound} />
        )}
        {shape === "flat" && <OwnOutline corners={outline} onChange={setOutline} />}
        <SizeTable shape={shape} rows={sizes} onChange={setSizes} />
        <Switch
          label={say("A pair")}
          hint={say("two alike things, each with its own print")}
          value={isPair}
          onChange={setPair}
        />
        <Obstacles rows={obstacles} onChange={setObstacles} />
        <OwnPlaces rows={places} onChange={setPlaces} />
        {wrong && (
          <p role="alert" className="col-span-full border-l-4 border-stop pl-3 text-stop">
            {wrong}
          </p>
        )}
        <div className="col-span-full flex gap-2">
          <Button kind="go" type="submit">
            {say("Save it")}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
    </Overlay>
  );
}
