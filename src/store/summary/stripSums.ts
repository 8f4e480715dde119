import type pg from "pg";
import { transaction } from "../database/connect";
import { listPartitions, RESOLUTIONS, type Resolution } from "../database/partitions";

/**
 * What strips come to. Counting them all takes long where there are millions, so each partition is counted by itself, and
 * again only where PostgreSQL says that it changed (its statistics of inserts, updates and deletes).
 */

/** What the strips of a resolution come to. */
export interface StripSum {
  resolution: Resolution;
  strips: number;
  points: number;
  bytes: number;
  oldest: number;
  newest: number;
}

const SUMS = `count(*) AS strips, sum(point_count) AS points, sum(size::bigint) AS bytes, min(t_from) AS oldest,
  max(t_to) AS newest`;
const AGAIN = `sum(strips) AS strips, sum(points) AS points, sum(bytes) AS bytes, min(oldest) AS oldest,
  max(newest) AS newest`;

/** By resolution: as partitions were counted last, or, where they never were or `fresh` is wanted, now. */
export async function stripSums(pool: pg.Pool, fresh: boolean): Promise<StripSum[]> {
  const { rows: counted } = fresh ? { rows: [] } : await pool.query("SELECT 1 FROM summed_partition LIMIT 1");
  const { rows } = await pool.query<Record<string, string>>(
    counted.length > 0
      ? `SELECT resolution, ${AGAIN} FROM strip_sum GROUP BY 1`
      : `SELECT resolution, ${SUMS} FROM strip GROUP BY 1`,
  );
  return rows.map((row) => ({
    resolution: Number(row.resolution) as Resolution,
    strips: Number(row.strips),
    points: Number(row.points),
    bytes: Number(row.bytes),
    oldest: Number(row.oldest),
    newest: Number(row.newest),
  }));
}

/** Counts one partition anew. @param changes what its statistics said before it was counted */
async function countAgain(pool: pg.Pool, partition: string, changes: string): Promise<void> {
  await transaction(pool, async (client) => {
    await client.query("DELETE FROM strip_sum WHERE partition = $1", [partition]);
    await client.query(
      `INSERT INTO strip_sum (partition, metric_id, resolution, strips, points, bytes, oldest, newest)
       SELECT $1, metric_id, min(resolution), ${SUMS} FROM "${partition}" GROUP BY metric_id`,
      [partition],
    );
    await client.query(
      `INSERT INTO summed_partition (partition, changes) VALUES ($1, $2)
       ON CONFLICT (partition) DO UPDATE SET changes = excluded.changes`,
      [partition, changes],
    );
  });
}

/** SQLSTATE of a table that is not there. */
const DROPPED = "42P01";

/**
 * Counts what changed since it was counted.
 *
 * @param failed told of each partition that cannot be counted
 * @returns how many partitions were counted
 */
export async function sumStrips(
  pool: pg.Pool,
  stopped: () => boolean,
  failed: (error: unknown) => void,
): Promise<number> {
  const partitions = (await Promise.all(RESOLUTIONS.map((resolution) => listPartitions(pool, resolution)))).flat();
  const names = partitions.map(({ name }) => name);
  await pool.query("DELETE FROM strip_sum WHERE NOT (partition = ANY($1::text[]))", [names]);
  await pool.query("DELETE FROM summed_partition WHERE NOT (partition = ANY($1::text[]))", [names]);
  const { rows } = await pool.query<{ name: string; changes: string; before: string | null }>(
    `SELECT s.relname AS name, concat_ws(' ', s.relid, s.n_tup_ins, s.n_tup_upd, s.n_tup_del) AS changes, p.changes AS before
     FROM pg_stat_user_tables s LEFT JOIN summed_partition p ON p.partition = s.relname WHERE s.relname = ANY($1::text[])`,
    [names],
  );
  let done = 0;
  for (const { name, changes, before } of rows) {
    if (stopped() || changes === before) continue;
    try {
      await countAgain(pool, name, changes);
      done++;
    } catch (error) {
      // Retention may drop one meanwhile; one that cannot be read keeps its last count, and holds up no other.
      if ((error as { code?: string }).code !== DROPPED) failed(error);
    }
  }
  return done;
}
