import type pg from "pg";
import { bucketColumns, type PointSet } from "@/core/metric/model";
import { assemble } from "@/core/strip/assemble";
import { decodeStrip } from "@/core/strip/strip";
import { transaction } from "./connect";
import { DAY, type FreshStrip, makeStrip, RAW, splitBySpan, writeStrips } from "./strips";

/**
 * Merging: many small strips become one of 30 minutes. In an open half hour, fresh strips are gathered once there are
 * many; when the half hour is over, everything in it becomes one merged strip per range of series. Each merge is one
 * transaction that inserts the result and deletes its sources, so a reader sees either, and a kill leaves the sources.
 */

export const SLOT = 30 * 60_000;
/** How long after its end a half hour counts as open: exports that are on their way, ms. */
const GRACE = 2 * 60_000;
/** Fresh strips of one metric in one half hour that are worth gathering. */
const MANY = 100;
/** A late strip is merged again after this long, so that stragglers come together, ms. */
const LATE_WAIT = 60_000;
const SERIES_PER_STRIP = 1000;
const BUCKET_SERIES_PER_STRIP = 120;
const MERGE_LOCK = 7433003;

interface Candidate {
  metricId: number;
  slot: number;
  closed: boolean;
}

async function candidates(client: pg.PoolClient, now: number): Promise<Candidate[]> {
  const { rows } = await client.query<{ metric_id: number; slot: string; fresh: string }>(
    `SELECT metric_id, t_from / ${SLOT} AS slot, count(*) FILTER (WHERE level = 0) AS fresh
     FROM strip WHERE level < 2 AND resolution = ${RAW} GROUP BY 1, 2 ORDER BY 2, 1`,
  );
  return rows
    .map(({ metric_id, slot, fresh }) => ({
      metricId: metric_id,
      slot: Number(slot) * SLOT,
      closed: (Number(slot) + 1) * SLOT + GRACE <= now,
      fresh: Number(fresh),
    }))
    .filter(({ closed, fresh }) => closed || fresh >= MANY);
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

/** Packs the per-series sets of one metric as merged strips; for writers that have a whole span at hand. */
export function mergedStrips(metricId: number, sets: PointSet[], arrived: number | null): FreshStrip[] {
  const strips = [...splitBySpan(sets, SLOT).values()].flatMap((some) => pack(metricId, some, 2, 0));
  return strips.map((strip) => ({ ...strip, arrived }));
}

/** Merges the strips of one metric in one half hour. */
async function mergeSlot(pool: pg.Pool, { metricId, slot, closed }: Candidate): Promise<void> {
  await transaction(pool, async (client) => {
    const { rows } = await client.query<{ id: string; arrived: string; payload: Buffer }>(
      `SELECT id, arrived, payload FROM strip
       WHERE metric_id = $1 AND resolution = ${RAW} AND t_from >= $2 AND t_from < $3 ${closed ? "" : "AND level = 0"}
       ORDER BY arrived FOR UPDATE`,
      [metricId, slot, slot + SLOT],
    );
    if (rows.length === 0) return;
    const arrivedSets = rows.flatMap(({ arrived, payload }) =>
      decodeStrip(payload).map((set) => ({ set, arrived: Number(arrived) })),
    );
    const latest = Math.max(...rows.map(({ arrived }) => Number(arrived)));
    const sets = [...assemble(arrivedSets).values()].flat();
    const strips = [...splitBySpan(sets, SLOT)].flatMap(([start, some]) =>
      pack(metricId, some, closed && start === slot ? 2 : 1, latest),
    );
    const day = Math.floor(slot / DAY) * DAY;
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
 * @returns how many half hours were merged
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
      for (const candidate of await candidates(guard, now)) {
        if (stopped()) break;
        await mergeSlot(pool, candidate);
        merged++;
      }
      return merged;
    } finally {
      await guard.query("SELECT pg_advisory_unlock($1)", [MERGE_LOCK]);
    }
  } finally {
    guard.release();
  }
}

export const MERGE_EVERY = LATE_WAIT / 3;
