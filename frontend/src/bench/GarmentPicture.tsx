import { type ReactNode, useId } from "react";
import type { Garment } from "../api/types";
import { useUnits } from "../settings/settings";
import { say } from "../texts/say";
import { isDark, useView } from "./Bench";
import { useSteady } from "./steady";

/** The blank to scale; children are drawn over the cloth. */
export function GarmentPicture({
  garment,
  children,
  centre = true,
}: {
  garment: Garment;
  children?: ReactNode;
  centre?: boolean;
}) {
  const view = useView();
  const place = `translate(${view.x(0)} ${view.y(0)}) scale(${view.scale})`;
  const rim = isDark(garment.colour) ? "#5b646b" : "#8f9498";
  return (
    <g>
      <g transform={place}>
        <path
          d={garment.outline}
          fill={garment.colour}
          stroke={rim}
          strokeWidth={1.2}
          vectorEffect="non-scaling-stroke"
        />
        <path d={garment.collar} fill="none" stroke={rim} strokeWidth={5} vectorEffect="non-scaling-stroke" />
      </g>
      <Obstacles garment={garment} />
      {centre && (
        <path
          d={`M${view.x(0)} ${view.y(0)}V${view.y(garment.bounds_mm[3])}`}
          stroke="#8d949c"
          strokeDasharray="6 6"
          opacity={0.7}
        />
      )}
      {garment.others?.map((other) => (
        <g key={other.name} data-other>
          <rect
            x={view.x(other.box.x_mm)}
            y={view.y(other.box.y_mm)}
            width={other.box.width_mm * view.scale}
            height={other.box.height_mm * view.scale}
            fill={rim}
            fillOpacity={0.25}
            stroke={rim}
            strokeDasharray="4 3"
          />
          <text
            x={view.x(other.box.x_mm) + 6}
            y={view.y(other.box.y_mm + other.box.height_mm) - 6}
            fontSize={14}
            fill={isDark(garment.colour) ? "#e8e4da" : "#1b2124"}
          >
            {other.name.toLowerCase()}
          </text>
        </g>
      ))}
      {children}
      {garment.up_by && <UpMark garment={garment} />}
      {garment.safe && (
        <path
          d={garment.safe}
          transform={place}
          fill="none"
          stroke="#1f6f7a"
          strokeWidth={1.4}
          strokeDasharray="7 5"
          vectorEffect="non-scaling-stroke"
          data-safe
        />
      )}
    </g>
  );
}

/** The hanger or the stand on the other side: which way is up. */
function UpMark({ garment }: { garment: Garment }) {
  const view = useView();
  const isStand = garment.up_by === "stand";
  const [, top, , bottom] = garment.bounds_mm;
  const x = view.x(0);
  const y = isStand ? view.y(bottom) - 26 : view.y(top) + 26;
  const shape = isStand
    ? `M${x - 14} ${y + 22}L${x} ${y - 8}L${x + 14} ${y + 22}`
    : `M${x - 12} ${y}L${x} ${y - 14}L${x + 12} ${y}Z`;
  return (
    <g fill="none" data-up={garment.up_by}>
      <path d={shape} stroke="#fbf9f4" strokeWidth={5} strokeLinejoin="round" />
      <path d={shape} stroke="#1b2124" strokeWidth={1.6} strokeDasharray="4 3" />
      <text
        x={x + 20}
        y={isStand ? y + 18 : y}
        fontSize={14}
        fill="#1b2124"
        stroke="#fbf9f4"
        strokeWidth={4}
        paintOrder="stroke"
      >
        {say("{up_by}, behind", { up_by: garment.up_by })}
      </text>
    </g>
  );
}

/** What stands up on this side: hatched, heavier where the print lies over it. */
function Obstacles({ garment }: { garment: Garment }) {
  const view = useView();
  const units = useUnits();
  if (!garment.obstacles?.length) return null;
  return (
    <g>
      <defs>
        <pattern id="stands-up" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <path d="M0 0V7" stroke="#c9a06a" strokeWidth="2.4" />
        </pattern>
      </defs>
      {garment.obstacles.map((o) => {
        const [x, y] = [view.x(o.x_mm), view.y(o.y_mm)];
        const below = Math.min(o.y_mm + o.height_mm, garment.bounds_mm[3]) - o.y_mm;
        const [w, h] = [o.width_mm * view.scale, below * view.scale];
        const said = say("{kind}, {stands_mm} high", { kind: o.kind, stands_mm: units.length(o.stands_mm, 1) });
        // Where it would run off the cloth it stands below instead, or above what reaches to the lower edge.
        const isBelow = x + w + said.length * 8 + 10 > Math.min(view.width, view.x(garment.bounds_mm[2]));
        return (
          <g key={`${o.kind}-${o.x_mm}-${o.y_mm}`}>
            <rect
              x={x}
              y={y}
              width={w}
              height={h}
              fill="url(#stands-up)"
              stroke="#c9a06a"
              strokeWidth={o.is_under ? 3 : 1}
            />
            <text
              x={isBelow ? x + w : x + w + 6}
              textAnchor={isBelow ? "end" : "start"}
              y={!isBelow ? y + Math.min(h - 4, 16) : y + h + 22 < view.height ? y + h + 17 : y - 6}
              fontSize={14}
              fontWeight={o.is_under ? 700 : 400}
              fill="#e6cfa4"
              stroke="#3a2c10"
              strokeWidth={3}
              paintOrder="stroke"
            >
              {said}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** A picture in the print's box. */
export function PrintPicture({ garment, href, opacity = 1 }: { garment: Garment; href: string; opacity?: number }) {
  const view = useView();
  const steady = useSteady(href);
  const box = garment.box;
  const id = useId();
  if (!box) return null;
  const [left, top, right, bottom] = garment.bounds_mm;
  const bleeds =
    box.x_mm < left || box.y_mm < top || box.x_mm + box.width_mm > right || box.y_mm + box.height_mm > bottom;
  if (bleeds && garment.origin !== "collar") return <Bled garment={garment} href={steady} id={id} />;
  return (
    <image
      href={steady}
      x={view.x(box.x_mm)}
      y={view.y(box.y_mm)}
      width={box.width_mm * view.scale}
      height={box.height_mm * view.scale}
      preserveAspectRatio="none"
      opacity={opacity}
    />
  );
}

/** A print larger than its blank: what hangs over the edge is pale, for it is never pressed. */
function Bled({ garment, href, id }: { garment: Garment; href: string; id: string }) {
  const view = useView();
  const box = garment.box;
  if (!box) return null;
  const at = {
    x: view.x(box.x_mm),
    y: view.y(box.y_mm),
    width: box.width_mm * view.scale,
    height: box.height_mm * view.scale,
  };
  const place = `translate(${view.x(0)} ${view.y(0)}) scale(${view.scale})`;
  return (
    <g>
      <clipPath id={id}>
        <path d={garment.outline} transform={place} />
      </clipPath>
      <image href={href} {...at} preserveAspectRatio="none" opacity={0.3} />
      <image href={href} {...at} preserveAspectRatio="none" clipPath={`url(#${id})`} />
      <path
        d={garment.outline}
        transform={place}
        fill="none"
        stroke="#1b2124"
        strokeWidth={1.6}
        vectorEffect="non-scaling-stroke"
      />
    </g>
  );
}
