import { desc, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { readLately } from "../schema";

/** What the people of an installation read lately: something to begin with. */

/** Readings that are remembered, and those that are listed. */
const REMEMBERED = 200;
const LISTED = 8;

/** Notes that somebody looked at a reading. */
export async function noteRead(pool: pg.Pool, reading: string, at: number): Promise<void> {
  await drizzle(pool)
    .insert(readLately)
    .values({ reading, at })
    .onConflictDoUpdate({ target: readLately.reading, set: { at: sql`greatest(${readLately.at}, ${at})` } });
  await pool.query(
    `DELETE FROM read_lately WHERE reading IN (SELECT reading FROM read_lately ORDER BY at DESC OFFSET ${REMEMBERED})`,
  );
}

/** The latest first. */
export function listRead(pool: pg.Pool): Promise<{ reading: string; at: number }[]> {
  return drizzle(pool).select().from(readLately).orderBy(desc(readLately.at)).limit(LISTED);
}
