import type pg from "pg";
import { DEFAULT_KEEP } from "@/core/api/store";
import { DAY } from "@/core/window/lengths";
import {
  dropPartition,
  ensurePartitions,
  HOURS,
  listPartitions,
  MINUTES,
  RAW,
  RESOLUTIONS,
  type Resolution,
} from "../database/partitions";
import { hourTasks, type Task } from "./tasks";

/** For how long points are kept at each resolution where a metric says nothing else, ms. */
export const KEEP: Record<Resolution, number> = {
  [RAW]: DEFAULT_KEEP.raw,
  [MINUTES]: DEFAULT_KEEP.minutes,
  [HOURS]: DEFAULT_KEEP.hours,
};
/** Partitions are created this far ahead. */
const AHEAD = 3 * DAY;

const COLUMNS: Record<Resolution, string> = { [RAW]: "keep_raw", [MINUTES]: "keep_minute", [HOURS]: "keep_hour" };

/**
 * How much longer than asked strips are kept, ms: whatever was accepted in the last moment is merged by then.
 * Only whole days go, so that a day is there or not there at a resolution.
 */
const SPARE = DAY;

/** The longest that any metric's points are kept at a resolution, ms. */
export async function longestKeep(client: pg.Pool | pg.PoolClient, resolution: Resolution): Promise<number> {
  const { rows } = await client.query<{ longest: string | null }>(
    `SELECT max(${COLUMNS[resolution]}) AS longest FROM metric`,
  );
  return Math.max(KEEP[resolution], Number(rows[0].longest ?? 0));
}

/** Creates the partitions of the coming days. */
export async function prepareAhead(pool: pg.Pool, now: number): Promise<void> {
  for (const resolution of RESOLUTIONS) {
    const days = Array.from({ length: AHEAD / DAY + 1 }, (_, i) => now + i * DAY);
    await ensurePartitions(pool, resolution, days);
  }
}

/** What is too old at a resolution. */
export interface Expired {
  resolution: Resolution;
  /** Partitions that go as a whole. */
  partitions: string[];
  /** Strips of metrics with a shorter retention than others. */
  rows: number;
}

/**
 * Deletes what is older than its metric's retention: whole partitions where nothing in them is kept any longer, else the
 * rows of those metrics. Points that are still to be merged, and so rolled up, stay until they are.
 */
export async function dropExpired(pool: pg.Pool, now: number): Promise<Expired[]> {
  const result: Expired[] = [];
  /** Days without hours; looked for where minutes are about to go. */
  let unrolled: Task[] | undefined;
  for (const resolution of RESOLUTIONS) {
    const longest = await longestKeep(pool, resolution);
    const cutoff = Math.floor((now - SPARE - longest) / DAY) * DAY;
    const dropped: string[] = [];
    for (const partition of await listPartitions(pool, resolution)) {
      if (partition.to > cutoff) continue;
      if (resolution === RAW && (await hasLoose(pool, partition))) continue;
      if (resolution === MINUTES) {
        unrolled ??= await hourTasks(pool, now);
        if (unrolled.some(({ start }) => start < partition.to)) continue;
      }
      await dropPartition(pool, partition);
      dropped.push(partition.name);
    }
    let rows = 0;
    for (const { id, keep } of await shorterKeeps(pool, resolution, longest)) {
      const before = Math.floor((now - SPARE - keep) / DAY) * DAY;
      // One table and plain tests: so it is carried out where the strips are, even where that is another machine.
      const { rowCount } = await pool.query(
        `DELETE FROM strip WHERE metric_id = $1 AND resolution = $2 AND t_from < $3 AND t_to < $3 AND level >= $4`,
        [id, resolution, before, resolution === HOURS ? 0 : 3],
      );
      rows += rowCount ?? 0;
    }
    result.push({ resolution, partitions: dropped, rows });
  }
  await pool.query("DELETE FROM exemplar WHERE ms < $1", [now - (await longestKeep(pool, RAW))]);
  return result;
}

/** The metrics whose rows may go before their partitions do, with how long they are kept, ms. */
async function shorterKeeps(
  pool: pg.Pool,
  resolution: Resolution,
  longest: number,
): Promise<{ id: number; keep: number }[]> {
  const { rows } = await pool.query<{ id: number; keep: string | null }>(
    `SELECT id, ${COLUMNS[resolution]} AS keep FROM metric ORDER BY id`,
  );
  return rows
    .map(({ id, keep }) => ({ id, keep: keep === null ? KEEP[resolution] : Number(keep) }))
    .filter(({ keep }) => keep < longest);
}

async function hasLoose(pool: pg.Pool, { from, to }: { from: number; to: number }): Promise<boolean> {
  const { rows } = await pool.query(
    `SELECT 1 FROM strip WHERE resolution = ${RAW} AND level < 3 AND t_from >= $1 AND t_from < $2 LIMIT 1`,
    [from, to],
  );
  return rows.length > 0;
}

/** For how long metrics that say so keep points as they arrived, ms, by id. */
export async function keptRaw(pool: pg.Pool): Promise<Map<number, number>> {
  const { rows } = await pool.query<{ id: number; keep_raw: string }>(
    "SELECT id, keep_raw FROM metric WHERE keep_raw IS NOT NULL",
  );
  return new Map(rows.map(({ id, keep_raw }) => [id, Number(keep_raw)]));
}
