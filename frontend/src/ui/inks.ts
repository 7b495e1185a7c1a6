import { useShop } from "../api/useShop";

/** How an ink is drawn; white is a light grey, so that it is seen on paper. */
export const INKS: Record<string, { fill: string; edge: string }> = {
  C: { fill: "#278fbe", edge: "#0d3d54" },
  M: { fill: "#bb3c72", edge: "#54102f" },
  Y: { fill: "#dcb52a", edge: "#5b4600" },
  K: { fill: "#363a3e", edge: "#9aa4ab" },
  O: { fill: "#dd7b24", edge: "#5a2c00" },
  G: { fill: "#2f8f56", edge: "#0c3a20" },
  R: { fill: "#c0392f", edge: "#521009" },
  B: { fill: "#3d55ad", edge: "#131f52" },
  V: { fill: "#72509f", edge: "#2b1746" },
  LC: { fill: "#9fcde3", edge: "#2f6f8c" },
  LM: { fill: "#e0a5bf", edge: "#87425f" },
  LK: { fill: "#8d9499", edge: "#3f464b" },
  W: { fill: "#c9d3d8", edge: "#45535b" },
};

/** What an ink is called. */
export function useInkNames(): { names: Record<string, string>; nameOf: (channel: string) => string } {
  const names = useShop().shop?.ink_names ?? {};
  return { names, nameOf: (channel) => names[channel] ?? channel };
}
