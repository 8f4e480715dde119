import { createHash, randomBytes } from "node:crypto";
import { and, desc, eq, gt, isNull } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Role } from "@/core/access/rights";
import { oneTimeLink } from "../schema";

/** Addresses that work once. Only a hash of the text in them is kept. */

/** For the first owner, for somebody who is invited, to look at the demonstration, or for a new password. */
export type LinkKind = "first-owner" | "invitation" | "demonstration" | "reset";

export interface OneTimeLink {
  kind: LinkKind;
  email: string;
  role: Role;
  madeBy: string;
  createdAt: number;
  expiresAt: number;
}

const hashOf = (text: string) => createHash("sha256").update(text).digest();

/** Makes one. @returns the text for its address, which is here and nowhere else */
export async function createLink(
  pool: pg.Pool,
  { lasts, ...link }: Omit<OneTimeLink, "createdAt" | "expiresAt"> & { lasts: number },
): Promise<string> {
  const text = randomBytes(24).toString("base64url");
  const now = Date.now();
  const row = { ...link, hash: hashOf(text), createdAt: now, expiresAt: now + lasts };
  await drizzle(pool).insert(oneTimeLink).values(row);
  return text;
}

const inForce = (kind: LinkKind) =>
  and(eq(oneTimeLink.kind, kind), isNull(oneTimeLink.usedAt), gt(oneTimeLink.expiresAt, Date.now()));

/** The link with a text, if it is of the kind, was not used and has not ended. */
export async function findLink(
  client: pg.Pool | pg.PoolClient,
  kind: LinkKind,
  text: string,
): Promise<OneTimeLink | null> {
  const [row] = await drizzle(client)
    .select()
    .from(oneTimeLink)
    .where(and(eq(oneTimeLink.hash, hashOf(text)), inForce(kind)));
  return row ? (row as unknown as OneTimeLink) : null;
}

/** Uses a link up. @returns it, or null where it was used, has ended or never was */
export async function useLink(pool: pg.Pool, kind: LinkKind, text: string): Promise<OneTimeLink | null> {
  const [row] = await drizzle(pool)
    .update(oneTimeLink)
    .set({ usedAt: Date.now() })
    .where(and(eq(oneTimeLink.hash, hashOf(text)), inForce(kind)))
    .returning();
  return row ? (row as unknown as OneTimeLink) : null;
}

/** Gives a link back whose use came to nothing. */
export async function giveBack(pool: pg.Pool, text: string): Promise<void> {
  await drizzle(pool)
    .update(oneTimeLink)
    .set({ usedAt: null })
    .where(eq(oneTimeLink.hash, hashOf(text)));
}

/** Links of a kind that still work. */
export async function openLinks(pool: pg.Pool, kind: LinkKind): Promise<(OneTimeLink & { id: string })[]> {
  const rows = await drizzle(pool).select().from(oneTimeLink).where(inForce(kind)).orderBy(desc(oneTimeLink.createdAt));
  return rows.map(({ hash, usedAt: _, ...link }) => ({
    ...(link as unknown as OneTimeLink),
    id: hash.toString("hex"),
  }));
}

/** Takes links of a kind out of force: those for an address for mail, or all. @returns how many there were */
export async function endLinks(pool: pg.Pool, kind: LinkKind, email?: string): Promise<number> {
  const own = email === undefined ? undefined : eq(oneTimeLink.email, email);
  const { rowCount } = await drizzle(pool)
    .delete(oneTimeLink)
    .where(and(eq(oneTimeLink.kind, kind), own));
  return rowCount ?? 0;
}
