import os from "node:os";
import { eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { job } from "../schema";

/** Background jobs: any process may take one, one at a time holds it, and what it did last is there to be seen. */

/** Who this process is, for people. */
export const HOLDER = `${os.hostname()} ${process.pid}`;

/** What a job has to report. */
export interface Done {
  done: number;
  /** Pieces of work that are left, and since when the oldest of them waits, Unix ms. */
  backlog: number;
  waitingSince: number | null;
}

/** Locks of jobs, by name. */
const LOCKS: Record<string, number> = {
  merging: 7433003,
  hours: 7433004,
  retention: 7433005,
  purging: 7433006,
  conformance: 7433009,
  pipeline: 7433010,
  registry: 7433012,
};

/**
 * Does a job where no other process is at it, and notes how it went. The lock belongs to a connection, so it is free
 * again as soon as the process that held it is gone.
 *
 * @returns what was done, or null where another process holds the job
 */
export async function holding(pool: pg.Pool, name: string, work: () => Promise<Done>): Promise<Done | null> {
  const guard = await pool.connect();
  let broken: Error | undefined;
  try {
    const { rows } = await guard.query<{ held: boolean }>("SELECT pg_try_advisory_lock($1) AS held", [LOCKS[name]]);
    if (!rows[0].held) return null;
    try {
      await noteStart(pool, name);
      const result = await work();
      await noteEnd(pool, name, result, null);
      return result;
    } catch (error) {
      await noteEnd(pool, name, null, (error as Error).message).catch(() => {});
      throw error;
    } finally {
      await guard.query("SELECT pg_advisory_unlock($1)", [LOCKS[name]]).catch((error: Error) => {
        broken = error;
      });
    }
  } finally {
    guard.release(broken);
  }
}

async function noteStart(pool: pg.Pool, name: string): Promise<void> {
  const now = Date.now();
  await drizzle(pool)
    .insert(job)
    .values({ name, holder: HOLDER, startedAt: now, done: 0, backlog: 0 })
    .onConflictDoUpdate({ target: job.name, set: { holder: HOLDER, startedAt: now, finishedAt: null } });
}

async function noteEnd(pool: pg.Pool, name: string, result: Done | null, error: string | null): Promise<void> {
  const ended = { finishedAt: Date.now(), error };
  const set = result
    ? { ...ended, done: sql`${job.done} + ${result.done}`, backlog: result.backlog, waitingSince: result.waitingSince }
    : ended;
  await drizzle(pool).update(job).set(set).where(eq(job.name, name));
}
