import {
  bigint,
  bigserial,
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
import type { MetricIdentity, SeriesIdentity } from "@/core/metric/model";
import type { PipelineConfig } from "@/core/pipeline/config";
import { bytea } from "./bytea";

/** The pipeline: its versions, what waits in it, and what its steps remember. */

/** Every version of the pipeline that was published; the one with the greatest id is live. Times in Unix ms. */
export const pipelineVersion = pgTable("pipeline_version", {
  id: serial().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
  who: text().notNull(),
  note: text().notNull(),
  config: jsonb().$type<PipelineConfig>().notNull(),
});

/** Series whose points wait at steps: named here once a day, so that blocks only need their numbers. */
export const laneMember = pgTable(
  "lane_member",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    /** The day (its number) on which it was named; it is forgotten some days later. */
    day: integer().notNull(),
    hash: bytea().notNull(),
    metric: jsonb().$type<{ identity: MetricIdentity; description: string }>().notNull(),
    identity: jsonb().$type<SeriesIdentity>().notNull(),
  },
  (table) => [unique("lane_member_day").on(table.day, table.hash)],
);

/** Points that wait at a step until its window closes: blocks, packed. They are as durable as what is stored. */
export const laneWaiting = pgTable(
  "lane_waiting",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    version: integer().notNull(),
    step: text().notNull(),
    /** First and last time of its points, Unix ms. */
    from: doublePrecision("t_from").notNull(),
    to: doublePrecision("t_to").notNull(),
    points: integer().notNull(),
    body: bytea().notNull(),
  },
  (table) => [index("lane_waiting_version").on(table.version, table.step, table.id)],
);

/** What the steps of a version remember, packed. */
export const laneState = pgTable("lane_state", {
  version: integer().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
  body: bytea().notNull(),
});

/** Series that limits let through, by a hash. */
export const limitSeen = pgTable(
  "limit_seen",
  {
    step: text().notNull(),
    metric: text().notNull(),
    series: text().notNull(),
    /** When it was last said to be in use, Unix ms. */
    at: bigint({ mode: "number" }).notNull().default(0),
  },
  (table) => [primaryKey({ columns: [table.step, table.metric, table.series] }), index("limit_seen_at").on(table.at)],
);

/** Arrivals of the last minutes, as they were before the pipeline, to try a draft on. Not worth a log. */
export const arrivalSample = pgTable("arrival_sample", {
  id: bigserial({ mode: "number" }).primaryKey(),
  signal: text().notNull().default("metrics"),
  at: bigint({ mode: "number" }).notNull(),
  /** How long it was gathered, ms, how many points came meanwhile, and how many of them are in it. */
  span: integer().notNull(),
  seen: integer().notNull(),
  points: integer().notNull(),
  body: bytea().notNull(),
});

/** Spans that wait until their trace is decided on: those of one trace in one request. */
export const undecidedTrace = pgTable(
  "undecided_trace",
  {
    id: bigserial({ mode: "number" }).primaryKey(),
    version: integer().notNull(),
    step: text().notNull(),
    traceId: text("trace_id").notNull(),
    at: bigint({ mode: "number" }).notNull(),
    spans: integer().notNull(),
    body: text().notNull(),
  },
  (table) => [
    index("undecided_trace_id").on(table.step, table.traceId),
    index("undecided_trace_at").on(table.version, table.step, table.at),
  ],
);

/** What was decided of traces lately, for spans that come late. */
export const traceDecision = pgTable(
  "trace_decision",
  {
    step: text().notNull(),
    traceId: text("trace_id").notNull(),
    at: bigint({ mode: "number" }).notNull(),
    kept: boolean().notNull(),
    why: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.step, table.traceId] }), index("trace_decision_at").on(table.at)],
);
