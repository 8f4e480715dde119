import type pg from "pg";
import { emptyPointSet, type PointSet } from "../../src/core/metric/model";
import { Batch } from "../../src/core/otlp/batch/batch";
import { type Random, seeded } from "../../src/demo/random";
import { Committer } from "../../src/store/commit";
import { transaction } from "../../src/store/database/connect";
import type { Field } from "../../src/store/database/copyBinary";
import { runJob } from "../../src/store/jobs/job";
import { MERGING } from "../../src/store/jobs/upkeep";
import { registerSeries } from "../../src/store/registry/registry";
import { DAY_POINTS, makeSeries, START, STEP } from "./data";
import { note } from "./measure";
import { store } from "./read";
import { copyRows } from "./write";

const SERIES = 100;

type Step = (level: number, random: Random) => number;

/** A level with two decimals that drifts, and a sum of amounts with all their digits. */
const SHAPES: Record<string, { step: Step; target: string }> = {
  gauges: { step: (level, random) => Math.round((level + random() * 4 - 2) * 100) / 100, target: "≥ 50×" },
  doubles: { step: (level, random) => level + random() * 0.37, target: "≥ 10×" },
};

function dayOf(seriesId: number, seed: number, step: Step): PointSet {
  const random = seeded(seed);
  const set = emptyPointSet({ kind: "number" }, DAY_POINTS);
  set.series.fill(seriesId);
  let level = 200;
  for (let i = 0; i < DAY_POINTS; i++) {
    level = step(level, random);
    set.timeMs[i] = START + i * STEP;
    set.columns[0][i] = level;
  }
  return set;
}

/** Bytes on disk for gauges and doubles, against a row per point with its index. */
export async function benchDisk(pool: pg.Pool): Promise<void> {
  for (const [name, { step, target }] of Object.entries(SHAPES)) {
    const { metric, series } = makeSeries(`bench.disk.${name}`, "sum", SERIES);
    await registerSeries(pool, series);
    const sets = series.map(({ id }, i) => dayOf(id, i + 1, step));
    const { bytes } = await store(pool, metric, sets);
    await pool.query(
      "CREATE TABLE level_row (series integer, t bigint, value bigint); CREATE INDEX ON level_row (series, t)",
    );
    for (const [k, set] of sets.entries()) {
      // A double takes eight bytes as a bigint does: only the size matters here.
      const rows = Array.from(set.timeMs, (at, i): Field[] => [
        { type: "int4", value: k },
        { type: "int8", value: at },
        { type: "int8", value: Math.round(set.columns[0][i] * 1e6) },
      ]);
      await transaction(pool, (client) => copyRows(client, "level_row", rows));
    }
    await pool.query("VACUUM ANALYZE level_row");
    const size = await pool.query<{ size: string }>("SELECT pg_total_relation_size('level_row') AS size");
    const points = SERIES * DAY_POINTS;
    const [ours, theirs] = [bytes / points, Number(size.rows[0].size) / points];
    note(
      `disk per point, ${name}`,
      "rows with index",
      `${ours.toFixed(2)} B`,
      `${theirs.toFixed(1)} B`,
      theirs / ours,
      target,
    );
    await pool.query("DROP TABLE level_row");
  }
}

async function walOf(pool: pg.Pool, work: () => Promise<void>): Promise<number> {
  await pool.query("CHECKPOINT");
  const at = async () =>
    (await pool.query<{ at: string }>("SELECT pg_current_wal_lsn() - '0/0'::pg_lsn AS at")).rows[0].at;
  const before = Number(await at());
  await work();
  return Number(await at()) - before;
}

/** Write-ahead log per point: two hours of commits of 1,000 points, merged and rolled up, against rows. */
export async function benchWal(pool: pg.Pool): Promise<void> {
  const count = 1000;
  const commits = 480;
  const { series } = makeSeries("bench.wal", "sum", count);
  await registerSeries(pool, series);
  const committer = new Committer(pool);
  const from = START - 86400_000;
  const ours = await walOf(pool, async () => {
    for (let t = 0; t < commits; t++) {
      const batch = new Batch();
      const head = { timeMs: from + t * STEP, timeNs: 0, startMs: from, startNs: 0, flags: 0 };
      series.forEach((one, i) => {
        batch.number(one, head, t * 40 + ((i * t) % 31));
      });
      await committer.commit([batch]);
    }
    await runJob(pool, MERGING, from + 86400_000);
  });
  await pool.query(
    "CREATE TABLE wal_row (series integer, t bigint, value bigint); CREATE INDEX ON wal_row (series, t)",
  );
  const theirs = await walOf(pool, async () => {
    for (let t = 0; t < commits; t++) {
      const rows = series.map((_, i): Field[] => [
        { type: "int4", value: i },
        { type: "int8", value: from + t * STEP },
        { type: "int8", value: t * 40 + ((i * t) % 31) },
      ]);
      await transaction(pool, (client) => copyRows(client, "wal_row", rows));
    }
  });
  await pool.query("DROP TABLE wal_row");
  const points = count * commits;
  note(
    "WAL per point, merging and minutes included",
    "rows with index",
    `${(ours / points).toFixed(1)} B`,
    `${(theirs / points).toFixed(0)} B`,
    theirs / ours,
    "≥ 12×",
  );
}
