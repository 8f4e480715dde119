import { eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type {
  CostliestQuery,
  KeepRequest,
  ResolutionEntry,
  ResolutionName,
  StoreAnswer,
  StoredMetric,
} from "@/core/api/store";
import { diskSize, HOURS, MINUTES, RAW, type Resolution } from "./database/partitions";
import { JOB_WORDS } from "./jobs/all";
import { listSetAside } from "./pipeline/setAside";
import { job, metric } from "./schema";
import { listPurges } from "./strips/purge";
import { KEEP } from "./strips/retention";
import { costliestUses } from "./summary/metricUse";
import { type StripSum, stripSums } from "./summary/stripSums";

/** What the store holds, what that costs, and how its upkeep is doing. */

const NAMES: Record<Resolution, ResolutionName> = { [RAW]: "raw", [MINUTES]: "minutes", [HOURS]: "hours" };

async function resolutionEntry(
  pool: pg.Pool,
  sums: readonly StripSum[],
  resolution: Resolution,
): Promise<ResolutionEntry> {
  const own = sums.find((one) => one.resolution === resolution);
  return {
    resolution: NAMES[resolution],
    strips: own?.strips ?? 0,
    points: own?.points ?? 0,
    bytes: own?.bytes ?? 0,
    disk: await diskSize(pool, resolution),
    oldest: own?.oldest ?? null,
    newest: own?.newest ?? null,
    keep: KEEP[resolution],
  };
}

/** For how long metrics are kept that say so, by name. */
async function ownKeeps(pool: pg.Pool): Promise<Map<string, StoredMetric["keep"]>> {
  const rows = await drizzle(pool)
    .select({ name: metric.name, raw: metric.keepRaw, minutes: metric.keepMinute, hours: metric.keepHour })
    .from(metric)
    .where(sql`coalesce(${metric.keepRaw}, ${metric.keepMinute}, ${metric.keepHour}) IS NOT NULL`);
  return new Map(rows.map(({ name, ...keep }) => [name, keep]));
}

const NO_KEEP = { raw: null, minutes: null, hours: null };

/**
 * Everything that the store page shows.
 *
 * @param asked which metrics
 * @param fresh whether all is to be counted now
 */
export async function describeStore(
  pool: pg.Pool,
  now: number,
  asked: CostliestQuery,
  fresh: boolean,
): Promise<StoreAnswer> {
  const sums = await stripSums(pool, fresh);
  const keeps = await ownKeeps(pool);
  const { uses, found, all, series } = await costliestUses(pool, now, asked, fresh);
  const metrics = uses.map(({ name, series, overflows, strips, points, bytes, oldest, newest }) => ({
    ...{ name, series, overflows, strips, points, bytes, oldest, newest },
    keep: keeps.get(name) ?? NO_KEEP,
  }));
  return {
    resolutions: [
      await resolutionEntry(pool, sums, RAW),
      await resolutionEntry(pool, sums, MINUTES),
      await resolutionEntry(pool, sums, HOURS),
    ],
    jobs: (await drizzle(pool).select().from(job).orderBy(job.name)).map((one) => ({
      ...one,
      does: JOB_WORDS.get(one.name) ?? one.name,
    })),
    metrics,
    found,
    all,
    series,
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
