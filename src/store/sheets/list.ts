import { and, desc, eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { DAY } from "@/core/window/lengths";
import { sheet, sheetDraft, sheetSeen, sheetVersion } from "../schema";

/** The list of sheets, and who looks at them. */

/** Who opened a sheet within this span counts as looking at it, ms. */
const LOOKS = 30 * DAY;

export interface ListedSheet {
  id: string;
  version: number;
  name: string;
  purpose: string;
  tags: string[];
  readers: string[];
  metrics: string[];
  attributes: string[];
  plates: number;
  at: number;
  who: string;
  deletedAt: number | null;
  deletedBy: string | null;
  /** When the asker opened it last, and whether they starred it. */
  openedAt: number | null;
  starred: boolean;
  /** Whether the asker has a draft of it. */
  drafted: boolean;
  /** People who opened it within thirty days. */
  lookers: number;
}

/** All sheets, those thrown away too, the latest saved first. @param account the asker; "" for a program */
export async function listSheets(pool: pg.Pool, account: string): Promise<ListedSheet[]> {
  const since = Date.now() - LOOKS;
  const rows = await drizzle(pool)
    .select({
      id: sheet.id,
      version: sheet.version,
      name: sheet.name,
      purpose: sheet.purpose,
      tags: sheet.tags,
      readers: sheet.readers,
      metrics: sheet.metrics,
      attributes: sheet.attributes,
      plates: sheet.plates,
      deletedAt: sheet.deletedAt,
      deletedBy: sheet.deletedBy,
      at: sheetVersion.at,
      who: sheetVersion.who,
      openedAt: sheetSeen.openedAt,
      starredAt: sheetSeen.starredAt,
      drafted: sql<boolean>`EXISTS (SELECT 1 FROM ${sheetDraft} AS d WHERE d.sheet = ${sheet.id} AND d.account = ${account})`,
      lookers: sql<string>`(SELECT count(*) FROM ${sheetSeen} AS s WHERE s.sheet = ${sheet.id} AND s.opened_at >= ${since})`,
    })
    .from(sheet)
    .innerJoin(sheetVersion, sql`${sheetVersion.sheet} = ${sheet.id} AND ${sheetVersion.version} = ${sheet.version}`)
    .leftJoin(sheetSeen, sql`${sheetSeen.sheet} = ${sheet.id} AND ${sheetSeen.account} = ${account}`)
    .orderBy(desc(sheetVersion.at))
    .limit(5000);
  return rows.map(({ starredAt, lookers, ...rest }) => ({
    ...rest,
    starred: starredAt !== null,
    lookers: Number(lookers),
  }));
}

/** Notes that somebody opened a sheet. */
export async function noteOpened(pool: pg.Pool, id: string, account: string): Promise<void> {
  const openedAt = Date.now();
  await drizzle(pool)
    .insert(sheetSeen)
    .values({ sheet: id, account, openedAt })
    .onConflictDoUpdate({ target: [sheetSeen.sheet, sheetSeen.account], set: { openedAt } });
}

/** Stars a sheet for somebody, or takes the star away. */
export async function star(pool: pg.Pool, id: string, account: string, on: boolean): Promise<void> {
  const starredAt = on ? Date.now() : null;
  await drizzle(pool)
    .insert(sheetSeen)
    .values({ sheet: id, account, starredAt })
    .onConflictDoUpdate({ target: [sheetSeen.sheet, sheetSeen.account], set: { starredAt } });
}

/** Whether somebody starred a sheet. */
export async function isStarred(pool: pg.Pool, id: string, account: string): Promise<boolean> {
  const rows = await drizzle(pool)
    .select({ at: sheetSeen.starredAt })
    .from(sheetSeen)
    .where(and(eq(sheetSeen.sheet, id), eq(sheetSeen.account, account)));
  return rows[0]?.at != null;
}
