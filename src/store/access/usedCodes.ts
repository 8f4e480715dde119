import { createHash } from "node:crypto";
import { and, eq, gte, lt } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { MINUTE } from "@/core/window/lengths";
import { usedCode } from "../schema";

/** One-time codes work once: whoever reads one over a shoulder comes too late (RFC 6238, section 5.2). */

/** For how long a code may be taken at most, with clocks that are a step apart, ms. */
const TAKEN_FOR = 2 * MINUTE;

const hashOf = (account: string, code: string) => createHash("sha256").update(`${account} ${code}`).digest();

/** Whether an account used a code that would still be taken. */
export async function isCodeUsed(pool: pg.Pool, account: string, code: string): Promise<boolean> {
  const rows = await drizzle(pool)
    .select({ until: usedCode.until })
    .from(usedCode)
    .where(and(eq(usedCode.hash, hashOf(account, code)), gte(usedCode.until, Date.now())));
  return rows.length > 0;
}

/** Notes that an account used a code. @returns whether this is the first time */
export async function claimCode(pool: pg.Pool, account: string, code: string): Promise<boolean> {
  const rows = await drizzle(pool)
    .insert(usedCode)
    .values({ hash: hashOf(account, code), until: Date.now() + TAKEN_FOR })
    .onConflictDoUpdate({
      target: usedCode.hash,
      set: { until: Date.now() + TAKEN_FOR },
      setWhere: lt(usedCode.until, Date.now()),
    })
    .returning({ until: usedCode.until });
  return rows.length === 1;
}
