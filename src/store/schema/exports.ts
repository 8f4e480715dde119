import { bigint, bigserial, index, integer, pgTable, primaryKey, text } from "drizzle-orm/pg-core";
import { bytea } from "./bytea";

/** Exporters: what is queued for them, and how they do. */

/** What exporters still have to send. */
export const exportQueue = pgTable(
  "export_queue",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    exporter: text().notNull(),
    signal: text().notNull(),
    at: bigint({ mode: "number" }).notNull(),
    /** Points, spans or records. */
    items: integer().notNull(),
    size: integer().notNull(),
    body: bytea().notNull(),
  },
  (table) => [index("export_queue_exporter").on(table.exporter, table.id)],
);

/** How it goes with an exporter. Points, spans and records together. */
export const exporterStatus = pgTable("exporter_status", {
  exporter: text().primaryKey(),
  sent: bigint({ mode: "number" }).notNull(),
  /** What the other side did not take, and what was left out because the queue was full. */
  refused: bigint({ mode: "number" }).notNull(),
  lost: bigint({ mode: "number" }).notNull(),
  sentAt: bigint("sent_at", { mode: "number" }),
  /** Why the last attempt failed; null where it went well. */
  failure: text(),
  failedAt: bigint("failed_at", { mode: "number" }),
  retryAt: bigint("retry_at", { mode: "number" }),
});

/** What an exporter remembers of series, packed: totals, and what its page shows. */
export const exporterMemory = pgTable("exporter_memory", {
  exporter: text().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
  body: bytea().notNull(),
});

/** Values of an exporter's secret headers, encrypted. */
export const exporterSecret = pgTable(
  "exporter_secret",
  {
    exporter: text().notNull(),
    name: text().notNull(),
    value: bytea().notNull(),
    /** The origin that it was given for, and is sent to; "" for what is sent nowhere. */
    origin: text().notNull().default(""),
  },
  (table) => [primaryKey({ columns: [table.exporter, table.name] })],
);
