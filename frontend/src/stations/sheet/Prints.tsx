import { useId } from "react";
import type { CutView, RunLayout } from "../../api/types";
import { angleOf, lying, Numbered } from "../../bench/roll";
import { useSteady } from "../../bench/steady";
import { say } from "../../texts/say";

export function Prints({
  layout,
  cut,
  hrefs,
  names,
  x,
  y,
  scale,
  lines = [],
}: {
  layout: RunLayout;
  cut: number;
  hrefs: string[];
  names: string[];
  x: number;
  y: number;
  scale: number;
  /** Of each sort, where a cutter follows a line. */
  lines?: CutView[] | undefined;
}) {
  const label = (layout.label_um / 1000) * scale;
  const tile = layout.tiles?.[cut - 1];
  if (tile)
    return (
      <Part
        layout={layout}
        tile={tile}
        href={hrefs[layout.places[tile.number - 1]?.sort ?? 0] ?? ""}
        x={x}
        y={y}
        scale={scale}
      />
    );
  return (
    <>
      {layout.places
        .filter((p) => p.cut === cut)
        .map((p) => {
          const sort = p.sort ?? 0;
          const size = layout.sorts[sort];
          if (!size) return null;
          const [w, h] = [(size.width_um / 1000) * scale, (size.height_um / 1000) * scale];
          const [px, py] = [x + (p.y_um / 1000) * scale, y + (p.x_um / 1000) * scale];
          const own: [number, number] = [
            ((size.own_um?.[0] ?? 0) / 1000) * scale,
            ((size.own_um?.[1] ?? 0) / 1000) * scale,
          ];
          const at = lying(angleOf(p, size.slant), px, py, h, w, size.slant ? own : undefined);
          return (
            <g key={p.number}>
              <g transform={at.turn}>
                <SteadyImage href={hrefs[sort] ?? ""} width={at.width} height={at.height} />
                {lines[sort] && <CutLine line={lines[sort]} wide={at.width} />}
              </g>
              {names.length > 1 && <title>{names[sort]}</title>}
              <path
                d={`M${px - label * 0.35} ${py + w / 2}H${px}M${px + h} ${py + w / 2}h${Math.max(2, label * 0.3)}`}
                stroke="#1b2124"
                strokeWidth={1.5}
              />
              <rect x={px} y={py} width={h} height={w} fill="none" stroke="#d8e2e5" strokeDasharray="3 3" />
              <rect x={px - label * 0.75} y={py} width={Math.max(1.5, label * 0.4)} height={w * 0.55} fill="#1b2124" />
              {h > 26 && (
                <Numbered x={px} y={py}>
                  {String(p.number)}
                </Numbered>
              )}
            </g>
          );
        })}
    </>
  );
}

export const PART_SAID = say(
  "Around each part, cut away later: which one it is, and ticks where its neighbours begin and end.",
);

type PartProps = {
  layout: RunLayout;
  tile: NonNullable<RunLayout["tiles"]>[number];
  href: string;
  x: number;
  y: number;
  scale: number;
};

/** One part of a print that is too large for one length: the rest of it is not there. */
function Part({ layout, tile, href, x, y, scale }: PartProps) {
  const id = useId();
  const place = layout.places[tile.number - 1];
  const size = layout.sorts[place?.sort ?? 0];
  if (!place || !size) return null;
  const px = (um: number) => (um / 1000) * scale;
  // Along the roll lies what is up on the print.
  const [tx, ty, tw, th] = [x + px(tile.y_um), y + px(tile.x_um), px(tile.height_um), px(tile.width_um)];
  const at = lying(angleOf(place), tx - px(tile.low_um), ty - px(tile.left_um), px(size.height_um), px(size.width_um));
  return (
    <g>
      <clipPath id={id}>
        <rect x={tx} y={ty} width={tw} height={th} />
      </clipPath>
      <g clipPath={`url(#${id})`}>
        <g transform={at.turn}>
          <SteadyImage href={href} width={at.width} height={at.height} />
        </g>
      </g>
      <rect x={tx} y={ty} width={tw} height={th} fill="none" stroke="#d8e2e5" strokeDasharray="3 3" />
      {tw > 26 && (
        <Numbered x={tx} y={ty}>
          {`${tile.number}.${((layout.tiles ?? []).indexOf(tile) % (layout.tiles ?? []).filter((t) => t.number === tile.number).length) + 1}`}
        </Numbered>
      )}
    </g>
  );
}

function SteadyImage({ href, width, height }: { href: string; width: number; height: number }) {
  return <image href={useSteady(href)} width={width} height={height} preserveAspectRatio="none" />;
}

/** What the blade follows, and what goes through the carrier, as wide as its print is drawn. */
function CutLine({ line, wide }: { line: CutView; wide: number }) {
  const drawn = [
    { d: line.through, colour: "#7a1fd0" },
    { d: line.d, colour: "#d01a5b" },
  ].filter((l) => l.d);
  return drawn.map((l) => (
    <path
      key={l.colour}
      d={l.d}
      transform={`scale(${wide / line.width_mm})`}
      vectorEffect="non-scaling-stroke"
      fill="none"
      stroke={l.colour}
      strokeWidth={1.6}
    />
  ));
}
