import { randomBytes } from "node:crypto";
import { eq } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { ComparisonAnswer } from "@/core/api/comparison";
import { keptComparison } from "../schema";

/** Comparisons with their figures as they were. */

/** So many are kept; the oldest go first. */
const MAX_KEPT = 20_000;

/** @returns its name in addresses */
export async function keepComparison(pool: pg.Pool, content: ComparisonAnswer, who: string): Promise<string> {
  const id = randomBytes(9).toString("base64url");
  await drizzle(pool).insert(keptComparison).values({ id, at: Date.now(), who, content });
  await pool.query(
    "DELETE FROM kept_comparison WHERE id IN (SELECT id FROM kept_comparison ORDER BY at DESC OFFSET $1)",
    [MAX_KEPT],
  );
  return id;
}

/** @returns null where none of that name was kept */
export async function findComparison(
  pool: pg.Pool,
  id: string,
): Promise<{ at: number; who: string; content: ComparisonAnswer } | null> {
  const { at, who, content } = keptComparison;
  const [found] = await drizzle(pool)
    .select({ at, who, content })
    .from(keptComparison)
    .where(eq(keptComparison.id, id));
  return found ?? null;
}
