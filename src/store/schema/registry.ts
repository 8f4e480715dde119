import {
  bigint,
  boolean,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  text,
  unique,
} from "drizzle-orm/pg-core";
import type { Attributes } from "@/core/metric/model";
import type { FurtherParts } from "@/core/otlp/dictionary";
import { bytea } from "./bytea";

/**
 * The registry: what was ever reported and by whom. Times are Unix milliseconds. The strips themselves stand in a
 * partitioned table that a migration of its own creates (see ../strips/strips.ts).
 */

export const metric = pgTable(
  "metric",
  {
    id: serial().primaryKey(),
    name: text().notNull(),
    kind: text().notNull(),
    unit: text().notNull(),
    temporality: text().notNull(),
    monotonic: boolean().notNull(),
    description: text().notNull(),
    firstAt: bigint("first_at", { mode: "number" }).notNull(),
    /** For how long points are kept at each resolution, ms; null for the default. */
    keepRaw: bigint("keep_raw", { mode: "number" }),
    keepMinute: bigint("keep_minute", { mode: "number" }),
    keepHour: bigint("keep_hour", { mode: "number" }),
  },
  (table) => [unique("metric_identity").on(table.name, table.kind, table.unit, table.temporality, table.monotonic)],
);

export const resource = pgTable(
  "resource",
  {
    id: serial().primaryKey(),
    hash: bytea().notNull().unique(),
    attributes: jsonb().$type<Attributes>().notNull(),
    service: text().notNull(),
    release: text().notNull(),
    environment: text().notNull(),
    instance: text().notNull(),
  },
  (table) => [index("resource_release").on(table.service, table.environment, table.release)],
);

export const series = pgTable(
  "series",
  {
    id: bigint({ mode: "number" }).primaryKey().generatedAlwaysAsIdentity(),
    metricId: integer("metric_id")
      .notNull()
      .references(() => metric.id),
    hash: bytea().notNull(),
    resourceId: integer("resource_id")
      .notNull()
      .references(() => resource.id),
    scopeName: text("scope_name").notNull(),
    scopeVersion: text("scope_version").notNull(),
    attributes: jsonb().$type<Attributes>().notNull(),
    /** Attributes of the scope, and exact types of values; null for most. */
    further: jsonb().$type<FurtherParts>(),
    /** When it was first heard, by our clock, Unix ms; 0: as long ago as its resource. */
    firstAt: bigint("first_at", { mode: "number" }).notNull().default(0),
  },
  (table) => [unique("series_identity").on(table.metricId, table.hash), index("series_resource").on(table.resourceId)],
);

/** Values that point attributes of a metric ever had: what is searched. Long ones are cut. */
export const knownValue = pgTable(
  "known_value",
  {
    metricId: integer("metric_id").notNull(),
    key: text().notNull(),
    value: text().notNull(),
    /** Of key and whole value. */
    hash: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.metricId, table.hash] })],
);

/** When a release of a service was heard in an environment, first and last. */
export const release = pgTable(
  "release",
  {
    service: text().notNull(),
    environment: text().notNull(),
    version: text().notNull(),
    firstAt: bigint("first_at", { mode: "number" }).notNull(),
    lastAt: bigint("last_at", { mode: "number" }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.service, table.environment, table.version] })],
);

/** When a resource was heard, by our clock, and how much came of it. */
export const activity = pgTable("activity", {
  resourceId: integer("resource_id")
    .primaryKey()
    .references(() => resource.id),
  firstAt: bigint("first_at", { mode: "number" }).notNull(),
  lastAt: bigint("last_at", { mode: "number" }).notNull(),
  points: bigint({ mode: "number" }).notNull(),
  /** The minute (its number) that was last counted, its points so far, and those of the minute before. */
  minute: bigint({ mode: "number" }).notNull(),
  minutePoints: integer("minute_points").notNull(),
  beforePoints: integer("before_points").notNull(),
  /** How long it usually is from one batch to the next, ms; null until there were a few. */
  every: integer(),
});

export const exemplar = pgTable(
  "exemplar",
  {
    metricId: integer("metric_id").notNull(),
    seriesId: bigint("series_id", { mode: "number" }).notNull(),
    ms: bigint({ mode: "number" }).notNull(),
    ns: integer().notNull(),
    value: doublePrecision().notNull(),
    traceId: text("trace_id").notNull(),
    spanId: text("span_id").notNull(),
    attributes: jsonb().$type<Attributes>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.seriesId, table.ms, table.ns, table.traceId, table.spanId] }),
    index("exemplar_metric_time").on(table.metricId, table.ms),
  ],
);

/** How often series and resources were taken away: whoever knows ids from before has to ask for them again. One row. */
export const registryEpoch = pgTable("registry_epoch", { epoch: integer().primaryKey() });
