import { eq } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { KeepRequest, ResolutionEntry, ResolutionName, StoreAnswer, StoredMetric } from "@/core/api/store";
import { diskSize, HOURS, MINUTES, RAW, type Resolution } from "./database/partitions";
import { JOB_WORDS } from "./jobs/all";
import { listSetAside } from "./pipeline/setAside";
import { job, metric } from "./schema";
import { listPurges } from "./strips/purge";
import { KEEP } from "./strips/retention";

/** What the store holds, what that costs, and how its upkeep is doing. */

const NAMES: Record<Resolution, ResolutionName> = { [RAW]: "raw", [MINUTES]: "minutes", [HOURS]: "hours" };

interface Portion {
  metricId: number;
  resolution: Resolution;
  strips: number;
  points: number;
  bytes: number;
  oldest: number;
  newest: number;
}

async function portions(pool: pg.Pool): Promise<Portion[]> {
  const { rows } = await pool.query<Record<string, string>>(
    `SELECT metric_id, resolution, count(*) AS strips, sum(point_count) AS points, sum(size::bigint) AS bytes,
       min(t_from) AS oldest, max(t_to) AS newest FROM strip GROUP BY 1, 2`,
  );
  return rows.map((row) => ({
    metricId: Number(row.metric_id),
    resolution: Number(row.resolution) as Resolution,
    strips: Number(row.strips),
    points: Number(row.points),
    bytes: Number(row.bytes),
    oldest: Number(row.oldest),
    newest: Number(row.newest),
  }));
}

function sum(list: readonly Portion[], pick: (portion: Portion) => number): number {
  return list.reduce((total, portion) => total + pick(portion), 0);
}

function ends(list: readonly Portion[]): { oldest: number | null; newest: number | null } {
  if (list.length === 0) return { oldest: null, newest: null };
  return {
    oldest: Math.min(...list.map(({ oldest }) => oldest)),
    newest: Math.max(...list.map(({ newest }) => newest)),
  };
}

async function resolutionEntry(
  pool: pg.Pool,
  all: readonly Portion[],
  resolution: Resolution,
): Promise<ResolutionEntry> {
  const own = all.filter((portion) => portion.resolution === resolution);
  return {
    resolution: NAMES[resolution],
    strips: sum(own, ({ strips }) => strips),
    points: sum(own, ({ points }) => points),
    bytes: sum(own, ({ bytes }) => bytes),
    disk: await diskSize(pool, resolution),
    ...ends(own),
    keep: KEEP[resolution],
  };
}

/** Everything that the store page shows. */
export async function describeStore(pool: pg.Pool): Promise<StoreAnswer> {
  const all = await portions(pool);
  const metrics = await drizzle(pool).select().from(metric);
  const series = await pool.query<{ metric_id: number; count: string; overflows: boolean }>(
    `SELECT metric_id, count(*), bool_or(attributes @> '{"otel.metric.overflow": true}') AS overflows
     FROM series GROUP BY 1`,
  );
  const seriesOf = new Map(series.rows.map((row) => [row.metric_id, row]));
  const names = [...new Set(metrics.map(({ name }) => name))];
  const stored = names.map((name): StoredMetric => {
    const same = metrics.filter((one) => one.name === name);
    const own = all.filter(({ metricId }) => same.some(({ id }) => id === metricId));
    const points = (resolution: Resolution) =>
      sum(
        own.filter((portion) => portion.resolution === resolution),
        (portion) => portion.points,
      );
    return {
      name,
      series: same.reduce((total, { id }) => total + Number(seriesOf.get(id)?.count ?? 0), 0),
      overflows: same.some(({ id }) => seriesOf.get(id)?.overflows),
      strips: sum(own, ({ strips }) => strips),
      points: { raw: points(RAW), minutes: points(MINUTES), hours: points(HOURS) },
      bytes: sum(own, ({ bytes }) => bytes),
      ...ends(own),
      keep: { raw: same[0].keepRaw, minutes: same[0].keepMinute, hours: same[0].keepHour },
    };
  });
  return {
    resolutions: [
      await resolutionEntry(pool, all, RAW),
      await resolutionEntry(pool, all, MINUTES),
      await resolutionEntry(pool, all, HOURS),
    ],
    jobs: (await drizzle(pool).select().from(job).orderBy(job.name)).map((one) => ({
      ...one,
      does: JOB_WORDS.get(one.name) ?? one.name,
    })),
    metrics: stored.sort((a, b) => b.bytes - a.bytes || (a.name < b.name ? -1 : 1)),
    series: series.rows.reduce((total, { count }) => total + Number(count), 0),
    purges: await listPurges(pool),
    setAside: await listSetAside(pool),
  };
}

/** Sets for how long a metric is kept. @returns whether there is such a metric */
export async function setKeep(pool: pg.Pool, request: KeepRequest): Promise<boolean> {
  const { rowCount } = await drizzle(pool)
    .update(metric)
    .set({ keepRaw: request.raw, keepMinute: request.minutes, keepHour: request.hours })
    .where(eq(metric.name, request.metric));
  return (rowCount ?? 0) > 0;
}
