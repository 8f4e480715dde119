import { check } from "./check.mjs";
import { ensureModules, ensurePackages } from "./lib/packages.mjs";
import { askedToStop, root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Lint, types, unit tests, and end-to-end tests against the built application on databases of their own. */
main(async () => {
  const stop = askedToStop();
  await ensurePackages(["postgresql", "chromium", "systemd"]);
  await ensureModules();
  await check();
  step("Unit tests");
  await run(`${root}/node_modules/.bin/jest`, ["--ci"]);
  const { bundle, buildPages } = await import("./lib/build.mjs");
  const { endToEnd } = await import("./lib/endToEnd.mjs");
  await bundle();
  await buildPages();
  await endToEnd(process.argv.slice(2), stop);
});
