import { mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { freePort } from "./lib/freePort.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { Family, root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Sends by chance and compares the answers with slow, separate arithmetic: FUZZ_ROUNDS and FUZZ_SEED say how often and which. */
main(async () => {
  await ensurePackages(["postgresql"]);
  await ensureModules();
  const [{ bundle, buildPages }, { startCluster }, { startSystem }] = await Promise.all([
    import("./lib/build.mjs"),
    import("./lib/cluster.mjs"),
    import("./lib/system.mjs"),
  ]);
  await bundle();
  await buildPages();
  const data = path.join(root, ".data", `fuzz-${process.pid}`);
  mkdirSync(data, { recursive: true });
  const family = new Family();
  const database = await startCluster({ data, port: await freePort() });
  try {
    const [intakePort, grpcPort, webPort] = [await freePort(), await freePort(), await freePort()];
    const env = await startSystem(family, { databaseUrl: database.url, intakePort, grpcPort, webPort, logs: data });
    step("Comparing by chance");
    await run(process.execPath, ["--enable-source-maps", ".build/fuzz.js"], { env });
  } finally {
    await family.end();
    await database.stop();
    rmSync(data, { recursive: true, force: true });
    rmSync(database.home, { recursive: true, force: true });
  }
});
