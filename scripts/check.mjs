import { checkHouse } from "./lib/houseRules.mjs";
import { ensureModules } from "./lib/packages.mjs";
import { root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Formatter, linter, strict types, import rules, rules of the house, and unused code. */
export async function check() {
  const bin = (name) => `${root}/node_modules/.bin/${name}`;
  step("Format and lint");
  await run(bin("biome"), ["check", "--error-on-warnings", "."]);
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
    await check();
  });
}
