import { createHash, randomBytes } from "node:crypto";
import { and, desc, eq, getTableColumns, isNull, type SQL, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Scope } from "@/core/access/rights";
import { type KeyEntry, type KeyRequest, keyRule } from "@/core/api/keys";
import { readSetting, writeSetting } from "../database/settings";
import { accessKey, person } from "../schema";

/** Keys that programs show. A key is 24 random bytes, so a plain hash of it can be kept: there is nothing to guess. */

const RULE = "tokens";
const HINT = 9;

export function hashKey(text: string): Buffer {
  return createHash("sha256").update(text).digest();
}

/** The key in an Authorization header; undefined where it holds none. */
export function keyIn(authorization: string | null | undefined): string | undefined {
  return /^Bearer\s+(\S+)\s*$/i.exec(authorization ?? "")?.[1];
}

/** Where it is announced that keys changed: whoever keeps them reads them again. */
export const KEYS_CHANGED = "tin_keys";

/** Tells those who keep keys that one was revoked, or its maker switched off. */
export async function announceKeysChanged(pool: pg.Pool): Promise<void> {
  await pool.query(`NOTIFY ${KEYS_CHANGED}`);
}

/** Makes a key. Its text is here and nowhere else. */
export async function createKey(
  pool: pg.Pool,
  { name, scopes, environment, days }: KeyRequest,
  madeBy: { name: string; account: string | null },
): Promise<{ id: number; text: string }> {
  const text = `tin_${randomBytes(24).toString("base64url")}`;
  const now = Date.now();
  const [{ id }] = await drizzle(pool)
    .insert(accessKey)
    .values({
      name,
      scopes,
      environment,
      hash: hashKey(text),
      hint: text.slice(0, HINT),
      madeBy: madeBy.name,
      madeById: madeBy.account,
      createdAt: now,
      expiresAt: days === null ? null : now + days * 86_400_000,
    })
    .returning({ id: accessKey.id });
  return { id, text };
}

/** Every key, those in force first. */
export async function listKeys(pool: pg.Pool): Promise<KeyEntry[]> {
  const rows = await drizzle(pool)
    .select()
    .from(accessKey)
    .orderBy(sql`${accessKey.revokedAt} IS NOT NULL`, desc(accessKey.id))
    .limit(1000);
  return rows.map(({ hash: _, madeById: __, scopes, ...key }) => ({ ...key, scopes: scopes as Scope[] }));
}

/** Puts a key out of force for good. @returns its name, or null where none with that number was in force */
export async function revokeKey(pool: pg.Pool, id: number): Promise<string | null> {
  const [row] = await drizzle(pool)
    .update(accessKey)
    .set({ revokedAt: Date.now() })
    .where(and(eq(accessKey.id, id), isNull(accessKey.revokedAt)))
    .returning({ name: accessKey.name });
  await announceKeysChanged(pool);
  return row?.name ?? null;
}

/** A key as it was made, in force or not. */
export interface KnownKey {
  id: number;
  name: string;
  environment: string;
  scopes: readonly Scope[];
  revoked: boolean;
  /** Whether the account that made it is switched off. */
  makerOff: boolean;
  expiresAt: number | null;
}

/** Keys ever made, by hash in hex: revoked ones are known too, so that their users can be told. */
export interface KnownKeys {
  /** Whether points are taken only with a key. */
  needed: boolean;
  byHash: Map<string, KnownKey>;
}

/** Keys with whether the account that made each is switched off. */
function keysWithMakers(pool: pg.Pool, which?: SQL) {
  return drizzle(pool)
    .select({ ...getTableColumns(accessKey), makerOff: person.banned })
    .from(accessKey)
    .leftJoin(person, eq(person.id, accessKey.madeById))
    .where(which);
}

function knownKey({
  id,
  name,
  environment,
  scopes,
  revokedAt,
  expiresAt,
  makerOff,
}: Awaited<ReturnType<typeof keysWithMakers>>[number]): KnownKey {
  const revoked = revokedAt !== null;
  return { id, name, environment, scopes: scopes as Scope[], revoked, expiresAt, makerOff: makerOff === true };
}

export async function readKeys(pool: pg.Pool): Promise<KnownKeys> {
  const rows = await keysWithMakers(pool);
  return {
    needed: await keysNeeded(pool),
    byHash: new Map(rows.map((row) => [row.hash.toString("hex"), knownKey(row)])),
  };
}

/** The key with a text, looked up by itself; undefined where there is none. */
export async function findKey(pool: pg.Pool, text: string): Promise<KnownKey | undefined> {
  const [row] = await keysWithMakers(pool, eq(accessKey.hash, hashKey(text)));
  return row && knownKey(row);
}

/** Why a key is not taken, in words; null where it is. */
export function whyNotTaken(key: KnownKey | undefined, now: number): string | null {
  const another = "make another under Settings, Keys";
  if (!key) return `the key is not known here; ${another}`;
  if (key.revoked) return `the key "${key.name}" was revoked; ${another}`;
  if (key.makerOff) return `the account that made the key "${key.name}" is switched off; ${another}`;
  if (key.expiresAt !== null && key.expiresAt <= now)
    return `the key "${key.name}" ended on ${new Date(key.expiresAt).toISOString().slice(0, 10)}; ${another}`;
  return null;
}

/** Whether points are taken only with a key. */
export async function keysNeeded(pool: pg.Pool): Promise<boolean> {
  const rule = keyRule.safeParse(await readSetting(pool, RULE));
  return rule.success && rule.data.needed;
}

export function setKeysNeeded(pool: pg.Pool, needed: boolean): Promise<void> {
  return writeSetting(pool, RULE, { needed });
}

/** Notes when keys were last used. */
export async function noteUse(pool: pg.Pool, used: ReadonlyMap<number, number>): Promise<void> {
  await pool.query(
    `UPDATE access_key SET last_used_at = greatest(coalesce(last_used_at, 0), u.at)
     FROM unnest($1::int[], $2::bigint[]) AS u(id, at) WHERE access_key.id = u.id`,
    [[...used.keys()], [...used.values()]],
  );
}
