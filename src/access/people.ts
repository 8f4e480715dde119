import { asc, eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Role } from "@/core/access/rights";
import { type PersonEntry, peopleRule } from "@/core/api/people";
import { transaction } from "@/store/database/connect";
import { changeFields, readSetting } from "@/store/database/settings";
import { person, signIn } from "@/store/schema";
import { auth } from "./auth";

/** The people who have an account. Accounts are switched off and not deleted, so that what they did keeps its author. */

const RULE = "people";
/** For how long the rule serves without being read again, ms. */
const RULE_SERVES = 2000;

let found = false;

/** Whether anybody has an account. */
export async function hasPeople(pool: pg.Pool): Promise<boolean> {
  if (found) return true;
  const { rows } = await pool.query<{ any: boolean }>("SELECT EXISTS (SELECT FROM person) AS any");
  found = rows[0].any;
  return found;
}

/** Whether somebody owns the installation; also asked of a store that was never started. */
export async function hasOwner(pool: pg.Pool): Promise<boolean> {
  const { rows } = await pool.query<{ there: boolean }>("SELECT to_regclass('person') IS NOT NULL AS there");
  if (!rows[0].there) return false;
  const owners = await pool.query("SELECT 1 FROM person WHERE role = 'owner' AND NOT banned LIMIT 1");
  return owners.rows.length > 0;
}

let rule: { at: number; codes: boolean } | null = null;

/** Whether one-time codes are asked of everybody. */
export async function codesRequired(pool: pg.Pool): Promise<boolean> {
  if (rule && Date.now() - rule.at < RULE_SERVES) return rule.codes;
  const read = peopleRule.safeParse(await readSetting(pool, RULE));
  rule = { at: Date.now(), codes: read.success && read.data.codesRequired };
  return rule.codes;
}

export async function requireCodes(pool: pg.Pool, codes: boolean): Promise<void> {
  await changeFields(pool, RULE, { codesRequired: codes });
  rule = null;
}

/** Everybody, who may most first. */
export async function listPeople(pool: pg.Pool): Promise<PersonEntry[]> {
  const rows = await drizzle(pool)
    .select({
      id: person.id,
      name: person.name,
      email: person.email,
      role: person.role,
      off: person.banned,
      codes: person.twoFactorEnabled,
      createdAt: person.createdAt,
      lastSignIn: sql<string | null>`max(${signIn.createdAt})`,
    })
    .from(person)
    .leftJoin(signIn, eq(signIn.userId, person.id))
    .groupBy(person.id)
    .orderBy(asc(person.banned), asc(person.name));
  return rows.map(({ createdAt, lastSignIn, role, ...one }) => ({
    ...one,
    role: role as Role,
    createdAt: createdAt.getTime(),
    lastSignIn: lastSignIn === null ? null : new Date(lastSignIn).getTime(),
  }));
}

/** The account that an address has; null for none. */
export async function personWith(pool: pg.Pool, email: string): Promise<{ id: string; name: string } | null> {
  const [row] = await drizzle(pool)
    .select({ id: person.id, name: person.name })
    .from(person)
    .where(eq(person.email, email.toLowerCase()));
  return row ?? null;
}

/** Makes an account. @returns its id; null where the address has one */
export async function createPerson(
  pool: pg.Pool,
  { name, email, password, role }: { name: string; email: string; password: string; role: Role },
): Promise<string | null> {
  if (await personWith(pool, email)) return null;
  const { user } = await auth(pool).api.createUser({ body: { name, email, password, role: role as "viewer" } });
  found = true;
  return user.id;
}

/** The name and address of an account; null where there is none. */
export async function findPerson(
  pool: pg.Pool,
  id: string,
): Promise<{ name: string; email: string; off: boolean } | null> {
  const [row] = await drizzle(pool)
    .select({ name: person.name, email: person.email, off: person.banned })
    .from(person)
    .where(eq(person.id, id));
  return row ?? null;
}

/** The last owner would go. */
export class LastOwnerError extends Error {
  override name = "LastOwnerError";
}

/** All changes of who owns go one after the other. */
const OWNERS_LOCK = 7_034_112;

/**
 * Gives somebody another role, or switches their account off or on; sessions of an account that is switched off end.
 *
 * @returns whether there is such an account
 * @throws LastOwnerError where nobody would be left who may do it again
 */
export async function changePerson(
  pool: pg.Pool,
  id: string,
  { role, off }: { role?: Role | undefined; off?: boolean | undefined },
): Promise<boolean> {
  return transaction(pool, async (client) => {
    await client.query("SELECT pg_advisory_xact_lock($1)", [OWNERS_LOCK]);
    const { rowCount } = await client.query(
      "UPDATE person SET role = coalesce($2, role), banned = coalesce($3, banned), updated_at = now() WHERE id = $1",
      [id, role ?? null, off ?? null],
    );
    if (rowCount === 0) return false;
    if (off) await client.query("DELETE FROM sign_in WHERE user_id = $1", [id]);
    const { rows } = await client.query("SELECT 1 FROM person WHERE role = 'owner' AND NOT banned LIMIT 1");
    if (rows.length === 0) throw new LastOwnerError("the last owner stays one: make somebody else an owner first");
    return true;
  });
}
