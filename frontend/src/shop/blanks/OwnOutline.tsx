import { useState } from "react";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";
import { TakeFile } from "../../ui/TakeFile";

/** Corners as shares of width and height, from the left upper one. */
export type Corners = [number, number][];
const DRAWN = "path, polygon, polyline, rect, circle, ellipse";
const CORNERS = 240;

/** The outline of a thing with a shape of its own, from the first shape of an SVG; its size is typed as ever. */
export function OwnOutline({ corners, onChange }: { corners: Corners; onChange: (corners: Corners) => void }) {
  const [wrong, setWrong] = useState("");
  const take = async (file: File) => {
    const found = file.size > 2_000_000 ? null : cornersOf(await file.text());
    setWrong(
      found
        ? ""
        : say("“{name}” holds no closed shape: give an SVG whose first shape is the outline.", { name: file.name }),
    );
    if (found) onChange(found);
  };
  return (
    <div className="flex flex-wrap items-center gap-3">
      {corners.length > 0 && (
        <svg viewBox="-0.04 -0.04 1.08 1.08" className="size-16" role="img" aria-label={say("Its outline")}>
          <path d={`M${corners.map(([x, y]) => `${x} ${y}`).join("L")}Z`} fill="var(--hair2)" />
        </svg>
      )}
      <TakeFile label={say("Outline as SVG")} accept=".svg,image/svg+xml" onTaken={(file) => void take(file)}>
        {corners.length ? say("Another outline") : say("Its outline, from an SVG")}
      </TakeFile>
      {corners.length > 0 && (
        <Button kind="quiet" onClick={() => onChange([])}>
          {say("A plain rectangle")}
        </Button>
      )}
      {wrong && <p className="text-stop">{wrong}</p>}
    </div>
  );
}

/** Read as a document that runs nothing; measured along its length. */
function cornersOf(text: string): Corners | null {
  const read = new DOMParser().parseFromString(text, "image/svg+xml");
  const drawn = read.querySelector(DRAWN);
  if (!drawn || read.querySelector("parsererror")) return null;
  const shape = document.importNode(drawn, false) as SVGGeometryElement;
  const length = shape.getTotalLength?.() ?? 0;
  if (!(length > 0)) return null;
  const points = Array.from({ length: CORNERS }, (_, i) => shape.getPointAtLength((length * i) / CORNERS));
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  const [wide, high] = [Math.max(...xs) - left, Math.max(...ys) - top];
  if (!(wide > 0 && high > 0)) return null;
  const share = (v: number) => Math.round(v * 1e4) / 1e4;
  return points.map((p) => [share((p.x - left) / wide), share((p.y - top) / high)]);
}
