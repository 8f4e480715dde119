import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { freePort } from "./lib/freePort.mjs";
import { ensureModules } from "./lib/modules.mjs";
import { ensurePackages } from "./lib/packages.mjs";
import { answers, Family, root, run } from "./lib/run.mjs";
import { main, step } from "./lib/say.mjs";

/**
 * What each page's calls and each background job cost in a store of 10,000 metrics, a million series, 50,000 instances and
 * thirteen months of strips (times SCALE), beside the demonstration's store: npm run bench:scale. Takes some 5 GB of disk.
 */

main(async () => {
  await ensurePackages(["postgresql", "jemalloc"]);
  await ensureModules();
  const { bundle, buildPages } = await import("./lib/build.mjs");
  const { startCluster } = await import("./lib/cluster.mjs");
  const data = path.join(root, ".data", `bench-scale-${process.pid}`);
  mkdirSync(data, { recursive: true });
  const family = new Family();
  const database = await startCluster({
    data,
    port: await freePort(),
    settings: ["shared_buffers=512MB", "max_wal_size=4GB"],
  });
  try {
    await bundle();
    await buildPages();
    const stores = [
      { name: "demonstration", url: database.url },
      { name: "years", url: database.url.replace(/\/[^/]+$/, "/years") },
    ];
    const { default: pg } = await import("pg");
    const client = new pg.Client({ connectionString: database.url });
    await client.connect();
    await client.query("CREATE DATABASE years");
    await client.end();
    for (const { url } of stores) {
      step("Fourteen days of history");
      await run(process.execPath, [".build/history.js"], { env: { DATABASE_URL: url } });
    }
    step("Years (some minutes)");
    await run(process.execPath, ["--max-old-space-size=4096", ".build/scale.js", "fill"], {
      env: { DATABASE_URL: stores[1].url },
    });
    for (const store of stores) {
      const port = await freePort();
      family.start("web", process.execPath, ["--max-old-space-size=768", ".build/web.js"], {
        env: {
          TIN_SECRET_KEY: "of a benchmark",
          DATABASE_URL: store.url,
          TIN_WEB_PORT: String(port),
          NODE_ENV: "production",
        },
      });
      store.web = `http://127.0.0.1:${port}`;
      await answers(`${store.web}/api/health`);
    }
    const list = path.join(data, "stores.json");
    writeFileSync(list, JSON.stringify(stores));
    step("Measuring");
    await run(process.execPath, ["--enable-source-maps", ".build/scale.js", "measure", list], {
      env: { DATABASE_URL: stores[0].url },
    });
  } finally {
    await family.end();
    await database.stop();
    rmSync(data, { recursive: true, force: true });
    rmSync(database.home, { recursive: true, force: true });
  }
});
