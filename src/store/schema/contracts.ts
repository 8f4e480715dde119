import { bigint, integer, jsonb, pgTable, primaryKey, serial, text } from "drizzle-orm/pg-core";
import type { ContractBody } from "@/core/contract/contract";

/** Contracts, and what does not look as they say. */

/** What an instrument must look like; every version ever saved. */
export const contract = pgTable(
  "contract",
  {
    name: text().notNull(),
    version: integer().notNull(),
    at: bigint({ mode: "number" }).notNull(),
    who: text().notNull(),
    note: text().notNull(),
    /** null: withdrawn. */
    body: jsonb().$type<ContractBody | null>(),
  },
  (table) => [primaryKey({ columns: [table.name, table.version] })],
);

/** Where arrivals do not look as they should. */
export const finding = pgTable("finding", {
  id: serial().primaryKey(),
  /** A hash of what, where and by whom. */
  key: text().notNull().unique(),
  metric: text().notNull(),
  code: text().notNull(),
  /** What it is about: an attribute, another metric; "" for the metric itself. */
  subject: text().notNull(),
  service: text().notNull(),
  environment: text().notNull(),
  release: text().notNull(),
  instance: text().notNull(),
  detail: text().notNull(),
  firstAt: bigint("first_at", { mode: "number" }).notNull(),
  lastAt: bigint("last_at", { mode: "number" }).notNull(),
  /** When it was found to be over; null while it holds. */
  endedAt: bigint("ended_at", { mode: "number" }),
});
