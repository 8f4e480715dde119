import type pg from "pg";
import type { Resolution } from "@/core/reading/resolution";
import { DAY } from "@/core/window/lengths";
import { LOCKS } from "./locks";

/** Strips stand in partitions by resolution and time, so that what is too old goes as a whole. */

/** Resolutions: 0 is what arrived, others are seconds. */
export const RAW = 0;
export const MINUTES = 60;
export const HOURS = 3600;
export type { Resolution };

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

let ready = new WeakMap<pg.Pool, Set<string>>();

/** Names of the partitions that were seen through a pool: they are there, unless another process dropped them since. */
export function seenPartitions(pool: pg.Pool): Set<string> {
  let known = ready.get(pool);
  if (!known) {
    known = new Set();
    ready.set(pool, known);
  }
  return known;
}

/** Forgets which partitions were seen: one of them was dropped by another thread or process. */
export function forgetPartitions(): void {
  ready = new WeakMap();
}

function nameOf(resolution: Resolution, from: number): string {
  return `${FAMILIES[resolution].table}_${new Date(from).toISOString().slice(0, 10).replaceAll("-", "")}`;
}

/** Runs `work` while no other process creates or drops partitions. */
export async function guarded(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<void>): Promise<void> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query("SELECT pg_advisory_lock($1)", [LOCKS.partitions]);
    await work(client);
  } catch (error) {
    broken = error as Error;
    throw error;
  } finally {
    await client.query("SELECT pg_advisory_unlock($1)", [LOCKS.partitions]).catch((failure: Error) => {
      broken = failure;
    });
    client.release(broken);
  }
}

/** Creates the partitions that strips from these times on need, where they are missing. */
export async function ensurePartitions(pool: pg.Pool, resolution: Resolution, times: Iterable<number>): Promise<void> {
  const known = seenPartitions(pool);
  const { table, span } = FAMILIES[resolution];
  for (const time of times) {
    const from = Math.floor(time / span) * span;
    const name = nameOf(resolution, from);
    if (known.has(name)) continue;
    await guarded(pool, (client) =>
      everywhere(
        client,
        `CREATE TABLE IF NOT EXISTS "${name}" PARTITION OF ${table} FOR VALUES FROM (${from}) TO (${from + span})`,
      ),
    );
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

/** Names of the servers that strips are distributed over; none where they stand in this database. */
async function shardsOf(client: pg.Pool | pg.PoolClient): Promise<string[]> {
  const { rows } = await client.query<{ name: string }>(
    "SELECT srvname AS name FROM pg_foreign_server WHERE srvname LIKE 'strip\\_shard\\_%' ORDER BY 1",
  );
  return rows.map(({ name }) => name);
}

/** Whether strips stand on other servers. */
export async function standsElsewhere(client: pg.Pool): Promise<boolean> {
  return (await shardsOf(client)).length > 0;
}

/** Runs a statement wherever strips stand. */
async function everywhere(client: pg.PoolClient, statement: string): Promise<void> {
  const shards = await shardsOf(client);
  if (shards.length === 0) await client.query(statement);
  for (const shard of shards) await client.query("SELECT dblink_exec($1, $2)", [shard, statement]);
}

/** Rows of one text column, from wherever strips stand. */
async function fromEverywhere(client: pg.Pool | pg.PoolClient, query: string): Promise<string[]> {
  const shards = await shardsOf(client);
  const from = async (text: string, values: string[]) =>
    (await client.query<{ value: string }>(text, values)).rows.map(({ value }) => value);
  if (shards.length === 0) return from(`SELECT value FROM (${query}) AS q(value)`, []);
  const all = await Promise.all(
    shards.map((shard) => from("SELECT value FROM dblink($1, $2) AS q(value text)", [shard, query])),
  );
  return all.flat();
}

/** The partitions of a resolution, oldest first. */
export async function listPartitions(client: pg.Pool | pg.PoolClient, resolution: Resolution): Promise<Partition[]> {
  const found = await fromEverywhere(
    client,
    `SELECT c.relname || ' ' || pg_get_expr(c.relpartbound, c.oid) FROM pg_inherits i
     JOIN pg_class c ON c.oid = i.inhrelid WHERE i.inhparent = to_regclass('${FAMILIES[resolution].table}')`,
  );
  return [...new Set(found)]
    .map((text) => {
      const [, name, from, to] = /^(\S+) .*FROM \('(-?\d+)'\) TO \('(-?\d+)'\)/.exec(text)!;
      return { name, from: Number(from), to: Number(to) };
    })
    .sort((a, b) => a.from - b.from);
}

/** Bytes that the strips of a resolution take on disk, indexes included. */
export async function diskSize(client: pg.Pool, resolution: Resolution): Promise<number> {
  const sizes = await fromEverywhere(
    client,
    `SELECT coalesce(sum(pg_total_relation_size(i.inhrelid)), 0)::text FROM pg_inherits i
     WHERE i.inhparent = to_regclass('${FAMILIES[resolution].table}')`,
  );
  return sizes.reduce((sum, size) => sum + Number(size), 0);
}

/** Drops a partition with all in it; gives way to readers for a moment, then throws. */
export async function dropPartition(pool: pg.Pool, { name }: Partition): Promise<void> {
  ready.get(pool)?.delete(name);
  await guarded(pool, (client) =>
    everywhere(client, `DO $$ BEGIN SET LOCAL lock_timeout = '3s'; EXECUTE 'DROP TABLE IF EXISTS "${name}"'; END $$`),
  );
}
