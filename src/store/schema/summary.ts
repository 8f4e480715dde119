import { bigint, boolean, integer, pgTable, primaryKey, text } from "drizzle-orm/pg-core";

/** What is counted in the background. */

/** What is known of a metric by its name: counted in the background, because it takes a look at all there is. */
export const metricUse = pgTable("metric_use", {
  name: text().primaryKey(),
  services: text().array().notNull(),
  releases: integer().notNull(),
  series: bigint({ mode: "number" }).notNull(),
  /** Of instances that report. */
  seriesNow: bigint("series_now", { mode: "number" }).notNull(),
  overflows: boolean().notNull(),
  attributes: text().array().notNull(),
  strips: bigint({ mode: "number" }).notNull().default(0),
  pointsRaw: bigint("points_raw", { mode: "number" }).notNull().default(0),
  pointsMinutes: bigint("points_minutes", { mode: "number" }).notNull().default(0),
  pointsHours: bigint("points_hours", { mode: "number" }).notNull().default(0),
  bytes: bigint({ mode: "number" }).notNull().default(0),
  /** Of its points, Unix ms; null where none is stored. */
  oldest: bigint({ mode: "number" }),
  newest: bigint({ mode: "number" }),
});

/** What a partition of strips holds of a metric. */
export const stripSum = pgTable(
  "strip_sum",
  {
    partition: text().notNull(),
    metricId: integer("metric_id").notNull(),
    resolution: integer().notNull(),
    strips: bigint({ mode: "number" }).notNull(),
    points: bigint({ mode: "number" }).notNull(),
    bytes: bigint({ mode: "number" }).notNull(),
    oldest: bigint({ mode: "number" }).notNull(),
    newest: bigint({ mode: "number" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.partition, table.metricId] })],
);

/** Partitions that were summed up, with what PostgreSQL had counted of their changes until then. */
export const summedPartition = pgTable("summed_partition", {
  partition: text().primaryKey(),
  changes: text().notNull(),
});
