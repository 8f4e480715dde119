import os from "node:os";
import { eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { JOB_LOCK } from "../database/locks";
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

/** Whether the process is about to end: a pass leaves off after the piece that it is at. */
export type Stopped = () => boolean;

/** A background job. Each is declared beside what it does, and stands in one list (./all). */
export interface BackgroundJob {
  /** Also its lock: two of one name never run at a time. */
  name: string;
  /** In a few words, for people. */
  does: string;
  /** How long it rests between passes, ms. */
  every: number;
  /** Whether it looks at all there is: then it rests a multiple of what it took. */
  looksAtAll?: boolean;
  /** Where it is cheap to tell that there is nothing to do: asked before the lock is taken. */
  isDue?: (pool: pg.Pool) => Promise<boolean>;
  /** Does all that is due. */
  pass: (pool: pg.Pool, now: number, stopped: Stopped) => Promise<Done>;
}

/**
 * Does a job where no other process is at it, and notes how it went. The lock belongs to a connection, so it is free
 * again as soon as the process that held it is gone.
 *
 * @returns what was done, or null where nothing is to do or another process holds the job
 */
export async function runJob(
  pool: pg.Pool,
  { name, isDue, pass }: Pick<BackgroundJob, "name" | "isDue" | "pass">,
  now = Date.now(),
  stopped: Stopped = () => false,
): Promise<Done | null> {
  if (isDue && !(await isDue(pool))) return null;
  const lock = [JOB_LOCK, name];
  const guard = await pool.connect();
  let broken: Error | undefined;
  try {
    const { rows } = await guard.query<{ held: boolean }>(
      "SELECT pg_try_advisory_lock($1, hashtext($2)) AS held",
      lock,
    );
    if (!rows[0].held) return null;
    try {
      await noteStart(pool, name);
      const result = await pass(pool, now, stopped);
      await noteEnd(pool, name, result, null);
      return result;
    } catch (error) {
      await noteEnd(pool, name, null, (error as Error).message).catch(() => {});
      throw error;
    } finally {
      await guard.query("SELECT pg_advisory_unlock($1, hashtext($2))", lock).catch((error: Error) => {
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
