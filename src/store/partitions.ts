import type pg from "pg";

/** Strips stand in partitions by resolution and time, so that what is too old goes as a whole. */

export const DAY = 86400_000;

/** Resolutions: 0 is what arrived, others are seconds. */
export const RAW = 0;
export const MINUTES = 60;
export const HOURS = 3600;
export type Resolution = typeof RAW | typeof MINUTES | typeof HOURS;

interface Family {
  table: string;
  /** Length of a partition, ms: a multiple of a day. */
  span: number;
}

const FAMILIES: Record<Resolution, Family> = {
  [RAW]: { table: "strip_raw", span: DAY },
  [MINUTES]: { table: "strip_minute", span: 7 * DAY },
  [HOURS]: { table: "strip_hour", span: 28 * DAY },
};

export const RESOLUTIONS: readonly Resolution[] = [RAW, MINUTES, HOURS];
const PARTITION_LOCK = 7433002;

const ready = new WeakMap<pg.Pool, Set<string>>();

function nameOf(resolution: Resolution, from: number): string {
  return `${FAMILIES[resolution].table}_${new Date(from).toISOString().slice(0, 10).replaceAll("-", "")}`;
}

/** Runs `work` while no other process creates or drops partitions. */
async function guarded(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<void>): Promise<void> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query("SELECT pg_advisory_lock($1)", [PARTITION_LOCK]);
    await work(client);
  } catch (error) {
    broken = error as Error;
    throw error;
  } finally {
    await client.query("SELECT pg_advisory_unlock($1)", [PARTITION_LOCK]).catch((failure: Error) => {
      broken = failure;
    });
    client.release(broken);
  }
}

/** Creates the partitions that strips from these times on need, where they are missing. */
export async function ensurePartitions(pool: pg.Pool, resolution: Resolution, times: Iterable<number>): Promise<void> {
  let known = ready.get(pool);
  if (!known) {
    known = new Set();
    ready.set(pool, known);
  }
  const { table, span } = FAMILIES[resolution];
  for (const time of times) {
    const from = Math.floor(time / span) * span;
    const name = nameOf(resolution, from);
    if (known.has(name)) continue;
    await guarded(pool, async (client) => {
      await client.query(
        `CREATE TABLE IF NOT EXISTS "${name}" PARTITION OF ${table} FOR VALUES FROM (${from}) TO (${from + span})`,
      );
    });
    known.add(name);
  }
}

/** A partition that exists. */
export interface Partition {
  name: string;
  /** Its span of `t_from`, ms: from included, to not. */
  from: number;
  to: number;
}

/** The partitions of a resolution, oldest first. */
export async function listPartitions(client: pg.Pool | pg.PoolClient, resolution: Resolution): Promise<Partition[]> {
  const { rows } = await client.query<{ name: string; bound: string }>(
    `SELECT c.relname AS name, pg_get_expr(c.relpartbound, c.oid) AS bound
     FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid WHERE i.inhparent = to_regclass($1)`,
    [FAMILIES[resolution].table],
  );
  return rows
    .map(({ name, bound }) => {
      const [, from, to] = /FROM \('(-?\d+)'\) TO \('(-?\d+)'\)/.exec(bound)!;
      return { name, from: Number(from), to: Number(to) };
    })
    .sort((a, b) => a.from - b.from);
}

/** Drops a partition with all in it; gives way to readers for a moment, then throws. */
export async function dropPartition(pool: pg.Pool, { name }: Partition): Promise<void> {
  ready.get(pool)?.delete(name);
  await guarded(pool, async (client) => {
    await client.query("BEGIN");
    try {
      await client.query("SET LOCAL lock_timeout = '3s'");
      await client.query(`DROP TABLE IF EXISTS "${name}"`);
      await client.query("COMMIT");
    } catch (error) {
      await client.query("ROLLBACK");
      throw error;
    }
  });
}
