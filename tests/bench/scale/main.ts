import { readFileSync } from "node:fs";
import type pg from "pg";
import { connect } from "../../../src/store/database/connect";
import { migrateStore } from "../../../src/store/database/migrate";
import { UPKEEP } from "../../../src/store/jobs/all";
import { runJob } from "../../../src/store/jobs/job";
import { SUMMING } from "../../../src/store/summary/summing";
import { letIn } from "../../e2e/asProgram";
import { inMs, median } from "../measure";
import { fillStore, type Size } from "./fill";
import { type AskedCall, openPages } from "./pages";

/**
 * What pages and jobs cost in a store that grew for years, beside the demonstration's alone. `fill` adds what there is
 * much of to a store; `measure` asks both; `jobs` asks for the jobs only.
 */

const factor = Number(process.env.SCALE ?? 1);
const days = Number(process.env.SCALE_DAYS ?? 1);
const SIZE: Size = {
  metrics: Math.round(10_000 * factor),
  instances: Math.round(50_000 * factor),
  series: Math.round(1_000_000 * factor),
  days: { raw: Math.ceil(7 * days), minutes: Math.ceil(60 * days), hours: Math.ceil(400 * days) },
};
const ROUNDS = 3;
/** Passes of a job before it is measured. */
const LEARNING = 2;
/** An answer that counts is kept for fifty times as long as it took, at most this long, s. */
const KEPT = { times: 50, most: 60 };

interface Store {
  name: string;
  url: string;
  web: string;
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

async function ask(web: string, { path, body }: AskedCall): Promise<void> {
  const response = await fetch(web + path, {
    headers: { "Content-Type": "application/json" },
    ...(body === undefined ? {} : { method: "POST", body: JSON.stringify(body) }),
  });
  const text = await response.text();
  if (!response.ok && !text.includes("no metric named"))
    throw new Error(`${path} answered ${response.status}: ${text}`);
}

/** What an open page takes of a processor by asking this again and again, of 1. */
function dutyOf({ every, counts }: AskedCall, ms: number): number {
  if (every === null) return 0;
  const seconds = ms / 1000;
  return seconds / Math.max(every, counts ? Math.min(KEPT.times * seconds, KEPT.most) : 0);
}

const percent = (part: number) => `${(part * 100).toFixed(1)} %`;

const keyOf = ({ path, body }: AskedCall) => JSON.stringify([path, body]);

/** Median times of calls in each store, ms. What is kept in proportion to its cost is asked when it is not kept any more. */
async function timesOf(stores: readonly Store[], calls: readonly AskedCall[]): Promise<Map<string, number[]>> {
  const rounds = new Map<string, number[][]>(calls.map((call) => [keyOf(call), stores.map(() => [])]));
  for (const kept of [false, true]) {
    const some = calls.filter(({ counts }) => (counts ?? false) === kept);
    for (let round = 0; round <= ROUNDS; round++) {
      if (kept && round > 0) await new Promise((resolve) => setTimeout(resolve, KEPT.most * 1000 + 200));
      for (const call of some)
        for (const [i, { web }] of stores.entries()) {
          const ms = await timed(() => ask(web, call));
          if (round > 0) rounds.get(keyOf(call))![i].push(ms);
        }
    }
  }
  return new Map([...rounds].map(([key, all]) => [key, all.map(median)]));
}

async function measurePages(stores: readonly Store[]): Promise<void> {
  const pages = openPages(Date.now());
  const calls = new Map(pages.flatMap(({ calls }) => calls.map((call) => [keyOf(call), call])));
  const known = await timesOf(stores, [...calls.values()]);
  console.log(`\n| call | ${stores.map(({ name }) => name).join(" | ")} |`);
  console.log(`|---|${stores.map(() => "---").join("|")}|`);
  for (const [key, { path }] of calls)
    console.log(`| ${path.slice(0, 60)} | ${known.get(key)!.map(inMs).join(" | ")} |`);
  const whole: string[][] = [];
  for (const { name, calls } of pages) {
    const duty = stores.map(() => 0);
    const longest = stores.map(() => 0);
    for (const call of calls)
      known.get(keyOf(call))!.forEach((ms, i) => {
        duty[i] += dutyOf(call, ms);
        longest[i] = Math.max(longest[i], ms);
      });
    whole.push([name, ...stores.flatMap((_, i) => [inMs(longest[i]), percent(duty[i])])]);
  }
  console.log(
    `\n| page | ${stores.flatMap(({ name }) => [`longest call, ${name}`, `open page, ${name}`]).join(" | ")} |`,
  );
  console.log(`|---|${stores.flatMap(() => ["---", "---"]).join("|")}|`);
  for (const row of whole) console.log(`| ${row.join(" | ")} |`);
}

/** Whoever reported last does so still: what is silent costs jobs nothing. */
async function reportOn(pool: pg.Pool): Promise<void> {
  for (const table of ["activity", "release"])
    await pool.query(`UPDATE ${table} SET last_at = $1 WHERE last_at >= (SELECT max(last_at) FROM ${table}) - 60000`, [
      Date.now(),
    ]);
}

async function measureJobs(stores: readonly Store[]): Promise<void> {
  console.log(
    `\n| job | ${stores.flatMap(({ name }) => [`a pass, ${name}`, `of a processor, ${name}`]).join(" | ")} |`,
  );
  console.log(`|---|${stores.flatMap(() => ["---", "---"]).join("|")}|`);
  for (const job of UPKEEP) {
    const row: string[] = [job.name];
    for (const { url } of stores) {
      const pool = connect({ connectionString: url });
      await reportOn(pool);
      // The first passes do and learn what there is; what is measured is looking whether there is more.
      for (let pass = 0; pass < LEARNING; pass++) await runJob(pool, job);
      const times: number[] = [];
      for (let round = 0; round < ROUNDS; round++) times.push(await timed(() => runJob(pool, job)));
      const ms = median(times);
      const rest = job.looksAtAll ? Math.max(job.every, 9 * ms) : job.every;
      row.push(inMs(ms), percent(ms / (ms + rest)));
      await pool.end();
    }
    console.log(`| ${row.join(" | ")} |`);
  }
}

/** Has all report, and counts what is there, as upkeep does from a store's first minute on. */
async function sumUp(stores: readonly Store[]): Promise<void> {
  for (const { url } of stores) {
    const pool = connect({ connectionString: url });
    await reportOn(pool);
    await runJob(pool, SUMMING);
    await pool.end();
  }
}

const [what, file] = process.argv.slice(2);
if (what === "fill") {
  const pool = connect();
  await migrateStore(pool);
  await fillStore(pool, SIZE, (told) => console.log(told));
  await pool.end();
} else {
  const stores = JSON.parse(readFileSync(file, "utf8")) as Store[];
  for (const { url } of stores) await letIn(url);
  await sumUp(stores);
  if (what !== "jobs") await measurePages(stores);
  await measureJobs(stores);
}
