import { and, eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Drift } from "@/core/api/drift";
import { DAY, HOUR } from "@/core/window/lengths";
import { OWN_SERVICE } from "../registry/catalogue";
import { serviceDrift } from "../schema";
import type { ServiceToLookAt } from "./outlooks";

/** What changed of services without a release, as it was looked for last. */

/** How often it is looked for, and of what has been silent for how long it is not. */
const EVERY = HOUR;
const FORGOTTEN = 2 * DAY;

/** Services that are to be looked at, the longest waiting first. */
export async function driftDue(pool: pg.Pool, now: number): Promise<ServiceToLookAt[]> {
  const { rows } = await pool.query<ServiceToLookAt>(
    `SELECT r.service, r.environment
     FROM (SELECT service, environment, max(last_at) AS last FROM release WHERE service <> $4 GROUP BY 1, 2) r
     LEFT JOIN service_drift d ON d.service = r.service AND d.environment = r.environment
     WHERE r.last > $1 AND (d.at IS NULL OR d.at < $2)
     ORDER BY coalesce(d.at, 0) LIMIT $3`,
    [now - FORGOTTEN, now - EVERY, 500, OWN_SERVICE],
  );
  return rows;
}

export async function noteDrift(
  pool: pg.Pool,
  { service, environment }: ServiceToLookAt,
  at: number,
  content: Drift,
): Promise<void> {
  await drizzle(pool)
    .insert(serviceDrift)
    .values({ service, environment, at, content })
    .onConflictDoUpdate({ target: [serviceDrift.service, serviceDrift.environment], set: { at, content } });
}

/** Notes that an evaluation failed and why; what the one before found stays beside it. @param nothing what is known where there was none */
export async function noteDriftFailure(
  pool: pg.Pool,
  { service, environment }: ServiceToLookAt,
  at: number,
  nothing: Drift,
): Promise<void> {
  const problem = JSON.stringify({ problem: nothing.problem });
  await drizzle(pool)
    .insert(serviceDrift)
    .values({ service, environment, at, content: nothing })
    .onConflictDoUpdate({
      target: [serviceDrift.service, serviceDrift.environment],
      set: { at, content: sql`${serviceDrift.content} || ${problem}::jsonb` },
    });
}

/** @returns null where it was not looked for yet */
export async function findDrift(
  pool: pg.Pool,
  service: string,
  environment: string,
): Promise<{ at: number; content: Drift } | null> {
  const { at, content } = serviceDrift;
  const [found] = await drizzle(pool)
    .select({ at, content })
    .from(serviceDrift)
    .where(and(eq(serviceDrift.service, service), eq(serviceDrift.environment, environment)));
  return found ?? null;
}
