import type pg from "pg";
import type { Kind } from "../../src/core/metric/model";
import { Batch } from "../../src/core/otlp/batch/batch";
import { Dictionary, type KnownSeries } from "../../src/core/otlp/dictionary";
import { Committer } from "../../src/store/commit";
import { type BackgroundJob, runJob } from "../../src/store/jobs/job";
import { HOURS, MERGING } from "../../src/store/jobs/upkeep";

/** Points that tests write straight into the store, and the store's upkeep on demand. */

export interface Counter {
  series: KnownSeries;
  /** When it started counting, Unix ms. */
  start: number;
  /** Times in Unix ms, rising, with the running count at each. */
  points: [time: number, count: number][];
}

/** Series of one metric, one per value of an attribute. */
export function seriesOf(
  name: string,
  attribute: string,
  values: readonly string[],
  kind: Kind = "sum",
  service = "mason",
): KnownSeries[] {
  const dictionary = new Dictionary();
  const temporality = kind === "gauge" ? "none" : "cumulative";
  const metric = dictionary.metric({ name, kind, unit: "{brick}", temporality, monotonic: kind === "sum" }, "");
  return values.map((value) =>
    dictionary.series(metric, {
      resource: { "service.name": service, "service.version": "1" },
      scope: { name: "", version: "" },
      attributes: { [attribute]: value },
    }),
  );
}

/** Commits points of counters, all times together that fall into one of `commits` even parts. */
export async function commitCounters(pool: pg.Pool, counters: readonly Counter[], commits = 1): Promise<void> {
  const committer = new Committer(pool);
  const first = Math.min(...counters.map(({ points }) => points[0][0]));
  const last = Math.max(...counters.map(({ points }) => points[points.length - 1][0]));
  for (let part = 0; part < commits; part++) {
    const from = first + ((last - first + 1) * part) / commits;
    const to = first + ((last - first + 1) * (part + 1)) / commits;
    const batch = new Batch();
    for (const { series, start, points } of counters) {
      for (const [time, count] of points) {
        if (time < from || time >= to) continue;
        batch.number(series, { timeMs: time, timeNs: 0, startMs: start, startNs: 0, flags: 0 }, count);
      }
    }
    await committer.commit([batch]);
  }
}

/** The running count at a moment: even between points, as the definition of an increase says. */
export function countAt({ points }: Counter, moment: number): number {
  if (moment <= points[0][0]) return points[0][1];
  for (let i = 1; i < points.length; i++) {
    const [t, v] = points[i];
    const [t0, v0] = points[i - 1];
    if (moment <= t) return v0 + ((v - v0) * (moment - t0)) / (t - t0);
  }
  return points[points.length - 1][1];
}

/** The strips of a metric by resolution and level. */
export async function stripsOf(pool: pg.Pool, name: string) {
  const { rows } = await pool.query<{ resolution: number; level: number; strips: number; points: number }>(
    `SELECT resolution, level, count(*)::int AS strips, sum(point_count)::int AS points
     FROM strip JOIN metric ON metric.id = metric_id WHERE name = $1 GROUP BY 1, 2 ORDER BY 1, 2`,
    [name],
  );
  return rows;
}

/** Runs a job until nothing is left to do; another process may hold it for a moment. */
async function finish(job: BackgroundJob, pool: pg.Pool, now: number): Promise<void> {
  while ((await runJob(pool, job, now))?.backlog !== 0) await new Promise((resolve) => setTimeout(resolve, 60));
}

/** Merges until nothing is left to do. */
export const mergeAll = (pool: pg.Pool, now: number) => finish(MERGING, pool, now);

/** Merges and rolls up until nothing is left to do. */
export async function settle(pool: pg.Pool, now = Date.now()): Promise<void> {
  await mergeAll(pool, now);
  await finish(HOURS, pool, now);
}
