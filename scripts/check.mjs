import { checkHouse } from "./lib/houseRules.mjs";
import { ensureModules } from "./lib/packages.mjs";
import { root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

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
  step("Unused code");
  await run(bin("knip"), []);
}

if (process.argv[1]?.endsWith("check.mjs")) {
  await main(async () => {
    await ensureModules();
    await lint();
    await checkStructure();
  });
}
