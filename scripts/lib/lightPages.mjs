import path from "node:path";
import { root } from "./run.mjs";
import { Stop } from "./say.mjs";

/** What pages load before anything is drawn: what they look at comes first, what is only needed to change it later. */

/** Large packages that no page needs to show what there is. Types cost nothing. */
const HEAVY =
  /^(zod|react-hook-form|re2js|cmdk|@floating-ui\/.*|@tanstack\/react-virtual|@codemirror\/.*|@dnd-kit\/.*|yaml)(\/|$)/;

/** What stands around every page, and the pages that people look at all day. */
const LIGHT = [
  "src/ui/query/providers.tsx",
  "src/ui/frame/frame.tsx",
  "src/ui/home/homePage.tsx",
  "src/ui/ladder/ladderPage.tsx",
  "src/ui/compare/comparePage.tsx",
  "src/ui/services/servicesPage.tsx",
  "src/ui/services/servicePage.tsx",
  "src/ui/sheet/sheetsPage.tsx",
  "src/ui/sheet/sheetPage.tsx",
  "src/ui/store/storePage.tsx",
  "src/ui/scratch/scratchPage.tsx",
  "src/ui/instruments/instrumentPage.tsx",
];

/** By which files an entry comes to a heavy package, the package first; null where it does not at once. */
function wayToHeavy(entry, inputs) {
  const before = new Map([[entry, null]]);
  for (const file of before.keys())
    for (const { path: to, kind, external } of inputs[file].imports) {
      if (kind === "dynamic-import") continue;
      if (external && HEAVY.test(to)) {
        const way = [to];
        for (let at = file; at !== null; at = before.get(at)) way.push(at);
        return way;
      }
      if (!external && !before.has(to)) before.set(to, file);
    }
  return null;
}

/** @throws Stop with every page that loads at once what it needs later */
export async function checkLightPages() {
  // Packages may be installed only now.
  const { build } = await import("esbuild");
  const { metafile } = await build({
    absWorkingDir: root,
    entryPoints: LIGHT,
    bundle: true,
    splitting: true,
    write: false,
    metafile: true,
    outdir: path.join(root, ".build", "light"),
    packages: "external",
    format: "esm",
    jsx: "automatic",
    logLevel: "silent",
  });
  const heavy = LIGHT.map((entry) => wayToHeavy(entry, metafile.inputs)).filter(Boolean);
  if (heavy.length > 0) throw new Stop(heavy.map((way) => way.join("\n    < ")).join("\n  "));
}
