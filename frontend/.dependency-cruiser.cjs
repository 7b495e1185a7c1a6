// Who may know whom, from below: texts, api, settings, ui, bench and readings, line, then the pages, then the app.
const LAYERS = [["texts"], ["api"], ["settings"], ["ui"], ["bench", "readings"], ["line"], ["stations", "shop", "press-mode", "people"]];
const path = (folders) => `^src/(${folders.join("|")})/`;
// The page, and what serves it with the network cut.
const APP = "^src/((App|main)\\.tsx|sw\\.ts)$";

const layers = LAYERS.map((folders, i) => ({
  name: `${folders.join("-and-")}-knows-nothing-above`,
  severity: "error",
  from: { path: path(folders) },
  to: { path: [APP, ...LAYERS.slice(i + 1).map(path)] },
}));
// Pages stand beside each other: what two of them share moves down.
const pages = LAYERS.at(-1).map((folder) => ({
  name: `${folder}-knows-no-other-pages`,
  severity: "error",
  from: { path: `^src/${folder}/` },
  to: { path: path(LAYERS.at(-1).filter((f) => f !== folder)) },
}));

module.exports = {
  forbidden: [
    { name: "no-circle", severity: "error", from: {}, to: { circular: true } },
    // Exhaustive: a file that stands in no layer says where it belongs first.
    { name: "everything-has-a-layer", severity: "error", from: { path: "^src/", pathNot: [APP, "^src/styles\\.css$", ...LAYERS.map(path)] }, to: {} },
    { name: "nobody-uses-what-has-no-layer", severity: "error", from: {}, to: { path: "^src/", pathNot: [APP, "^src/styles\\.css$", ...LAYERS.map(path)] } },
    ...layers,
    ...pages,
  ],
  options: { tsConfig: { fileName: "tsconfig.json" }, tsPreCompilationDeps: true, doNotFollow: { path: "node_modules" } },
};
