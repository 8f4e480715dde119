import {
  bigint,
  bigserial,
  boolean,
  customType,
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
import type { PurgeRequest } from "@/core/api/purge";
import type { TargetLabels } from "@/core/api/targets";
import type { ContractBody } from "@/core/contract/contract";
import type { Attributes, MetricIdentity, SeriesIdentity } from "@/core/metric/model";
import type { Choice } from "@/core/openmetrics/choice";
import type { FurtherParts } from "@/core/otlp/dictionary";
import type { PipelineConfig } from "@/core/pipeline/config";

/**
 * The registry: what was ever reported and by whom. Times are Unix milliseconds. The strips themselves stand in a
 * partitioned table that a migration of its own creates (see strips.ts).
 */

const bytea = customType<{ data: Buffer }>({ dataType: () => "bytea" });

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

export const resource = pgTable("resource", {
  id: serial().primaryKey(),
  hash: bytea().notNull().unique(),
  attributes: jsonb().$type<Attributes>().notNull(),
  service: text().notNull(),
  release: text().notNull(),
  environment: text().notNull(),
  instance: text().notNull(),
});

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
export const heard = pgTable("heard", {
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

/** A key that a sender shows. Only its hash is kept. */
export const token = pgTable("token", {
  id: serial().primaryKey(),
  name: text().notNull(),
  environment: text().notNull(),
  hash: bytea().notNull().unique(),
  /** Its first characters, to recognise it by. */
  hint: text().notNull(),
  createdAt: bigint("created_at", { mode: "number" }).notNull(),
  lastUsedAt: bigint("last_used_at", { mode: "number" }),
  revokedAt: bigint("revoked_at", { mode: "number" }),
});

/** Requests that were refused, alike ones in one row. */
export const turnedAway = pgTable("turned_away", {
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
  { exporter: text().notNull(), name: text().notNull(), value: bytea().notNull() },
  (table) => [primaryKey({ columns: [table.exporter, table.name] })],
);

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

/** How often series and resources were taken away: whoever knows ids from before has to ask for them again. One row. */
export const registryEpoch = pgTable("registry_epoch", { epoch: integer().primaryKey() });

/** What the steps of a version remember, packed. */
export const laneState = pgTable("lane_state", {
  version: integer().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
  body: bytea().notNull(),
});

/** What is set once for all: by name. */
export const setting = pgTable("setting", { name: text().primaryKey(), value: jsonb().notNull() });

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

/** Requests that were stored lately, so that those that are sent again are known. */
export const storedRequest = pgTable("stored_request", {
  id: text().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
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

/** Readings that people looked at on the page for those that nobody keeps, each once, by when it was last. */
export const readLately = pgTable("read_lately", {
  reading: text().primaryKey(),
  at: bigint({ mode: "number" }).notNull(),
});
