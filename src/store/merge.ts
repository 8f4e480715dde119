import type pg from "pg";
import { bucketColumns, type PointSet } from "@/core/metric/model";
import { assemble } from "@/core/strip/assemble";
import { decodeStrip } from "@/core/strip/strip";
import { transaction } from "./connect";
import { DAY, type FreshStrip, makeStrip, RAW, splitBySpan, writeStrips } from "./strips";

/**
 * Merging: many small strips become one of 30 minutes, and these one of two hours. In an open half hour, fresh strips
 * are gathered once there are many; when it is over, everything in it becomes one merged strip per range of series; when
 * the two hours are over, so do its half hours. Each merge is one transaction that inserts the result and deletes its
 * sources, so a reader sees either, and a kill leaves the sources.
 */

export const SLOT = 30 * 60_000;
export const LONG_SLOT = 4 * SLOT;
/** How long after its end a half hour counts as open: exports that are on their way, ms. */
const GRACE = 2 * 60_000;
/** The same for two hours: most of what is late comes within this. */
const LONG_GRACE = 10 * 60_000;
/** Fresh strips of one metric in one half hour that are worth gathering. */
const MANY = 100;
export const MERGE_EVERY = 20_000;
const SERIES_PER_STRIP = 1000;
const BUCKET_SERIES_PER_STRIP = 120;
const MERGE_LOCK = 7433003;

/** One merge to do: strips of a metric that start in [start, start + length), up to a level, into a level. */
interface Merge {
  metricId: number;
  start: number;
  length: number;
  upTo: number;
  into: number;
}

async function shortMerges(client: pg.PoolClient, now: number): Promise<Merge[]> {
  const { rows } = await client.query<{ metric_id: number; slot: string; fresh: string }>(
    `SELECT metric_id, t_from / ${SLOT} AS slot, count(*) FILTER (WHERE level = 0) AS fresh
     FROM strip WHERE level < 2 AND resolution = ${RAW} GROUP BY 1, 2 ORDER BY 2, 1`,
  );
  return rows.flatMap(({ metric_id, slot, fresh }): Merge[] => {
    const common = { metricId: metric_id, start: Number(slot) * SLOT, length: SLOT };
    if (common.start + SLOT + GRACE <= now) return [{ ...common, upTo: 2, into: 2 }];
    return Number(fresh) >= MANY ? [{ ...common, upTo: 0, into: 1 }] : [];
  });
}

async function longMerges(client: pg.PoolClient, now: number): Promise<Merge[]> {
  const { rows } = await client.query<{ metric_id: number; slot: string }>(
    `SELECT metric_id, t_from / ${LONG_SLOT} AS slot FROM strip
     WHERE level < 3 AND resolution = ${RAW} GROUP BY 1, 2 HAVING min(level) = 2 ORDER BY 2, 1`,
  );
  return rows
    .map(({ metric_id, slot }): Merge => {
      return { metricId: metric_id, start: Number(slot) * LONG_SLOT, length: LONG_SLOT, upTo: 3, into: 3 };
    })
    .filter(({ start }) => start + LONG_SLOT + LONG_GRACE <= now);
}

/** Cuts per-series sets, sorted by series, into strips of bearable size. */
function pack(metricId: number, sets: PointSet[], level: number, arrived: number): FreshStrip[] {
  const sorted = [...sets].sort((a, b) => a.series[0] - b.series[0]);
  const strips: FreshStrip[] = [];
  let from = 0;
  let series = 0;
  for (let i = 0; i < sorted.length; i++) {
    if (i === 0 || sorted[i].series[0] !== sorted[i - 1].series[0]) series++;
    const most = bucketColumns(sorted[i].layout) > 0 ? BUCKET_SERIES_PER_STRIP : SERIES_PER_STRIP;
    if (series > most) {
      strips.push(makeStrip(metricId, sorted.slice(from, i), level, arrived));
      from = i;
      series = 1;
    }
  }
  if (from < sorted.length) strips.push(makeStrip(metricId, sorted.slice(from), level, arrived));
  return strips;
}

/** Packs the per-series sets of one metric as strips of two hours; for writers that have a whole span at hand. */
export function mergedStrips(metricId: number, sets: PointSet[], arrived: number | null): FreshStrip[] {
  const strips = [...splitBySpan(sets, LONG_SLOT).values()].flatMap((some) => pack(metricId, some, 3, 0));
  return strips.map((strip) => ({ ...strip, arrived }));
}

async function runMerge(pool: pg.Pool, { metricId, start, length, upTo, into }: Merge): Promise<void> {
  await transaction(pool, async (client) => {
    const { rows } = await client.query<{ id: string; arrived: string; payload: Buffer }>(
      `SELECT id, arrived, payload FROM strip
       WHERE metric_id = $1 AND resolution = ${RAW} AND t_from >= $2 AND t_from < $3 AND level <= $4
       ORDER BY arrived FOR UPDATE`,
      [metricId, start, start + length, upTo],
    );
    if (rows.length === 0) return;
    const arrivedSets = rows.flatMap(({ arrived, payload }) =>
      decodeStrip(payload).map((set) => ({ set, arrived: Number(arrived) })),
    );
    const latest = Math.max(...rows.map(({ arrived }) => Number(arrived)));
    const sets = [...assemble(arrivedSets).values()].flat();
    // What a fresh strip holds beyond the span waits there for its own merge.
    const strips = [...splitBySpan(sets, length)].flatMap(([from, some]) =>
      pack(metricId, some, from === start ? into : 1, latest),
    );
    const day = Math.floor(start / DAY) * DAY;
    const deleted = await client.query(
      "DELETE FROM strip WHERE id = ANY($1::bigint[]) AND resolution = $2 AND t_from >= $3 AND t_from < $4",
      [rows.map(({ id }) => id), RAW, day, day + DAY],
    );
    if (deleted.rowCount !== rows.length)
      throw new Error(`merge of metric ${metricId}: ${deleted.rowCount} of ${rows.length} strips deleted`);
    await writeStrips(client, strips);
  });
}

/**
 * One pass over everything that is worth merging. Only one process at a time merges; others return at once.
 *
 * @returns how many spans were merged
 */
export async function mergePass(
  pool: pg.Pool,
  now = Date.now(),
  stopped: () => boolean = () => false,
): Promise<number> {
  const guard = await pool.connect();
  try {
    const { rows } = await guard.query<{ held: boolean }>("SELECT pg_try_advisory_lock($1) AS held", [MERGE_LOCK]);
    if (!rows[0].held) return 0;
    try {
      let merged = 0;
      for (const find of [shortMerges, longMerges]) {
        for (const merge of await find(guard, now)) {
          if (stopped()) return merged;
          await runMerge(pool, merge);
          merged++;
        }
      }
      return merged;
    } finally {
      await guard.query("SELECT pg_advisory_unlock($1)", [MERGE_LOCK]);
    }
  } finally {
    guard.release();
  }
}
