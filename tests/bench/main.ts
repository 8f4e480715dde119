import { writeFileSync } from "node:fs";
import { connect } from "../../src/store/connect";
import { migrateStore } from "../../src/store/migrate";
import { benchDecode } from "./decode";
import { table } from "./measure";
import { benchCounters, benchPercentiles } from "./read";
import { benchWrite } from "./write";

/** All benchmarks, one after the other, on a database of their own. */

const pool = connect();
await migrateStore(pool);
await benchDecode();
await benchWrite(pool);
await benchCounters(pool);
await benchPercentiles(pool);
await pool.end();
if (process.env.BENCH_TABLE) writeFileSync(process.env.BENCH_TABLE, `${table()}\n`);
