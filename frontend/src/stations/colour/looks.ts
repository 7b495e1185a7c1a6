import type { Pictures } from "../../api/types";
import { say } from "../../texts/say";

/** How a print can be looked at. F goes through those of the print; what was asked stands beside them. */
export const LOOKS = [
  { id: "cloth", name: say("on this piece") },
  { id: "pressed", name: say("pressed, on white") },
  { id: "carrier", name: say("on its carrier") },
] as const;
export const BESIDE = [{ id: "asked", name: say("as the file asks") }, ...LOOKS] as const;
export type Look = (typeof BESIDE)[number]["id"];

export const lookAt = (flips: number): Look => LOOKS[flips % LOOKS.length]?.id ?? "cloth";
export const pictureOf = (pictures: Pictures, look: Look): string => pictures[look];
export const nameOf = (look: Look): string => BESIDE.find((l) => l.id === look)?.name ?? look;
