import type pg from "pg";

/** Work that one process at a time does for as long as it holds a lock of the database. */

/** How often is looked, ms. */
const LOOK_EVERY = 2000;

export interface Lease {
  pool: pg.Pool;
  lock: number;
  /** Where changes are announced. */
  channel: string;
  report: (error: unknown) => void;
  /** Called every now and then, and at once where a change was announced; `woken` the first time and then. */
  turn: (woken: boolean) => Promise<void>;
  /** Called when the lock is not held any more. */
  released: () => void;
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

async function serveLease(guard: pg.PoolClient, { lock, channel, turn, released }: Lease): Promise<void> {
  const { rows } = await guard.query<{ held: boolean }>("SELECT pg_try_advisory_lock($1) AS held", [lock]);
  if (!rows[0].held) return;
  let woken = true;
  let wake = () => {};
  guard.on("notification", () => {
    woken = true;
    wake();
  });
  try {
    await guard.query(`LISTEN ${channel}`);
    for (;;) {
      const now = woken;
      woken = false;
      await turn(now);
      await Promise.race([
        pause(LOOK_EVERY),
        new Promise<void>((resolve) => {
          wake = resolve;
        }),
      ]);
      // The lock lives as long as its connection: where that is gone, another may hold it already.
      await guard.query("SELECT 1");
    }
  } finally {
    released();
  }
}

/** Tries to hold the lock, again and again, for as long as the process lives. */
export async function leaseForever(lease: Lease): Promise<never> {
  for (;;) {
    let broken: Error | undefined;
    try {
      const guard = await lease.pool.connect();
      try {
        await serveLease(guard, lease);
      } catch (error) {
        broken = error as Error;
        throw error;
      } finally {
        guard.removeAllListeners("notification");
        guard.release(broken);
      }
    } catch (error) {
      lease.report(error);
    }
    await pause(LOOK_EVERY);
  }
}
