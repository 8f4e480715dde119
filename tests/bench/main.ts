import { writeFileSync } from "node:fs";
import { connect } from "../../src/store/connect";
import { migrateStore } from "../../src/store/migrate";
import { benchDecode } from "./decode";
import { table } from "./measure";
import { benchCounters, benchPercentiles } from "./read";
import { benchWrite } from "./write";

/** All benchmarks, or those named in BENCH_ONLY, one after the other, on a database of their own. */

const pool = connect();
await migrateStore(pool);
const all: Record<string, () => Promise<void>> = {
  decode: benchDecode,
  write: () => benchWrite(pool),
  counters: () => benchCounters(pool),
  percentiles: () => benchPercentiles(pool),
};
const wanted = process.env.BENCH_ONLY?.split(",") ?? Object.keys(all);
for (const name of wanted) {
  const bench = all[name];
  if (!bench) throw new Error(`no benchmark ${name}; there are ${Object.keys(all).join(", ")}`);
  await bench();
}
await pool.end();
if (process.env.BENCH_TABLE) writeFileSync(process.env.BENCH_TABLE, `${table()}\n`);
