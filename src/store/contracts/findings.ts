import { createHash } from "node:crypto";
import { and, desc, eq, gte, isNull, or, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { FindingEntry } from "@/core/api/instruments";
import type { Finding } from "@/core/contract/finding";
import { DAY } from "@/core/window/lengths";
import { finding } from "../schema";

/** Findings on record: when each began, when it was last seen, and when it was found to be over. */

/** Findings that are over are shown for this long. */
const SHOWN = 7 * DAY;
const LONGEST = 200;

function keyOf(metric: string, { code, subject, service, environment, release, instance }: Finding): string {
  return createHash("md5")
    .update(JSON.stringify([metric, code, subject, service, environment, release, instance]))
    .digest("hex");
}

/** One finding for each key: what several say of the same subject stands in one detail. */
export function byKey(metric: string, found: readonly Finding[]): Map<string, Finding> {
  const all = new Map<string, Finding>();
  for (const one of found) {
    const key = keyOf(metric, one);
    const known = all.get(key);
    if (!known) all.set(key, one);
    else if (!known.detail.split("; ").includes(one.detail))
      all.set(key, { ...known, detail: `${known.detail}; ${one.detail}` });
  }
  return all;
}

/**
 * Notes what was found now of a metric; what was on record under these codes and was not found again is over.
 *
 * @param codes the codes that were looked for
 */
export async function noteFindings(
  pool: pg.Pool,
  metric: string,
  codes: readonly string[],
  all: readonly Finding[],
  now: number,
): Promise<void> {
  const each = byKey(metric, all);
  const keys = [...each.keys()];
  const found = [...each.values()];
  const cut = (pick: (one: Finding) => string, longest = LONGEST) => found.map((one) => pick(one).slice(0, longest));
  await pool.query(
    `INSERT INTO finding (key, metric, code, subject, service, environment, release, instance, detail, first_at, last_at)
     SELECT w.*, $10::bigint, $10::bigint FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[]) AS w
     ON CONFLICT (key) DO UPDATE SET last_at = excluded.last_at, detail = excluded.detail, ended_at = NULL,
       first_at = CASE WHEN finding.ended_at IS NULL THEN finding.first_at ELSE excluded.first_at END`,
    [
      keys,
      found.map(() => metric),
      cut(({ code }) => code),
      cut(({ subject }) => subject),
      cut(({ service }) => service),
      cut(({ environment }) => environment),
      cut(({ release }) => release),
      cut(({ instance }) => instance),
      cut(({ detail }) => detail, 1000),
      now,
    ],
  );
  await pool.query(
    `UPDATE finding SET ended_at = $4
     WHERE metric = $1 AND code = ANY($2::text[]) AND NOT (key = ANY($3::text[])) AND ended_at IS NULL`,
    [metric, codes, keys, now],
  );
}

/** Ends all findings of metrics that no contract speaks of any more. */
export async function endOrphans(
  pool: pg.Pool,
  held: readonly string[],
  codes: readonly string[],
  now: number,
): Promise<void> {
  await pool.query(
    "UPDATE finding SET ended_at = $3 WHERE NOT (metric = ANY($1::text[])) AND code = ANY($2::text[]) AND ended_at IS NULL",
    [held, codes, now],
  );
}

/** Findings of a metric, or of all: those that hold, and those that were over lately. */
export function listFindings(pool: pg.Pool, metric?: string): Promise<FindingEntry[]> {
  const recent = or(isNull(finding.endedAt), gte(finding.endedAt, Date.now() - SHOWN));
  return drizzle(pool)
    .select({
      id: finding.id,
      metric: finding.metric,
      code: finding.code,
      subject: finding.subject,
      service: finding.service,
      environment: finding.environment,
      release: finding.release,
      instance: finding.instance,
      detail: finding.detail,
      firstAt: finding.firstAt,
      lastAt: finding.lastAt,
      endedAt: finding.endedAt,
    })
    .from(finding)
    .where(metric === undefined ? recent : and(eq(finding.metric, metric), recent))
    .orderBy(sql`${finding.endedAt} IS NOT NULL`, desc(finding.firstAt), finding.metric)
    .limit(500);
}
