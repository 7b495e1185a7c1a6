import type { ReactNode } from "react";
import { say } from "../../texts/say";

/** Of a bench's height, kept for what stands under a drawn run. */
export const UNDER_PX = 104;

type UnderProps = { mirrored: boolean; said: string; children?: ReactNode };

/** What is said under a drawn run: it breaks where the bench ends. */
export function Under({ mirrored, said, children }: UnderProps) {
  return (
    <div className="max-w-3xl px-6 pt-1 pb-3 text-sm text-soft">
      <p>
        <span className="font-semibold text-ink">
          {mirrored ? say("MIRRORED: it must read backwards here.") : say("Not mirrored: it reads as worn.")}
        </span>{" "}
        {said}
      </p>
      {children}
    </div>
  );
}
