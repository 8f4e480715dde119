import { checkStructure, lint } from "./check.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { askedToStop, root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Waits for all, also where one fails. @throws what the first of them failed with */
async function all(...work) {
  for (const one of await Promise.allSettled(work)) if (one.status === "rejected") throw one.reason;
}

async function unitTests() {
  step("Unit tests");
  await run(`${root}/node_modules/.bin/jest`, ["--ci", "--maxWorkers=2"]);
}

async function checkAndBuild() {
  await checkStructure();
  const { bundle, buildPages } = await import("./lib/build.mjs");
  await bundle();
  await buildPages();
}

/** Lint, types, unit tests, and end-to-end tests against the built application on databases of their own. */
main(async () => {
  const stop = askedToStop();
  await ensurePackages(["postgresql", "chromium", "systemd", "nginx", "openssl"]);
  await ensureModules();
  // What is quickly found is told before anything that takes long.
  await lint();
  await all(unitTests(), checkAndBuild());
  const { endToEnd } = await import("./lib/endToEnd.mjs");
  await endToEnd(process.argv.slice(2), stop);
});
