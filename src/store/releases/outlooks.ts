import { sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Drift } from "@/core/api/drift";
import type { HomeEntry, ServiceOutlook } from "@/core/api/home";
import { silence } from "@/core/service/silence";
import { DAY, MINUTE } from "@/core/window/lengths";
import { OWN_SERVICE } from "../registry/catalogue";
import { serviceOutlook } from "../schema";

/** How services do, as they were looked at last. */

/** A release is young for so long: it is looked at often. */
const YOUNG = DAY;
const OFTEN = MINUTE;
/** Who reports no calls may begin to. */
const SOMETIMES = 3 * MINUTE;
const SELDOM = 15 * MINUTE;
/** What has been silent for so long is not looked at. */
const FORGOTTEN = 7 * DAY;

export interface ServiceToLookAt {
  service: string;
  environment: string;
}

/** Services that are to be looked at, the longest waiting first. */
export async function servicesDue(pool: pg.Pool, now: number): Promise<ServiceToLookAt[]> {
  const { rows } = await pool.query<ServiceToLookAt>(
    `SELECT r.service, r.environment
     FROM (SELECT service, environment, max(first_at) AS newest, max(last_at) AS last
           FROM release WHERE service <> $7 GROUP BY 1, 2) r
     LEFT JOIN service_outlook o ON o.service = r.service AND o.environment = r.environment
     LEFT JOIN ladder_setting t ON t.service = r.service AND t.environment = r.environment
     WHERE r.last > $1 AND (o.at IS NULL OR (o.at < r.last + $4::bigint AND
       o.at < CASE WHEN t.changed_at > o.at THEN t.changed_at
         WHEN r.newest > $2 OR (o.content ->> 'rate' = '0' AND r.last > o.at) THEN $3::bigint
         WHEN o.content ->> 'rate' IS NULL AND r.last > o.at THEN $8::bigint
         ELSE $5::bigint END))
     ORDER BY coalesce(o.at, 0) LIMIT $6`,
    [now - FORGOTTEN, now - YOUNG, now - OFTEN, SELDOM, now - SELDOM, 500, OWN_SERVICE, now - SOMETIMES],
  );
  return rows;
}

export async function noteOutlook(
  pool: pg.Pool,
  { service, environment }: ServiceToLookAt,
  at: number,
  content: ServiceOutlook,
): Promise<void> {
  await drizzle(pool)
    .insert(serviceOutlook)
    .values({ service, environment, at, content })
    .onConflictDoUpdate({ target: [serviceOutlook.service, serviceOutlook.environment], set: { at, content } });
}

/** Notes that an evaluation failed and why; what the one before found stays beside it. @param nothing what is known where there was none */
export async function noteOutlookFailure(
  pool: pg.Pool,
  { service, environment }: ServiceToLookAt,
  at: number,
  nothing: ServiceOutlook,
): Promise<void> {
  const problem = JSON.stringify({ problem: nothing.problem });
  await drizzle(pool)
    .insert(serviceOutlook)
    .values({ service, environment, at, content: nothing })
    .onConflictDoUpdate({
      target: [serviceOutlook.service, serviceOutlook.environment],
      set: { at, content: sql`${serviceOutlook.content} || ${problem}::jsonb` },
    });
}

const MAX = 1000;

/** Who reported for less time than this was tried, and did not fall silent, ms. */
const TRIED = 10 * MINUTE;

/** Since when it reports; how often who reported last usually does, and when it did, by our clock; null where nobody was counted. */
interface LastReport {
  beganAt: number | null;
  reportedAt: number | null;
  every: number | null;
}

interface Row extends Omit<HomeEntry, "newest" | "silent" | "shift" | "leak">, LastReport {
  drift: Drift | null;
  version: string | null;
  firstAt: number | null;
}

/** The last change that nobody made, of what matters most. */
function lastShift(drift: Drift | null, since: number): HomeEntry["shift"] {
  const found = (drift?.shifts ?? []).filter(
    ({ at, release, measure }) => at > since && release === null && measure !== "throughput",
  );
  return found.at(-1) ?? null;
}

/** The services that were heard last, at most MAX of them, with what is known of each, in no order; and how many there are. */
export async function homeEntries(pool: pg.Pool, now: number): Promise<{ entries: HomeEntry[]; all: number }> {
  const { rows } = await pool.query<Row & { all: number }>(
    `WITH heard AS (
       SELECT service, environment, max(last_at)::float8 AS last,
         (array_agg(version ORDER BY first_at DESC) FILTER (WHERE version <> ''))[1] AS version,
         (max(first_at) FILTER (WHERE version <> ''))::float8 AS first
       FROM release WHERE service <> $2 GROUP BY 1, 2),
     reports AS (
       SELECT r.service, r.environment, min(a.first_at)::float8 AS "beganAt", max(a.last_at)::float8 AS "reportedAt",
         (array_agg(a.every ORDER BY a.last_at DESC))[1] AS every
       FROM activity a JOIN resource r ON r.id = a.resource_id WHERE a.last_at > $3 GROUP BY 1, 2),
     open_findings AS (SELECT service, environment, count(*) AS count FROM finding WHERE ended_at IS NULL GROUP BY 1, 2)
     SELECT h.service, h.environment, h.version, h.first AS "firstAt", h.last AS "lastAt",
       (count(*) OVER ())::int AS all,
       o.at::float8 AS "lookedAt", o.content AS outlook,
       (SELECT coalesce(json_agg(json_build_object('release', l.version, 'at', l.first_at) ORDER BY l.first_at DESC), '[]')
        FROM (SELECT version, first_at FROM release l WHERE l.service = h.service AND l.environment = h.environment
              AND l.version <> '' AND l.first_at > $3 ORDER BY first_at DESC LIMIT 20) l) AS lately,
       d.content AS drift, p."beganAt", p."reportedAt", p.every,
       (SELECT coalesce(sum(f.count), 0) FROM open_findings f WHERE f.service = h.service
          AND f.environment IN ('', h.environment))::int AS findings,
       ARRAY(SELECT a.version FROM announcement a WHERE a.service = h.service AND a.environment = h.environment
          AND a.at > $3 AND NOT EXISTS (SELECT FROM release r WHERE r.service = a.service
            AND r.environment = a.environment AND r.version = a.version) ORDER BY a.at DESC LIMIT 5) AS coming
     FROM heard h LEFT JOIN service_outlook o ON o.service = h.service AND o.environment = h.environment
     LEFT JOIN reports p ON p.service = h.service AND p.environment = h.environment
     LEFT JOIN service_drift d ON d.service = h.service AND d.environment = h.environment
     ORDER BY h.last DESC LIMIT $1`,
    [MAX, OWN_SERVICE, now - FORGOTTEN],
  );
  const entries = rows.map(({ version, firstAt, drift, beganAt, reportedAt, every, all: _, ...row }) => ({
    ...row,
    shift: lastShift(drift, now - FORGOTTEN),
    leak: drift?.leak ?? null,
    newest: version === null || firstAt === null ? null : { release: version, firstAt },
    // Who was not heard for a week is gone for good.
    silent:
      beganAt !== null &&
      reportedAt !== null &&
      reportedAt - beganAt > TRIED &&
      silence({ lastAt: reportedAt, every }, now) > 0,
  }));
  return { entries, all: rows.at(0)?.all ?? 0 };
}
