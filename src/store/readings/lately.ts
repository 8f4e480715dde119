import { sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { readLately } from "../schema";

/** What the people of an installation read lately: something to begin with. */

/** Readings that are remembered of each person, those that are listed, and how many of those may be one person's while others have some. */
const REMEMBERED = 20;
const LISTED = 8;
const OF_ONE = 3;

/** Notes that somebody looked at a reading. @param who the id of their account */
export async function noteRead(pool: pg.Pool, reading: string, who: string, at: number): Promise<void> {
  await drizzle(pool)
    .insert(readLately)
    .values({ reading, who, at })
    .onConflictDoUpdate({
      target: readLately.reading,
      set: { at: sql`greatest(${readLately.at}, ${at})` },
    });
  await pool.query(
    `DELETE FROM read_lately WHERE reading IN (SELECT reading FROM read_lately WHERE who = $1 ORDER BY at DESC OFFSET ${REMEMBERED})`,
    [who],
  );
}

/** The latest first. */
export async function listRead(pool: pg.Pool): Promise<{ reading: string; at: number }[]> {
  const { rows } = await pool.query<{ reading: string; at: string }>(
    `SELECT reading, at FROM (
       SELECT reading, at FROM (
         SELECT reading, at, row_number() OVER (PARTITION BY who ORDER BY at DESC) AS nth FROM read_lately) AS each
       ORDER BY nth > ${OF_ONE}, at DESC LIMIT ${LISTED}) AS listed
     ORDER BY at DESC`,
  );
  return rows.map(({ reading, at }) => ({ reading, at: Number(at) }));
}
