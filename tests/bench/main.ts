import { writeFileSync } from "node:fs";
import path from "node:path";
import { connect } from "../../src/store/database/connect";
import { migrateStore } from "../../src/store/database/migrate";
import { benchDecode } from "./decode";
import { benchDisk, benchWal } from "./disk";
import { benchCold, benchGrowth, benchMemory, benchOneSeries } from "./growth";
import { benchKeys } from "./keys";
import { benchLane } from "./lane";
import { table } from "./measure";
import { benchCounters, benchPercentiles } from "./read";
import { benchText } from "./text";
import { benchTogether } from "./together";
import { benchWrite } from "./write";

/** All benchmarks, or those named in BENCH_ONLY, one after the other, on a database of their own. */

/** Restarts the cluster of the benchmark, which its script says in the environment. */
async function restart(): Promise<void> {
  const { startServer, stopServer } = (await import(path.resolve("scripts/lib/cluster.mjs"))) as {
    startServer: (home: string, port: number, settings: string[]) => Promise<void>;
    stopServer: (home: string, mode: string) => Promise<void>;
  };
  const home = process.env.BENCH_CLUSTER!;
  await stopServer(home, "fast");
  await startServer(home, Number(new URL(process.env.DATABASE_URL!).port), JSON.parse(process.env.BENCH_SETTINGS!));
}

const pool = connect();
await migrateStore(pool);
const all: Record<string, () => Promise<void>> = {
  decode: benchDecode,
  keys: () => benchKeys(pool),
  text: benchText,
  write: () => benchWrite(pool),
  disk: () => benchDisk(pool),
  wal: () => benchWal(pool),
  counters: () => benchCounters(pool),
  percentiles: () => benchPercentiles(pool),
  growth: () => benchGrowth(pool),
  one: () => benchOneSeries(pool),
  together: () => benchTogether(pool),
  cold: () => benchCold(pool, restart),
  memory: async () => benchMemory(),
  lane: () => benchLane(pool),
};
const wanted = process.env.BENCH_ONLY?.split(",") ?? Object.keys(all);
const unknown = wanted.find((name) => !all[name]);
if (unknown) throw new Error(`no benchmark ${unknown}; there are ${Object.keys(all).join(", ")}`);
const failed: string[] = [];
for (const name of wanted) {
  try {
    await all[name]();
  } catch (error) {
    // The others are measured nevertheless, and what was measured is kept.
    failed.push(name);
    console.error(`✗ ${name}: ${(error as Error).message}`);
  }
  if (process.env.BENCH_TABLE) writeFileSync(process.env.BENCH_TABLE, `${table()}\n`);
}
await pool.end();
process.exit(failed.length > 0 ? 1 : 0);
