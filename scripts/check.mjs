import { checkHouse } from "./lib/houseRules.mjs";
import { checkLightPages } from "./lib/lightPages.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Tests that hold a written document against what it is written from. */
const DOCUMENTS = [
  "src/core/api/document",
  "src/core/settings",
  "src/core/pipeline/steps",
  "src/core/reading/aggregations",
  "src/core/sheet/file",
];

const bin = (name) => `${root}/node_modules/.bin/${name}`;

/** Formatter and linter. */
export async function lint() {
  step("Format and lint");
  await run(bin("biome"), ["check", "--error-on-warnings", "."]);
}

/** Strict types, import rules, rules of the house, and unused code. */
export async function checkStructure() {
  step("Types");
  await run(bin("next"), ["typegen"], { quiet: true });
  await run(bin("tsc"), ["--noEmit", "-p", "."]);
  step("Import directions and cycles");
  await run(bin("depcruise"), ["--config", ".dependency-cruiser.cjs", "src", "--output-type", "err"]);
  step("Rules of the house");
  checkHouse();
  await checkLightPages();
  step("Unused code");
  await run(bin("knip"), []);
}

/** Holds the documents that are written out of declarations against them; `npm run document` writes them anew. */
async function checkDocuments() {
  step("Documents");
  await run(bin("jest"), ["--silent", ...DOCUMENTS], { quiet: true });
}

if (process.argv[1]?.endsWith("check.mjs")) {
  await main(async () => {
    await ensureModules();
    await lint();
    await checkStructure();
    await checkDocuments();
  });
}
