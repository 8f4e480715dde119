import type pg from "pg";
import { setting } from "@/core/settings/environment";
import { connectToRead } from "@/store/database/connect";
import { type Answers, JOBS, type Job, type Rest, type SentJob } from "./jobs";
import type { Caches } from "./load";
import type { Outcome } from "./outcome";
import { refusalOf } from "./refusals";
import { SeriesCache } from "./seriesCache";
import { StripCache } from "./stripCache";
import type { Surroundings } from "./surroundings";

/** The worker thread's side of the engine: one connection pool and one set of caches per thread. */

const MEGABYTE = 1024 * 1024;
/** How long one statement may take, ms. */
const MAX_STATEMENT = 60_000;
const pool = connectToRead({ max: 2 });
const caches: Caches = {
  series: new SeriesCache(),
  strips: new StripCache(setting("TIN_ENGINE_CACHE_MB") * MEGABYTE),
};

type Answering = (around: Surroundings, job: Job) => Promise<Answers[Job["type"]]>;

class Gone extends Error {
  override name = "AbortError";
}

/** Tries to get a connection that works: those that broke while the thread slept show it only when they are used. */
const TRIES = 4;

/** A connection in a transaction that sees one state: what is merged meanwhile neither doubles nor goes missing. */
async function snapshot(until: number): Promise<pg.PoolClient> {
  const left = Math.max(1, Math.ceil(until - Date.now()));
  for (let tries = TRIES; ; tries--) {
    const client = await pool.connect();
    try {
      await client.query(
        `BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY; SET LOCAL statement_timeout = ${Math.min(left, MAX_STATEMENT)}`,
      );
      return client;
    } catch (error) {
      client.release(error as Error);
      if (tries <= 1) throw error;
    }
  }
}

/** Gives back what nobody asked for lately: a thread that has nothing to do would not collect it by itself. @returns whether anything is kept still */
function rest({ forgetSince }: Rest): boolean {
  if (caches.strips.forgetUnused(forgetSince)) globalThis.gc?.();
  return caches.strips.bytes > 0;
}

/** Runs one job, or rests. What cannot be answered comes back as a problem; only what nobody waits for is thrown. */
export default async function run(sent: SentJob | Rest): Promise<Outcome<Answers[Job["type"]]> | boolean> {
  if ("forgetSince" in sent) return rest(sent);
  const { job, gone, until } = sent;
  const stillWanted = () => {
    if (Atomics.load(gone, 0) !== 0 || Date.now() > until) throw new Gone("nobody waits for this answer any more");
  };
  stillWanted();
  let client: pg.PoolClient;
  try {
    client = await snapshot(until);
  } catch (error) {
    return refusalOf(error, job);
  }
  let broken: Error | undefined;
  try {
    const value = await (JOBS[job.type] as Answering)({ client, caches, stillWanted }, job);
    return { ok: true, value };
  } catch (error) {
    // What fails because its time is over is told as that.
    if (error instanceof Gone || Date.now() > until) throw error;
    const refused = refusalOf(error, job);
    if (refused.status !== 400) broken = error as Error;
    return refused;
  } finally {
    if (!broken)
      await client.query("COMMIT").catch((error: Error) => {
        broken = error;
      });
    client.release(broken);
  }
}
