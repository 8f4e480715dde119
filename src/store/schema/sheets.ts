import { bigint, index, integer, jsonb, pgTable, primaryKey, serial, text } from "drizzle-orm/pg-core";
import type { Edited } from "@/core/sheet/history";
import type { Sheet } from "@/core/sheet/sheet";
import { bytea } from "./bytea";

/** Sheets, all their versions, and what people do with them. */

/** A sheet as the list finds it: what its latest version says. */
export const sheet = pgTable("sheet", {
  id: text().primaryKey(),
  version: integer().notNull(),
  name: text().notNull(),
  purpose: text().notNull(),
  tags: text().array().notNull(),
  readers: text().array().notNull(),
  /** What it reads. */
  metrics: text().array().notNull(),
  attributes: text().array().notNull(),
  plates: integer().notNull(),
  /** When it was thrown away, and by whom; null while it is there. */
  deletedAt: bigint("deleted_at", { mode: "number" }),
  deletedBy: text("deleted_by"),
});

export const sheetVersion = pgTable(
  "sheet_version",
  {
    sheet: text()
      .notNull()
      .references(() => sheet.id, { onDelete: "cascade" }),
    version: integer().notNull(),
    at: bigint({ mode: "number" }).notNull(),
    who: text().notNull(),
    note: text().notNull(),
    body: jsonb().$type<Sheet>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.sheet, table.version] })],
);

/** What somebody changed and has not saved. */
export const sheetDraft = pgTable(
  "sheet_draft",
  {
    sheet: text()
      .notNull()
      .references(() => sheet.id, { onDelete: "cascade" }),
    /** Whose it is: an account. */
    account: text().notNull(),
    /** The version that it began from. */
    based: integer().notNull(),
    at: bigint({ mode: "number" }).notNull(),
    state: jsonb().$type<Edited>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.sheet, table.account] })],
);

/** Who looked at which sheet, and keeps it at hand. */
export const sheetSeen = pgTable(
  "sheet_seen",
  {
    sheet: text()
      .notNull()
      .references(() => sheet.id, { onDelete: "cascade" }),
    account: text().notNull(),
    /** When they opened it last; null: they only starred it. */
    openedAt: bigint("opened_at", { mode: "number" }),
    /** When they starred it; null: they did not. */
    starredAt: bigint("starred_at", { mode: "number" }),
  },
  (table) => [primaryKey({ columns: [table.sheet, table.account] })],
);

/** A link to one sheet that needs no account. Only its hash is kept. */
export const sheetLink = pgTable(
  "sheet_link",
  {
    id: serial().primaryKey(),
    sheet: text()
      .notNull()
      .references(() => sheet.id, { onDelete: "cascade" }),
    hash: bytea().notNull().unique(),
    madeBy: text("made_by").notNull(),
    createdAt: bigint("created_at", { mode: "number" }).notNull(),
    endsAt: bigint("ends_at", { mode: "number" }).notNull(),
    revokedAt: bigint("revoked_at", { mode: "number" }),
  },
  (table) => [index("sheet_link_sheet").on(table.sheet)],
);
