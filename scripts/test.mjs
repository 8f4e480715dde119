import { mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { check } from "./check.mjs";
import { ensureModules, ensurePackages } from "./lib/packages.mjs";
import { freePort } from "./lib/ports.mjs";
import { askedToStop, Family, root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Lint, types, unit tests, and end-to-end tests against the built application on a database of their own. */
main(async () => {
  const stop = askedToStop();
  await ensurePackages(["postgresql", "chromium"]);
  await ensureModules();
  await check();
  step("Unit tests");
  await run(`${root}/node_modules/.bin/jest`, ["--ci"]);
  const { bundle, buildPages } = await import("./lib/build.mjs");
  const { startCluster } = await import("./lib/cluster.mjs");
  const { startSystem } = await import("./lib/system.mjs");
  await bundle();
  await buildPages();
  const data = path.join(root, ".data", `test-${process.pid}`);
  mkdirSync(data, { recursive: true });
  const family = new Family();
  const database = await startCluster({ data, port: await freePort(), settings: ["fsync=on"] });
  try {
    const [intakePort, grpcPort, webPort] = [await freePort(), await freePort(), await freePort()];
    const env = await startSystem(family, { databaseUrl: database.url, intakePort, grpcPort, webPort, logs: data });
    step("End-to-end tests");
    const tests = run(`${root}/node_modules/.bin/playwright`, ["test", ...process.argv.slice(2)], { env });
    await Promise.race([tests, stop.then(() => Promise.reject(new Error("stopped")))]);
  } finally {
    await family.end();
    await database.stop();
    rmSync(data, { recursive: true, force: true });
    if (database.home) rmSync(database.home, { recursive: true, force: true });
  }
});
