import type { ReactNode } from "react";
import type { Garment } from "../api/types";
import { useView } from "./Bench";
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
      {centre && (
        <path
          d={`M${view.x(0)} ${view.y(0)}V${view.y(garment.bounds_mm[3])}`}
          stroke="#8d949c"
          strokeDasharray="6 6"
          opacity={0.7}
        />
      )}
      {children}
    </g>
  );
}

/** A picture in the print's box. */
export function PrintPicture({ garment, href, opacity = 1 }: { garment: Garment; href: string; opacity?: number }) {
  const view = useView();
  const steady = useSteady(href);
  const box = garment.box;
  if (!box) return null;
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

export function isDark(hex: string): boolean {
  const [r, g, b] = [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)) as [number, number, number];
  return 0.2126 * r + 0.7152 * g + 0.0722 * b < 128;
}
