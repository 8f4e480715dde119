import { and, asc, desc, eq, isNotNull, isNull, lt, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { sameSheet } from "@/core/sheet/merge";
import { platesOf } from "@/core/sheet/plates";
import { idFor, type Sheet } from "@/core/sheet/sheet";
import { usesOf } from "@/core/sheet/uses";
import { DAY, HOUR } from "@/core/window/lengths";
import { transaction } from "../database/connect";
import { LOCKS } from "../database/locks";
import type { BackgroundJob } from "../jobs/job";
import { sheet, sheetDraft, sheetLink, sheetVersion } from "../schema";

/** Sheets with all their versions: none is ever changed, the latest counts. */

/** For how long a sheet that was thrown away comes back, ms. */
export const KEPT_DELETED = 30 * DAY;

/** A version of a sheet. */
export interface SheetVersion {
  version: number;
  at: number;
  who: string;
  note: string;
}
export type SavedSheet = SheetVersion & { id: string; body: Sheet };

/** Whether somebody may see a sheet, by the readers of one of its versions. */
export type MaySee = (sheet: Pick<Sheet, "readers">) => boolean;

/** Somebody else saved a version meanwhile, or the sheet is not there. */
export class OutdatedSheet extends Error {
  override name = "OutdatedSheet";
  /** @param latest what is there now; null: nothing, or it was thrown away */
  constructor(readonly latest: SavedSheet | null) {
    super(
      latest
        ? `version ${latest.version} was saved meanwhile by ${latest.who}: ${latest.note}`
        : "the sheet is not there any more",
    );
  }
}

const entryOf = (body: Sheet) => ({
  name: body.name,
  purpose: body.purpose,
  tags: body.tags,
  readers: body.readers,
  ...usesOf(body),
  plates: platesOf(body).length,
});

type Client = Parameters<Parameters<typeof transaction>[1]>[0];

/** A sheet with its latest version. */
const SAVED = {
  id: sheet.id,
  version: sheetVersion.version,
  at: sheetVersion.at,
  who: sheetVersion.who,
  note: sheetVersion.note,
  body: sheetVersion.body,
};
const OF_LATEST = and(eq(sheetVersion.sheet, sheet.id), eq(sheetVersion.version, sheet.version));

async function latestOf(client: pg.Pool | Client, id: string): Promise<(SavedSheet & { deleted: boolean }) | null> {
  const [row] = await drizzle(client)
    .select({
      ...SAVED,
      deletedAt: sheet.deletedAt,
    })
    .from(sheet)
    .innerJoin(sheetVersion, OF_LATEST)
    .where(eq(sheet.id, id));
  if (!row) return null;
  const { deletedAt, ...saved } = row;
  return { ...saved, deleted: deletedAt !== null };
}

/** A sheet as it was saved last; null where there is none, or it was thrown away. */
export async function findSheet(pool: pg.Pool, id: string): Promise<SavedSheet | null> {
  const found = await latestOf(pool, id);
  if (!found || found.deleted) return null;
  const { deleted: _, ...saved } = found;
  return saved;
}

/** Every sheet that is there as it was saved last, by name. */
export async function latestSheets(client: pg.Pool | Client): Promise<SavedSheet[]> {
  return drizzle(client)
    .select(SAVED)
    .from(sheet)
    .innerJoin(sheetVersion, OF_LATEST)
    .where(isNull(sheet.deletedAt))
    .orderBy(asc(sheet.name), asc(sheet.id))
    .limit(5000);
}

/** Writes the next version of a sheet, whose row is locked. */
export async function saveIn(
  client: Client,
  id: string,
  version: number,
  { body, who, note }: { body: Sheet; who: string; note: string },
): Promise<void> {
  await drizzle(client).insert(sheetVersion).values({ sheet: id, version, at: Date.now(), who, note, body });
  // Links were made for the readers that the sheet had then: once it is limited to others, they end.
  if (body.readers.length > 0)
    await client.query(
      `UPDATE sheet_link SET revoked_at = $2 WHERE sheet = $1 AND revoked_at IS NULL
       AND (SELECT readers FROM sheet WHERE id = $1) IS DISTINCT FROM $3::text[]`,
      [id, Date.now(), body.readers],
    );
  await drizzle(client)
    .update(sheet)
    .set({ version, ...entryOf(body) })
    .where(eq(sheet.id, id));
}

/** Makes a sheet with an id that follows its name, or the one that is wanted. @throws OutdatedSheet where that is taken */
export function createSheet(
  pool: pg.Pool,
  { body, who, note, id: wanted }: { body: Sheet; who: string; note: string; id?: string | undefined },
): Promise<string> {
  return transaction(pool, async (client) => {
    await client.query("SELECT pg_advisory_xact_lock($1)", [LOCKS.sheets]);
    const { rows } = await client.query<{ id: string }>("SELECT id FROM sheet");
    const taken = new Set(rows.map(({ id }) => id));
    if (wanted !== undefined && taken.has(wanted)) throw new OutdatedSheet(await latestOf(client, wanted));
    const id = wanted ?? idFor(body.name, (one) => taken.has(one));
    await drizzle(client)
      .insert(sheet)
      .values({ id, version: 1, ...entryOf(body) });
    await drizzle(client).insert(sheetVersion).values({ sheet: id, version: 1, at: Date.now(), who, note, body });
    return id;
  });
}

/**
 * Saves the next version of a sheet.
 *
 * @param based the version that it was changed from; null: whatever is there
 * @param may whether whoever saves may see what is there: it may have been limited meanwhile
 * @returns its number; null where it says what the latest says already
 * @throws OutdatedSheet
 */
export function saveSheet(
  pool: pg.Pool,
  id: string,
  { body, who, note, based, may }: { body: Sheet; who: string; note: string; based: number | null; may: MaySee },
): Promise<number | null> {
  return transaction(pool, async (client) => {
    await client.query("SELECT 1 FROM sheet WHERE id = $1 FOR UPDATE", [id]);
    const latest = await latestOf(client, id);
    if (!latest || latest.deleted || !may(latest.body)) throw new OutdatedSheet(null);
    if (based !== null && based !== latest.version) throw new OutdatedSheet(latest);
    if (sameSheet(latest.body, body)) return null;
    const version = latest.version + 1;
    await saveIn(client, id, version, { body, who, note });
    return version;
  });
}

/** Versions of a sheet that somebody may see, the newest first: one that was limited stays so. */
export async function sheetVersions(pool: pg.Pool, id: string, may: MaySee): Promise<SheetVersion[]> {
  const { version, at, who, note, body } = sheetVersion;
  const rows = await drizzle(pool)
    .select({ version, at, who, note, readers: sql<string[]>`coalesce(${body} -> 'readers', '[]')` })
    .from(sheetVersion)
    .where(eq(sheetVersion.sheet, id))
    .orderBy(desc(version))
    .limit(1000);
  return rows.filter(may).map(({ readers: _, ...one }) => one);
}

/** A version of a sheet; null where there is none that somebody may see. */
export async function findVersion(pool: pg.Pool, id: string, version: number, may: MaySee): Promise<SavedSheet | null> {
  const [row] = await drizzle(pool)
    .select()
    .from(sheetVersion)
    .where(and(eq(sheetVersion.sheet, id), eq(sheetVersion.version, version)));
  if (!row || !may(row.body)) return null;
  const { sheet: own, ...rest } = row;
  return { id: own, ...rest };
}

/** Throws a sheet away, or takes it back. @returns whether there is such a sheet, in the other state */
export async function throwAway(pool: pg.Pool, id: string, who: string | null): Promise<boolean> {
  const { rowCount } = await drizzle(pool)
    .update(sheet)
    .set(who === null ? { deletedAt: null, deletedBy: null } : { deletedAt: Date.now(), deletedBy: who })
    .where(and(eq(sheet.id, id), who === null ? isNotNull(sheet.deletedAt) : isNull(sheet.deletedAt)));
  return (rowCount ?? 0) > 0;
}

/** Drafts that nobody went on with for so long are given up, ms. */
const KEPT_DRAFTS = 90 * DAY;

/** Forgets sheets that were thrown away long ago, drafts that nobody goes on with, and links that have ended. */
export const OLD_SHEETS: BackgroundJob = {
  name: "sheets",
  does: "forget sheets that were thrown away thirty days ago",
  every: HOUR,
  pass: async (pool, now) => {
    const gone = await drizzle(pool)
      .delete(sheet)
      .where(lt(sheet.deletedAt, now - KEPT_DELETED));
    const drafts = await drizzle(pool)
      .delete(sheetDraft)
      .where(lt(sheetDraft.at, now - KEPT_DRAFTS));
    const links = await drizzle(pool)
      .delete(sheetLink)
      .where(lt(sheetLink.endsAt, now - KEPT_DELETED));
    return {
      done: (gone.rowCount ?? 0) + (drafts.rowCount ?? 0) + (links.rowCount ?? 0),
      backlog: 0,
      waitingSince: null,
    };
  },
};
