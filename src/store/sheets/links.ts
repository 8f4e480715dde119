import { createHash, randomBytes } from "node:crypto";
import { and, desc, eq, gt, isNull } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { sheet, sheetLink } from "../schema";
import { findSheet, type SavedSheet } from "./sheets";

/** Links to a sheet for who has no account: to that sheet only, with an end, taken back at once. */

const hashOf = (text: string) => createHash("sha256").update(text).digest();

/** Makes one. @param lasts ms @returns its text, which is here and nowhere else, and when it ends */
export async function createSheetLink(
  pool: pg.Pool,
  id: string,
  madeBy: string,
  lasts: number,
): Promise<{ link: string; endsAt: number }> {
  const link = randomBytes(24).toString("base64url");
  const createdAt = Date.now();
  const endsAt = createdAt + lasts;
  await drizzle(pool)
    .insert(sheetLink)
    .values({ sheet: id, hash: hashOf(link), madeBy, createdAt, endsAt });
  return { link, endsAt };
}

const inForce = () => and(isNull(sheetLink.revokedAt), gt(sheetLink.endsAt, Date.now()));

/** The sheet that a link shows now, and until when; null where it was taken back, has ended or never was. */
export async function sheetBehind(pool: pg.Pool, text: string): Promise<{ saved: SavedSheet; endsAt: number } | null> {
  const [row] = await drizzle(pool)
    .select({ id: sheetLink.sheet, endsAt: sheetLink.endsAt })
    .from(sheetLink)
    .where(and(eq(sheetLink.hash, hashOf(text)), inForce()));
  const saved = row ? await findSheet(pool, row.id) : null;
  return saved ? { saved, endsAt: row.endsAt } : null;
}

/** A link of a sheet that works. */
export interface SheetLinkEntry {
  id: number;
  madeBy: string;
  createdAt: number;
  endsAt: number;
}

/** The links of a sheet that work, the latest first. */
export function sheetLinks(pool: pg.Pool, id: string): Promise<SheetLinkEntry[]> {
  const { madeBy, createdAt, endsAt } = sheetLink;
  return drizzle(pool)
    .select({ id: sheetLink.id, madeBy, createdAt, endsAt })
    .from(sheetLink)
    .where(and(eq(sheetLink.sheet, id), inForce()))
    .orderBy(desc(createdAt))
    .limit(200);
}

/** The sheet that a link is to; null where there is no such link. */
export async function sheetOfLink(pool: pg.Pool, link: number): Promise<{ id: string; readers: string[] } | null> {
  const [row] = await drizzle(pool)
    .select({ id: sheet.id, readers: sheet.readers })
    .from(sheetLink)
    .innerJoin(sheet, eq(sheet.id, sheetLink.sheet))
    .where(eq(sheetLink.id, link));
  return row ?? null;
}

/** Takes a link back. */
export async function revokeSheetLink(pool: pg.Pool, link: number): Promise<void> {
  await drizzle(pool)
    .update(sheetLink)
    .set({ revokedAt: Date.now() })
    .where(and(eq(sheetLink.id, link), isNull(sheetLink.revokedAt)));
}
