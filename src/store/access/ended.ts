import type pg from "pg";
import { REMEMBERED } from "@/core/access/delays";
import { DAY, HOUR } from "@/core/window/lengths";
import type { BackgroundJob, Done } from "../jobs/job";

/** For how long links and sessions that have ended are kept: who comes back by one is told that it ended. */
const KEPT = 30 * DAY;

async function forgetEnded(pool: pg.Pool, now: number): Promise<Done> {
  const long = now - KEPT;
  let done = 0;
  for (const [text, values] of [
    ["DELETE FROM attempt WHERE last_at < $1 AND until < $2", [now - REMEMBERED, now]],
    ["DELETE FROM used_code WHERE until < $1", [now]],
    ["DELETE FROM one_time_link WHERE expires_at < $1", [long]],
    ["DELETE FROM sign_in WHERE expires_at < $1", [new Date(long)]],
    ["DELETE FROM verification WHERE expires_at < $1", [new Date(long)]],
  ] as [string, unknown[]][])
    done += (await pool.query(text, values)).rowCount ?? 0;
  return { done, backlog: 0, waitingSince: null };
}

/** Forgets attempts, links and sessions that ended long ago. */
export const ENDED: BackgroundJob = {
  name: "ended",
  does: "forget sessions, links and attempts that ended long ago",
  every: HOUR,
  pass: forgetEnded,
};
