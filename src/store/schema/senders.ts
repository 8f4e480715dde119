import { bigint, boolean, integer, jsonb, pgTable, serial, text } from "drizzle-orm/pg-core";
import type { TargetLabels } from "@/core/api/targets";
import type { Choice } from "@/core/openmetrics/choice";
import { bytea } from "./bytea";

/** Who was turned away, and what is scraped. */

/** Requests that were refused, alike ones in one row. */
export const rejectedRequest = pgTable("rejected_request", {
  id: serial().primaryKey(),
  /** A hash of what makes requests alike. */
  key: text().notNull().unique(),
  address: text().notNull(),
  agent: text().notNull(),
  request: text().notNull(),
  status: integer().notNull(),
  reason: text().notNull(),
  firstAt: bigint("first_at", { mode: "number" }).notNull(),
  lastAt: bigint("last_at", { mode: "number" }).notNull(),
  count: integer().notNull(),
});

/** A place that is scraped. */
export const target = pgTable("target", {
  id: serial().primaryKey(),
  name: text().notNull(),
  url: text().notNull(),
  every: integer().notNull(),
  timeout: integer().notNull(),
  auth: text().notNull(),
  username: text().notNull(),
  /** The bearer token or password, encrypted; null where there is none. */
  secret: bytea(),
  labels: jsonb().$type<TargetLabels>().notNull(),
  choice: jsonb().$type<Choice>().notNull(),
  paused: boolean().notNull(),
  createdAt: bigint("created_at", { mode: "number" }).notNull(),
  /** How its last scrape went; null before the first. */
  scrapedAt: bigint("scraped_at", { mode: "number" }),
  took: integer(),
  samples: integer(),
  points: integer(),
  /** Why the last scrape failed: a short code and words; null where it went well. */
  failure: text(),
  failureDetail: text("failure_detail"),
  /** Since when it goes as it went last. */
  sinceAt: bigint("since_at", { mode: "number" }),
  /** When it was deleted; it can be brought back for a day. */
  deletedAt: bigint("deleted_at", { mode: "number" }),
});
