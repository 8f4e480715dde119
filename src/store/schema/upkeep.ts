import { bigint, integer, jsonb, pgTable, serial, text } from "drizzle-orm/pg-core";
import type { PurgeRequest } from "@/core/api/purge";
import { bytea } from "./bytea";

/** Background jobs and what they could not do; purges; requests that were stored. */

/** What a background job did last, and what it still has to do. One row per job; times in Unix ms. */
export const job = pgTable("job", {
  name: text().primaryKey(),
  holder: text().notNull(),
  startedAt: bigint("started_at", { mode: "number" }).notNull(),
  finishedAt: bigint("finished_at", { mode: "number" }),
  done: integer().notNull(),
  backlog: integer().notNull(),
  /** When the oldest waiting piece of work became due; null where none waits. */
  waitingSince: bigint("waiting_since", { mode: "number" }),
  error: text(),
});

/** What a background job could not handle, taken out of its way: whole, so that nothing is lost, until somebody deletes it. */
export const setAside = pgTable("set_aside", {
  id: bigint({ mode: "number" }).primaryKey().generatedAlwaysAsIdentity(),
  at: bigint({ mode: "number" }).notNull(),
  /** strip, window, trace or export. */
  kind: text().notNull(),
  /** The metric, step or exporter that it is of. */
  subject: text().notNull(),
  points: integer().notNull(),
  reason: text().notNull(),
  body: bytea().notNull(),
});

/** A record of data that was deleted on purpose. Written before anything goes; upkeep does the work. */
export const purge = pgTable("purge", {
  id: serial().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
  who: text().notNull(),
  what: jsonb().$type<PurgeRequest>().notNull(),
  /** Rows of strips that went so far, of all resolutions, and the bytes that this freed. */
  points: bigint({ mode: "number" }).notNull(),
  bytes: bigint({ mode: "number" }).notNull(),
  /** The day (its number) up to which it is done; null before the first. */
  doneDay: integer("done_day"),
  finishedAt: bigint("finished_at", { mode: "number" }),
});

/** Requests that were stored lately, so that those that are sent again are known. */
export const storedRequest = pgTable("stored_request", {
  id: text().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
});
