import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** A long load with processes killed and the database restarted; SOAK_SECONDS sets its length. */
main(async () => {
  await ensurePackages(["postgresql"]);
  await ensureModules();
  const { bundle, buildPages } = await import("./lib/build.mjs");
  await bundle();
  await buildPages();
  step("Soaking");
  await run(process.execPath, ["--enable-source-maps", ".build/soak.js"]);
});
