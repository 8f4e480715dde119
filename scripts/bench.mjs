import { mkdirSync, rmSync } from "node:fs";
import path from "node:path";
import { freePort } from "./lib/freePort.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/** Measures against baselines in the same run; prints ratios. BENCH_TABLE=FILE keeps them as a Markdown table. */
main(async () => {
  await ensurePackages(["postgresql"]);
  await ensureModules();
  const { bundle } = await import("./lib/build.mjs");
  const { startCluster } = await import("./lib/cluster.mjs");
  await bundle(["bench", "engine-worker"]);
  const data = path.join(root, ".data", `bench-${process.pid}`);
  mkdirSync(data, { recursive: true });
  const settings = ["work_mem=256MB", "max_parallel_workers_per_gather=2"];
  const database = await startCluster({
    data,
    port: await freePort(),
    settings,
  });
  try {
    step("Measuring (some minutes)");
    await run(process.execPath, ["--max-old-space-size=8192", "--expose-gc", ".build/bench.js"], {
      env: { DATABASE_URL: database.url, BENCH_CLUSTER: database.home, BENCH_SETTINGS: JSON.stringify(settings) },
    });
  } finally {
    await database.stop();
    rmSync(data, { recursive: true, force: true });
    rmSync(database.home, { recursive: true, force: true });
  }
});
