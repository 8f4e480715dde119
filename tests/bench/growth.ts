import { execFileSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import path from "node:path";
import type pg from "pg";
import { emptyPointSet, type PointSet } from "../../src/core/metric/model";
import type { KnownMetric } from "../../src/core/otlp/dictionary";
import { seeded } from "../../src/demo/random";
import { transaction } from "../../src/store/database/connect";
import { ensurePartitions, HOURS, MINUTES, type Resolution } from "../../src/store/database/partitions";
import { registerSeries } from "../../src/store/registry/registry";
import { HOUR_SPAN, LONG_MERGE_WINDOW, pack } from "../../src/store/strips/mergeWindows";
import { splitBySpan, writeStrips } from "../../src/store/strips/strips";
import { makeSeries, START } from "./data";
import { alternate, inMs, noteSeries } from "./measure";
import { emptyCaches, read, store } from "./read";

const HOUR = 3600_000;
const DAY = 24 * HOUR;

/** A counter with a point every `every` ms over (from, to]. */
function counter(seriesId: number, from: number, to: number, every: number): PointSet {
  const count = Math.floor((to - from) / every);
  const random = seeded(seriesId);
  const set = emptyPointSet({ kind: "number" }, count);
  set.series.fill(seriesId);
  let level = 0;
  for (let i = 0; i < count; i++) {
    level += Math.floor(random() * 40);
    set.timeMs[i] = from + (i + 1) * every;
    set.startMs[i] = from;
    set.columns[0][i] = level;
  }
  return set;
}

async function storeAt(pool: pg.Pool, metric: KnownMetric, sets: PointSet[], resolution: Resolution): Promise<void> {
  const span = resolution === HOURS ? HOUR_SPAN : LONG_MERGE_WINDOW;
  const strips = [...splitBySpan(sets, span).values()].flatMap((some) =>
    pack(metric.id, some, { level: 3, arrived: null, resolution }),
  );
  await ensurePartitions(
    pool,
    resolution,
    strips.map(({ from }) => from),
  );
  await transaction(pool, (client) => writeStrips(client, strips));
}

async function timed(pool: pg.Pool, text: string, from: number, to: number): Promise<[fresh: string, kept: string]> {
  const caches = emptyCaches();
  const [fresh, kept] = await alternate(
    [
      { name: "fresh", run: () => read(pool, emptyCaches(), text, from, to, null) },
      { name: "kept", run: () => read(pool, caches, text, from, to, null) },
    ],
    5,
  );
  return [inMs(fresh.ms), inMs(kept.ms)];
}

const HEAD = ["", "points read", "fetched and decoded", "decoded columns kept"];

/** How a reading's time grows with series, with the span, and with series that are replaced every hour. */
export async function benchGrowth(pool: pg.Pool): Promise<void> {
  const to = START + 12 * HOUR;
  const bySeries: string[][] = [];
  for (const count of [10, 100, 1000, 10_000]) {
    const { metric, series } = makeSeries(`bench.growth.${count}`, "sum", count);
    await registerSeries(pool, series);
    await store(
      pool,
      metric,
      series.map(({ id }) => counter(id, to - 3 * HOUR, to, 15_000)),
    );
    const times = await timed(pool, `count of bench.growth.${count} by release`, to - HOUR, to);
    bySeries.push([count.toLocaleString("en-GB"), (count * 240).toLocaleString("en-GB"), ...times]);
  }
  noteSeries("A reading over an hour at 15 s, by number of series", ["series", ...HEAD.slice(1)], bySeries);

  const bySpan: string[][] = [];
  const { metric, series } = makeSeries("bench.span", "sum", 100);
  await registerSeries(pool, series);
  const end = START + DAY;
  const spans: [string, number, number, Resolution | null][] = [
    ["1 h, raw at 15 s", HOUR, 15_000, null],
    ["1 day, raw at 15 s", DAY, 15_000, null],
    ["14 days, minutes", 14 * DAY, 60_000, MINUTES],
    ["13 months, hours", 396 * DAY, HOUR, HOURS],
  ];
  for (const [name, length, every, resolution] of spans) {
    await pool.query("DELETE FROM strip WHERE metric_id = $1", [metric.id]);
    const sets = series.map(({ id }) => counter(id, end - length, end, every));
    if (resolution === null) await store(pool, metric, sets);
    else await storeAt(pool, metric, sets, resolution);
    const times = await timed(pool, "count of bench.span by release", end - length, end);
    bySpan.push([name, ((100 * length) / every).toLocaleString("en-GB"), ...times]);
  }
  noteSeries("A reading of 100 series, by span", ["span", ...HEAD.slice(1)], bySpan);

  const byChurn: string[][] = [];
  for (const churning of [false, true]) {
    const name = churning ? "bench.churn" : "bench.steady";
    const hours = 24;
    const { metric: one, series: all } = makeSeries(name, "sum", churning ? 1000 * hours : 1000);
    await registerSeries(pool, all);
    const sets = churning
      ? all.map(({ id }, i) => {
          const from = START + (i % hours) * HOUR;
          return counter(id, from, from + HOUR, 15_000);
        })
      : all.map(({ id }) => counter(id, START, START + DAY, 15_000));
    await store(pool, one, sets);
    const times = await timed(pool, `count of ${name} by release`, START, START + DAY);
    byChurn.push([churning ? "1,000, all replaced every hour" : "1,000 that stay", "5,760,000", ...times]);
  }
  noteSeries("A reading over a day, with and without churn", ["series", ...HEAD.slice(1)], byChurn);
}

/** One series out of a thousand: cut out of the strips, or out of all that is fetched. */
export async function benchOneSeries(pool: pg.Pool): Promise<void> {
  const { metric, series } = makeSeries("bench.one", "sum", 1000);
  await registerSeries(pool, series);
  await store(
    pool,
    metric,
    series.map(({ id }) => counter(id, START, START + DAY, 15_000)),
  );
  const one = "count of bench.one where number is 500";
  const all = "count of bench.one by number top 1";
  const [cut, whole] = await alternate(
    [
      { name: "one", run: () => read(pool, emptyCaches(), one, START, START + DAY, null) },
      { name: "all", run: () => read(pool, emptyCaches(), all, START, START + DAY, null) },
    ],
    5,
  );
  noteSeries(
    "One series of 1,000 over a day at 15 s, nothing kept",
    ["what is read", "time"],
    [
      ["one series, cut out of each strip", inMs(cut.ms)],
      ["all series", inMs(whole.ms)],
    ],
  );
}

/** The first reading after the database was started anew, with the system's file cache emptied where that is allowed. */
export async function benchCold(pool: pg.Pool, restart: () => Promise<void>): Promise<void> {
  const rows: string[][] = [];
  for (const [name, text, from, to] of [
    ["1,000 series, a day, raw", "count of bench.steady by release", START, START + DAY],
    ["100 series, 13 months, hours", "count of bench.span by release", START + DAY - 396 * DAY, START + DAY],
  ] as const) {
    const warm: number[] = [];
    const cold: number[] = [];
    let emptied = true;
    for (let round = 0; round < 5; round++) {
      await restart();
      try {
        writeFileSync("/proc/sys/vm/drop_caches", "3");
      } catch {
        emptied = false;
      }
      for (const into of [cold, warm]) {
        const began = performance.now();
        await read(pool, emptyCaches(), text, from, to, null);
        into.push(performance.now() - began);
      }
    }
    const middle = (times: number[]) => inMs(times.sort((a, b) => a - b)[2]);
    rows.push([name, middle(cold), middle(warm), emptied ? "database and file cache" : "database only"]);
  }
  noteSeries("Cold and warm", ["reading", "first after a restart", "second", "what was cold"], rows);
}

/** Greatest memory of a process that answers the largest readings. */
export function benchMemory(): void {
  const job = (text: string, from: number, to: number) => ({
    job: { type: "reading", text, from, to, every: null, zone: "UTC", picks: {} },
  });
  const cases = [
    ["10,000 series, an hour", job("count of bench.growth.10000 by release", START + 11 * HOUR, START + 12 * HOUR)],
    ["1,000 series, a day", job("count of bench.steady by release", START, START + DAY)],
    ["200 histograms of 14 buckets, a day", job("p95 of bench.histogram by release", START, START + DAY - 15_000)],
  ] as const;
  const rows = cases.map(([name, asked]) => {
    const program = `
      import { readFileSync } from "node:fs";
      import run from ${JSON.stringify(path.resolve(".build/engine-worker.js"))};
      const gone = new Int32Array(new SharedArrayBuffer(4));
      for (let i = 0; i < 5; i++) await run({ ...${JSON.stringify(asked)}, gone });
      console.log(/VmHWM:\\s+(\\d+)/.exec(readFileSync("/proc/self/status", "utf8"))[1]);
      process.exit(0);`;
    const out = execFileSync(process.execPath, ["--input-type=module", "-e", program], { encoding: "utf8" });
    return [name, `${Math.round(Number(out.trim()) / 1024)} MiB`];
  });
  noteSeries("Greatest memory of a process that answers one reading five times", ["reading", "resident"], rows);
}
