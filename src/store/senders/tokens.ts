import { createHash, randomBytes } from "node:crypto";
import { and, desc, eq, isNull, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { type TokenEntry, type TokenRequest, tokenRule } from "@/core/api/senders";
import { readSetting, writeSetting } from "../database/settings";
import { token } from "../schema";

/** Keys that senders show. A token is 24 random bytes, so a plain hash of it can be kept: there is nothing to guess. */

const RULE = "tokens";
const HINT = 9;

export function hashToken(text: string): Buffer {
  return createHash("sha256").update(text).digest();
}

/** Makes a token. Its text is here and nowhere else. */
export async function createToken(pool: pg.Pool, request: TokenRequest): Promise<{ id: number; text: string }> {
  const text = `tin_${randomBytes(24).toString("base64url")}`;
  const [{ id }] = await drizzle(pool)
    .insert(token)
    .values({ ...request, hash: hashToken(text), hint: text.slice(0, HINT), createdAt: Date.now() })
    .returning({ id: token.id });
  return { id, text };
}

/** Every token, those in force first. */
export function listTokens(pool: pg.Pool): Promise<TokenEntry[]> {
  return drizzle(pool)
    .select({
      id: token.id,
      name: token.name,
      environment: token.environment,
      hint: token.hint,
      createdAt: token.createdAt,
      lastUsedAt: token.lastUsedAt,
      revokedAt: token.revokedAt,
    })
    .from(token)
    .orderBy(sql`${token.revokedAt} IS NOT NULL`, desc(token.id))
    .limit(1000);
}

/** Puts a token out of force for good. @returns whether it was in force */
export async function revokeToken(pool: pg.Pool, id: number): Promise<boolean> {
  const { rowCount } = await drizzle(pool)
    .update(token)
    .set({ revokedAt: Date.now() })
    .where(and(eq(token.id, id), isNull(token.revokedAt)));
  return (rowCount ?? 0) > 0;
}

/** Tokens ever made, by hash in hex: revoked ones are known too, so that their users can be told. */
export interface KnownTokens {
  needed: boolean;
  byHash: Map<string, { id: number; name: string; environment: string; revoked: boolean }>;
}

export async function readTokens(pool: pg.Pool): Promise<KnownTokens> {
  const rows = await drizzle(pool).select().from(token);
  return {
    needed: await tokensNeeded(pool),
    byHash: new Map(
      rows.map(({ id, name, environment, hash, revokedAt }) => [
        hash.toString("hex"),
        { id, name, environment, revoked: revokedAt !== null },
      ]),
    ),
  };
}

/** Whether points are taken only with a token. */
export async function tokensNeeded(pool: pg.Pool): Promise<boolean> {
  const rule = tokenRule.safeParse(await readSetting(pool, RULE));
  return rule.success && rule.data.needed;
}

export function setTokensNeeded(pool: pg.Pool, needed: boolean): Promise<void> {
  return writeSetting(pool, RULE, { needed });
}

/** Notes when tokens were last used. */
export async function noteUse(pool: pg.Pool, used: ReadonlyMap<number, number>): Promise<void> {
  await pool.query(
    `UPDATE token SET last_used_at = greatest(coalesce(last_used_at, 0), u.at)
     FROM unnest($1::int[], $2::bigint[]) AS u(id, at) WHERE token.id = u.id`,
    [[...used.keys()], [...used.values()]],
  );
}
