import { and, asc, eq, isNotNull, isNull, lt } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { FailureCode, TargetEntry, TargetRequest } from "@/core/api/targets";
import { originOf } from "@/core/http/origin";
import { HOUR } from "@/core/window/lengths";
import { openSecret, sealSecret } from "../database/secrets";
import { target } from "../schema";

/** Places that are scraped. Scrapers listen for changes, so that these apply at once. */

export const TARGETS_CHANGED = "tin_targets";

type Row = typeof target.$inferSelect;

function entryOf(row: Row): TargetEntry {
  const { id, name, url, every, timeout, auth, username, labels, choice, paused, createdAt } = row;
  return {
    id,
    name,
    url,
    every,
    timeout,
    auth: auth as TargetEntry["auth"],
    username,
    labels,
    choice,
    paused,
    createdAt,
    hasSecret: row.secret !== null,
    last:
      row.scrapedAt === null
        ? null
        : {
            at: row.scrapedAt,
            took: row.took ?? 0,
            samples: row.samples ?? 0,
            points: row.points ?? 0,
            failure: row.failure as FailureCode | null,
            detail: row.failureDetail,
            since: row.sinceAt ?? row.scrapedAt,
          },
  };
}

async function changed(pool: pg.Pool): Promise<void> {
  await pool.query(`NOTIFY ${TARGETS_CHANGED}`);
}

export async function listTargets(pool: pg.Pool): Promise<TargetEntry[]> {
  return (
    await drizzle(pool)
      .select()
      .from(target)
      .where(isNull(target.deletedAt))
      .orderBy(asc(target.name), asc(target.id))
      .limit(10_000)
  ).map(entryOf);
}

/** Every target with its secret in the clear: for scrapers only. A secret that cannot be opened is told in its place. */
export async function readTargets(
  pool: pg.Pool,
): Promise<{ entry: TargetEntry; secret: string; secretProblem: string | null }[]> {
  const rows = await drizzle(pool).select().from(target).where(isNull(target.deletedAt));
  return rows.map((row) => {
    try {
      return { entry: entryOf(row), secret: row.secret ? openSecret(row.secret) : "", secretProblem: null };
    } catch (error) {
      return { entry: entryOf(row), secret: "", secretProblem: (error as Error).message };
    }
  });
}

function columnsOf({ secret: _, ...rest }: TargetRequest) {
  return rest;
}

/** Saves a target; its scrapes begin at once. @returns its id */
export async function createTarget(pool: pg.Pool, request: TargetRequest): Promise<number> {
  const secret = request.secret && request.auth !== "none" ? sealSecret(request.secret) : null;
  const [{ id }] = await drizzle(pool)
    .insert(target)
    .values({ ...columnsOf(request), secret, createdAt: Date.now() })
    .returning({ id: target.id });
  await changed(pool);
  return id;
}

/** A secret would be sent elsewhere than it was given for. */
export class SecretElsewhereError extends Error {
  override name = "SecretElsewhereError";
}

/**
 * Changes a target. A secret that is left out stays.
 *
 * @returns whether there is such a target
 * @throws SecretElsewhereError where it would stay and go to another address: whoever changes that has to know it
 */
export async function changeTarget(pool: pg.Pool, id: number, request: TargetRequest): Promise<boolean> {
  if (request.auth !== "none" && !request.secret) await targetSecret(pool, id, request.url);
  const secret =
    request.auth === "none" ? { secret: null } : request.secret ? { secret: sealSecret(request.secret) } : {};
  const { rowCount } = await drizzle(pool)
    .update(target)
    .set({ ...columnsOf(request), ...secret })
    .where(and(eq(target.id, id), isNull(target.deletedAt)));
  await changed(pool);
  return (rowCount ?? 0) > 0;
}

/** For how long a deleted target can be brought back, ms. */
const KEPT = 24 * HOUR;

/** Stops scraping a target; for a day it can be brought back. @returns whether there is such a target */
export async function deleteTarget(pool: pg.Pool, id: number): Promise<boolean> {
  const now = Date.now();
  const { rowCount } = await drizzle(pool)
    .update(target)
    .set({ deletedAt: now })
    .where(and(eq(target.id, id), isNull(target.deletedAt)));
  await drizzle(pool)
    .delete(target)
    .where(lt(target.deletedAt, now - KEPT));
  await changed(pool);
  return (rowCount ?? 0) > 0;
}

/** Scrapes a deleted target again. @returns whether it was still there */
export async function restoreTarget(pool: pg.Pool, id: number): Promise<boolean> {
  const { rowCount } = await drizzle(pool)
    .update(target)
    .set({ deletedAt: null })
    .where(and(eq(target.id, id), isNotNull(target.deletedAt)));
  await changed(pool);
  return (rowCount ?? 0) > 0;
}

/** The saved secret of a target for an address; "" where it has none. @throws SecretElsewhereError where it is for another */
export async function targetSecret(pool: pg.Pool, id: number, address: string): Promise<string> {
  const [found] = await drizzle(pool)
    .select({ secret: target.secret, url: target.url })
    .from(target)
    .where(eq(target.id, id));
  if (!found?.secret) return "";
  if (originOf(found.url) !== originOf(address))
    throw new SecretElsewhereError(
      `the secret was given for ${originOf(found.url)} and is not sent to ${originOf(address)}: enter it again`,
    );
  return openSecret(found.secret);
}

/** How a scrape went. */
export interface ScrapeNote {
  at: number;
  took: number;
  samples: number;
  points: number;
  failure: FailureCode | null;
  /** What exactly failed, or what was left out. */
  detail: string | null;
}

export async function noteScrape(pool: pg.Pool, id: number, note: ScrapeNote): Promise<void> {
  await pool.query(
    `UPDATE target SET since_at = CASE WHEN scraped_at IS NOT NULL AND failure IS NOT DISTINCT FROM $6 THEN since_at ELSE $2 END,
       scraped_at = $2, took = $3, samples = $4, points = $5, failure = $6, failure_detail = $7 WHERE id = $1`,
    [id, note.at, note.took, note.samples, note.points, note.failure, note.detail?.slice(0, 1000) ?? null],
  );
}
