import { DuckDBInstance } from "@duckdb/node-api";
import type pg from "pg";
import { toIntervals } from "../../src/core/histogram/intervals";
import { quantile } from "../../src/core/histogram/quantile";
import type { PointSet } from "../../src/core/metric/model";
import type { KnownMetric } from "../../src/core/otlp/dictionary";
import type { ReadingResult } from "../../src/core/reading/result";
import { JOBS } from "../../src/engine/jobs";
import type { Caches } from "../../src/engine/load";
import { SeriesCache } from "../../src/engine/seriesCache";
import { StripCache } from "../../src/engine/stripCache";
import { transaction } from "../../src/store/database/connect";
import type { Field } from "../../src/store/database/copyBinary";
import { ensurePartitions, MINUTES, RAW } from "../../src/store/database/partitions";
import { registerSeries } from "../../src/store/registry/registry";
import { settledStrips } from "../../src/store/strips/merge";
import { writeStrips } from "../../src/store/strips/strips";
import { BOUNDS, counterDay, DAY_POINTS, histogramDay, makeSeries, RELEASES, START, STEP } from "./data";
import { alternate, inMs, note } from "./measure";
import { arrayBytes, copyRows } from "./write";

const EVERY = 300_000;
const WIDTH = BOUNDS.length + 1;
const FROM = START;
const TO = START + (DAY_POINTS - 1) * STEP;

type Grid = Map<string, number>;

/** Writes sets and returns the bytes of their strips as they arrived; minutes wait in `rollUp`. */
export async function store(pool: pg.Pool, metric: KnownMetric, sets: PointSet[]) {
  const strips = settledStrips(metric.id, metric.identity, sets);
  const write = async (resolution: typeof RAW | typeof MINUTES) => {
    const some = strips.filter((strip) => strip.resolution === resolution);
    await ensurePartitions(
      pool,
      resolution,
      some.map(({ from }) => from),
    );
    await transaction(pool, (client) => writeStrips(client, some));
    return some.reduce((sum, { payload }) => sum + payload.length, 0);
  };
  return { bytes: await write(RAW), rollUp: () => write(MINUTES) };
}

/** Caches as a thread of the engine has them when it starts. */
export function emptyCaches(): Caches {
  return { series: new SeriesCache(), strips: new StripCache(512 * 1024 * 1024) };
}

/** Answers a reading as a thread of the engine does. */
export async function read(
  pool: pg.Pool,
  caches: Caches,
  text: string,
  from = FROM,
  to = TO,
  every: number | null = EVERY,
): Promise<ReadingResult> {
  return transaction(pool, async (client) => {
    const job = { type: "reading", text, from, to, every, zone: "UTC", picks: {} } as const;
    return (await JOBS.reading({ client, caches, stillWanted: () => {} }, job)) as ReadingResult;
  });
}

/** Rows of the table for a reading: nothing kept in memory, decoded columns kept, and from minutes. */
async function compare(
  pool: pg.Pool,
  { text, work, targets }: { text: string; work: string; targets: [sql: string, duck: string] },
  rollUp: () => Promise<number>,
  sql: () => Promise<unknown>,
  duck: () => Promise<unknown>,
): Promise<void> {
  const kept = emptyCaches();
  const [fresh, warm, a, b] = await alternate(
    [
      { name: "ours", run: () => read(pool, emptyCaches(), text) },
      { name: "ours, kept", run: () => read(pool, kept, text) },
      { name: "SQL", run: sql },
      { name: "DuckDB", run: duck },
    ],
    5,
  );
  const ms = ({ ms: time }: { ms: number }) => inMs(time);
  for (const [what, ours] of [
    ["fetched and decoded", fresh],
    ["decoded columns kept", warm],
  ] as const) {
    note(`${work}, ${what}`, "best SQL", ms(ours), ms(a), a.ms / ours.ms, targets[0]);
    note(`${work}, ${what}`, "DuckDB, sorted", ms(ours), ms(b), b.ms / ours.ms, targets[1]);
  }
  note(
    `${work}, fetch and decode`,
    "fold over decoded columns in memory",
    ms(fresh),
    ms(warm),
    warm.ms / fresh.ms,
    "≥ 0.25×",
  );
  const before = gridOf(await read(pool, emptyCaches(), text));
  await rollUp();
  const rolled = await read(pool, emptyCaches(), text);
  if (rolled.resolution !== "minute") throw new Error(`read from ${rolled.resolution}, not from minutes`);
  expectEqual(before, gridOf(rolled), "minutes");
  const [minutes] = await alternate([{ name: "minutes", run: () => read(pool, emptyCaches(), text) }], 5);
  note(`${work}, from minutes`, "from points as they arrived", ms(minutes), ms(fresh), fresh.ms / minutes.ms, "≥ 4×");
}

function gridOf(result: ReadingResult): Grid {
  const grid: Grid = new Map();
  for (const { labels, values } of result.series) {
    values.forEach((value, i) => {
      if (value !== null) grid.set(`${labels["service.version"]} ${result.times[i]}`, value);
    });
  }
  return grid;
}

/** Baselines must give the same cells before their times count. */
function expectEqual(ours: Grid, theirs: Grid, what: string): void {
  if (ours.size !== theirs.size) throw new Error(`${what}: ${ours.size} cells, baseline ${theirs.size}`);
  for (const [key, value] of ours) {
    const other = theirs.get(key);
    if (other === undefined || Math.abs(other - value) > 1e-6 * Math.max(1, Math.abs(value)))
      throw new Error(`${what}: ${key} is ${value}, baseline ${other}`);
  }
}

const CELL = `ceil((t - ${FROM}) / ${EVERY}.0) * ${EVERY} + ${FROM}`;
const cellEnd = (time: number) => Math.min(time, TO);

async function loadDuck(
  database: Awaited<ReturnType<DuckDBInstance["connect"]>>,
  table: string,
  columns: readonly string[],
  sets: readonly PointSet[],
  width: number,
) {
  await database.run(
    `CREATE TABLE ${table} (series INTEGER, t BIGINT, ${columns.map((name) => `${name} BIGINT`).join(", ")})`,
  );
  const appender = await database.createAppender(table);
  sets.forEach((set, series) => {
    for (let i = 0; i < set.count; i++) {
      appender.appendInteger(series);
      appender.appendBigInt(BigInt(set.timeMs[i]));
      for (let c = 0; c < width; c++) appender.appendBigInt(BigInt(set.columns[c][i]));
      appender.endRow();
    }
  });
  appender.closeSync();
  await database.run(`CREATE TABLE sorted_${table} AS SELECT * FROM ${table} ORDER BY series, t; DROP TABLE ${table}`);
}

/** Increase with resets over 1,000 counters, by release, a day at 15 s in steps of 5 minutes. */
export async function benchCounters(pool: pg.Pool): Promise<void> {
  const { metric, series } = makeSeries("bench.counter", "sum", 1000);
  await registerSeries(pool, series);
  const sets = series.map((one, i) => counterDay(one, i + 1));
  const { bytes, rollUp } = await store(pool, metric, sets);
  await pool.query("CREATE TABLE counter_row (series integer, t bigint, value bigint)");
  for (let from = 0; from < sets.length; from += 50) {
    const rows = sets.slice(from, from + 50).flatMap((set, k) =>
      Array.from(set.timeMs, (at, i): Field[] => [
        { type: "int4", value: from + k },
        { type: "int8", value: at },
        { type: "int8", value: set.columns[0][i] },
      ]),
    );
    await transaction(pool, (client) => copyRows(client, "counter_row", rows));
  }
  await pool.query("CREATE INDEX ON counter_row (series, t) INCLUDE (value)");
  await pool.query("VACUUM ANALYZE counter_row");
  const size = await pool.query<{ size: string }>("SELECT pg_total_relation_size('counter_row') AS size");
  const perRow = Number(size.rows[0].size) / (sets.length * DAY_POINTS);
  const perPoint = bytes / (sets.length * DAY_POINTS);
  note(
    "disk per point, counters",
    "rows with index",
    `${perPoint.toFixed(2)} B`,
    `${perRow.toFixed(1)} B`,
    perRow / perPoint,
    "≥ 80×",
  );

  const sql = `SELECT s % ${RELEASES} AS release, ${CELL} AS cell, sum(CASE WHEN value >= before THEN value - before ELSE value END)::float8 AS more
    FROM generate_series(0, 999) s, LATERAL (
      SELECT t, value, lag(value) OVER (ORDER BY t) AS before FROM counter_row WHERE series = s AND t >= ${FROM} AND t <= ${TO} ORDER BY t) p
    WHERE before IS NOT NULL GROUP BY 1, 2`;
  const duck = await (await DuckDBInstance.create(":memory:", { threads: "2" })).connect();
  await loadDuck(duck, "counters", ["value"], sets, 1);
  const duckSql = `SELECT series % ${RELEASES} AS release, ${CELL} AS cell, sum(CASE WHEN value >= before THEN value - before ELSE value END)::DOUBLE AS more
    FROM (SELECT series, t, value, lag(value) OVER (PARTITION BY series ORDER BY t) AS before FROM sorted_counters WHERE t >= ${FROM} AND t <= ${TO})
    WHERE before IS NOT NULL GROUP BY 1, 2`;
  const text = "count of bench.counter by release";
  const ours = gridOf(await read(pool, emptyCaches(), text));
  const rows = (await pool.query<{ release: number; cell: string; more: number }>(sql)).rows;
  expectEqual(
    ours,
    new Map(rows.map(({ release, cell, more }) => [`1.${release} ${cellEnd(Number(cell))}`, more])),
    "counters, SQL",
  );
  const fromDuck = (await duck.runAndReadAll(duckSql)).getRows();
  expectEqual(
    ours,
    new Map(fromDuck.map(([release, cell, more]) => [`1.${release} ${cellEnd(Number(cell))}`, Number(more)])),
    "counters, DuckDB",
  );
  await compare(
    pool,
    { text, work: "increase with resets, 1,000 series, 24 h", targets: ["≥ 40×", "≥ 10×"] },
    rollUp,
    () => pool.query(sql),
    () => duck.runAndReadAll(duckSql),
  );
  await pool.query("DROP TABLE counter_row");
}

/** The 95th percentile of 200 histograms of 14 buckets, by release, a day at 15 s in steps of 5 minutes. */
export async function benchPercentiles(pool: pg.Pool): Promise<void> {
  const { metric, series } = makeSeries("bench.histogram", "histogram", 200);
  await registerSeries(pool, series);
  const sets = series.map((one, i) => histogramDay(one, i + 1));
  const { bytes, rollUp } = await store(pool, metric, sets);
  await pool.query("CREATE TABLE bucket_row (series integer, t bigint, counts bigint[], total bigint)");
  for (let from = 0; from < sets.length; from += 20) {
    const rows = sets.slice(from, from + 20).flatMap((set, k) =>
      Array.from(set.timeMs, (at, i): Field[] => {
        const counts = Array.from({ length: WIDTH }, (_, c) => set.columns[c][i]);
        return [
          { type: "int4", value: from + k },
          { type: "int8", value: at },
          { type: "bytea", value: arrayBytes(counts) },
          { type: "int8", value: counts.reduce((x, y) => x + y, 0) },
        ];
      }),
    );
    await transaction(pool, (client) => copyRows(client, "bucket_row", rows));
  }
  await pool.query("CREATE INDEX ON bucket_row (series, t)");
  await pool.query("VACUUM ANALYZE bucket_row");
  const size = await pool.query<{ size: string }>("SELECT pg_total_relation_size('bucket_row') AS size");
  const perRow = Number(size.rows[0].size) / (sets.length * DAY_POINTS);
  const perPoint = bytes / (sets.length * DAY_POINTS);
  note(
    "disk per point, 14-bucket histograms",
    "rows with arrays",
    `${perPoint.toFixed(1)} B`,
    `${perRow.toFixed(0)} B`,
    perRow / perPoint,
    "≥ 15×",
  );

  const more = Array.from(
    { length: WIDTH },
    (_, c) => `sum(counts[${c + 1}] - before[${c + 1}])::float8 AS b${c}`,
  ).join(", ");
  const sql = `SELECT s % ${RELEASES} AS release, ${CELL} AS cell, ${more}
    FROM generate_series(0, 199) s, LATERAL (
      SELECT t, counts, lag(counts) OVER (ORDER BY t) AS before FROM bucket_row WHERE series = s AND t >= ${FROM} AND t <= ${TO} ORDER BY t) p
    WHERE before IS NOT NULL GROUP BY 1, 2`;
  const duck = await (await DuckDBInstance.create(":memory:", { threads: "2" })).connect();
  const names = Array.from({ length: WIDTH }, (_, c) => `b${c}`);
  await loadDuck(duck, "buckets", names, sets, WIDTH);
  const duckSql = `SELECT series % ${RELEASES} AS release, ${CELL} AS cell, ${names.map((name) => `sum(${name} - p_${name})::DOUBLE`).join(", ")}
    FROM (SELECT series, t, ${names.map((name) => `${name}, lag(${name}) OVER w AS p_${name}`).join(", ")} FROM sorted_buckets WHERE t >= ${FROM} AND t <= ${TO} WINDOW w AS (PARTITION BY series ORDER BY t))
    WHERE p_b0 IS NOT NULL GROUP BY 1, 2`;
  const text = "p95 of bench.histogram by release";
  const p95 = (counts: readonly number[]) =>
    quantile(toIntervals({ kind: "explicit", bounds: BOUNDS }, counts, 0.001, 9.5), 0.95)!.value;
  const ours = gridOf(await read(pool, emptyCaches(), text));
  const rows = (await pool.query(sql)).rows as (Record<string, number> & { cell: string })[];
  expectEqual(
    ours,
    new Map(rows.map((row) => [`1.${row.release} ${cellEnd(Number(row.cell))}`, p95(names.map((name) => row[name]))])),
    "p95, SQL",
  );
  const fromDuck = (await duck.runAndReadAll(duckSql)).getRows();
  expectEqual(
    ours,
    new Map(
      fromDuck.map(([release, cell, ...counts]) => [`1.${release} ${cellEnd(Number(cell))}`, p95(counts.map(Number))]),
    ),
    "p95, DuckDB",
  );
  await compare(
    pool,
    { text, work: "p95 by release, 200 14-bucket series, 24 h", targets: ["≥ 60×", "≥ 6×"] },
    rollUp,
    () => pool.query(sql),
    () => duck.runAndReadAll(duckSql),
  );
  await pool.query("DROP TABLE bucket_row");
}
