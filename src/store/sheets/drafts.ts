import { and, eq } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Edited } from "@/core/sheet/history";
import { sheetDraft } from "../schema";

/** What somebody changed on a sheet and has not saved: one draft for each person and sheet. */

export interface SheetDraft {
  /** The version that it began from. */
  based: number;
  at: number;
  state: Edited;
}

const own = (sheet: string, account: string) => and(eq(sheetDraft.sheet, sheet), eq(sheetDraft.account, account));

/** Somebody's draft; null where they have none. */
export async function findDraft(pool: pg.Pool, sheet: string, account: string): Promise<SheetDraft | null> {
  const { based, at, state } = sheetDraft;
  const [row] = await drizzle(pool).select({ based, at, state }).from(sheetDraft).where(own(sheet, account));
  return row ?? null;
}

/**
 * Keeps somebody's draft in the place of the one before.
 *
 * @param seen when the draft was kept that this one goes on from; null: there was none. Another tab may have gone on meanwhile
 * @returns when it was kept; null where it was not, because another went on meanwhile
 */
export async function keepDraft(
  pool: pg.Pool,
  sheet: string,
  account: string,
  { based, state, seen }: { based: number; state: Edited; seen: number | null },
): Promise<number | null> {
  const at = Math.max(Date.now(), (seen ?? 0) + 1);
  const { rowCount } = await drizzle(pool)
    .insert(sheetDraft)
    .values({ sheet, account, based, at, state })
    .onConflictDoUpdate({
      target: [sheetDraft.sheet, sheetDraft.account],
      set: { based, at, state },
      setWhere: eq(sheetDraft.at, seen ?? -1),
    });
  return (rowCount ?? 0) > 0 ? at : null;
}

/** Gives somebody's draft up. */
export async function dropDraft(pool: pg.Pool, sheet: string, account: string): Promise<void> {
  await drizzle(pool).delete(sheetDraft).where(own(sheet, account));
}
