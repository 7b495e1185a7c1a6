/** How an ink is drawn; white is a light grey, so that it is seen on paper. */
export const INKS: Record<string, { fill: string; edge: string }> = {
  C: { fill: "#278fbe", edge: "#0d3d54" },
  M: { fill: "#bb3c72", edge: "#54102f" },
  Y: { fill: "#dcb52a", edge: "#5b4600" },
  K: { fill: "#363a3e", edge: "#9aa4ab" },
  W: { fill: "#c9d3d8", edge: "#45535b" },
};
