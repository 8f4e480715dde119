import { bigint, jsonb, pgTable, text } from "drizzle-orm/pg-core";

/** What people set and looked at. */

/** What is set once for all: by name. */
export const setting = pgTable("setting", { name: text().primaryKey(), value: jsonb().notNull() });

/** Readings that people looked at on the page for those that nobody keeps, each once, by when it was last. */
export const readLately = pgTable("read_lately", {
  reading: text().primaryKey(),
  /** The account of whoever read it last; "" where nobody knows. */
  who: text().notNull().default(""),
  at: bigint({ mode: "number" }).notNull(),
});
