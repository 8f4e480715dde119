import { createHash } from "node:crypto";
import type pg from "pg";
import { type AttemptKind, delayAfter, REMEMBERED } from "@/core/access/delays";
import { transaction } from "../database/connect";

/**
 * Attempts at passwords and codes, counted where all webs share them. An attempt counts as failed from when it begins, so
 * that many at once gain nothing; one that succeeds is taken back.
 */

/** What an attempt is counted by. */
export interface AttemptBy {
  kind: AttemptKind;
  /** An account's address for mail, or where the caller is. */
  value: string;
}

/** Nobody has to read here who tried what. */
function keyOf({ kind, value }: AttemptBy): string {
  return `${kind} ${createHash("sha256").update(value.toLowerCase()).digest("base64url")}`;
}

/**
 * Begins an attempt.
 *
 * @returns for how long to wait before the next may come, ms; 0 where this one may go on
 */
export async function beginAttempt(pool: pg.Pool, by: readonly AttemptBy[]): Promise<number> {
  const now = Date.now();
  return transaction(pool, async (client) => {
    const keys = by.map((one) => ({ ...one, key: keyOf(one) })).sort((a, b) => (a.key < b.key ? -1 : 1));
    for (const { key } of keys)
      await client.query(
        "INSERT INTO attempt (key, failures, last_at, until) VALUES ($1, 0, $2, 0) ON CONFLICT (key) DO NOTHING",
        [key, now],
      );
    const { rows } = await client.query<{ key: string; failures: number; last_at: string; until: string }>(
      "SELECT key, failures, last_at, until FROM attempt WHERE key = ANY($1) ORDER BY key FOR UPDATE",
      [keys.map(({ key }) => key)],
    );
    const wait = Math.max(...rows.map(({ until }) => Number(until) - now));
    if (wait > 0) return wait;
    for (const { key, kind } of keys) {
      const row = rows.find((one) => one.key === key);
      const known = row && now - Number(row.last_at) < REMEMBERED ? row.failures : 0;
      const failures = known + 1;
      await client.query("UPDATE attempt SET failures = $2, last_at = $3, until = $4 WHERE key = $1", [
        key,
        failures,
        now,
        now + delayAfter(kind, failures),
      ]);
    }
    return 0;
  });
}

/** Takes an attempt back that succeeded: the account begins anew, the address is as it was before. */
export async function attemptSucceeded(pool: pg.Pool, by: readonly AttemptBy[]): Promise<void> {
  for (const one of by)
    await pool.query(
      one.kind === "account"
        ? "DELETE FROM attempt WHERE key = $1"
        : "UPDATE attempt SET failures = greatest(failures - 1, 0), until = 0 WHERE key = $1",
      [keyOf(one)],
    );
}
