import { ensureModules } from "./lib/modules.mjs";
import { root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Holds the statistics of comparisons against traffic whose truth is known, and times them. BENCH_PAIRS says of how many pairs. */
main(async () => {
  await ensureModules();
  const { bundle } = await import("./lib/build.mjs");
  await bundle(["compare"]);
  step("Simulating (some minutes)");
  await run(process.execPath, ["--enable-source-maps", ".build/compare.js"], { cwd: root });
});
