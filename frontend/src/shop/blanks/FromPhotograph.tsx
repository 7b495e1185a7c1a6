import { type PointerEvent, useRef, useState } from "react";
import { say } from "../../texts/say";
import { Button } from "../../ui/parts";

const WIDE = 420;
const HIGH = 220;
/** A patch this wide, in pixels, is averaged: yarns and noise are not the cloth's colour. */
const PATCH = 15;

/** The cloth's colour from a photograph: a patch where the hand points. The picture stays in the browser. */
export function FromPhotograph({ onPicked }: { onPicked: (hex: string) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const file = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState("");
  const [isOpen, setOpen] = useState(false);
  const show = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      const picture = await createImageBitmap(chosen);
      const scale = Math.min(WIDE / picture.width, HIGH / picture.height);
      const at = canvas.current;
      if (!at) return;
      at.width = Math.max(1, Math.round(picture.width * scale));
      at.height = Math.max(1, Math.round(picture.height * scale));
      at.getContext("2d", { willReadFrequently: true })?.drawImage(picture, 0, 0, at.width, at.height);
      setOpen(true);
      setSaid(say("Point at a plain, evenly lit place of the cloth."));
    } catch {
      setSaid(say("This picture cannot be read. Choose a PNG or JPEG."));
    }
  };
  const pick = (e: PointerEvent<HTMLCanvasElement>) => {
    const at = canvas.current;
    if (!at) return;
    const box = at.getBoundingClientRect();
    const x = Math.max(
      0,
      Math.min(at.width - PATCH, Math.round(((e.clientX - box.left) / box.width) * at.width - PATCH / 2)),
    );
    const y = Math.max(
      0,
      Math.min(at.height - PATCH, Math.round(((e.clientY - box.top) / box.height) * at.height - PATCH / 2)),
    );
    const data = at.getContext("2d")?.getImageData(x, y, PATCH, PATCH).data;
    if (!data) return;
    const sums = [0, 0, 0];
    for (let i = 0; i < data.length; i += 4) for (const k of [0, 1, 2]) sums[k] = (sums[k] ?? 0) + (data[i + k] ?? 0);
    const hex = sums
      .map((s) =>
        Math.round(s / (data.length / 4))
          .toString(16)
          .padStart(2, "0"),
      )
      .join("");
    onPicked(`#${hex.toUpperCase()}`);
    setSaid(
      say("Taken: #{colour}. Light and camera shift it; a swatch under daylight is nearest.", {
        colour: hex.toUpperCase(),
      }),
    );
  };
  return (
    <div>
      <input
        ref={file}
        type="file"
        accept="image/*"
        className="hidden"
        aria-label={say("Photograph of the cloth")}
        onChange={(e) => void show(e.target.files?.[0])}
      />
      <Button onClick={() => file.current?.click()}>{say("Colour from a photograph")}</Button>
      {said && <p className="mt-1 text-sm text-soft">{said}</p>}
      <canvas
        ref={canvas}
        onPointerDown={pick}
        className={`mt-2 cursor-crosshair rounded border border-hair2 ${isOpen ? "" : "hidden"}`}
      />
    </div>
  );
}
