import { z } from "zod";
import { attribute, attributes, common, FOLDS, metricName, ownPatterns, pattern, seconds, unitText } from "./parts";

/**
 * Steps of the lanes for traces and logs. Conditions are over attributes; of spans also over `span.name`, `span.kind`,
 * `span.status`, `span.duration` (seconds) and `span.root`, of log records over `log.body`, `log.severity` and
 * `log.severity.number`, as if they were.
 */

const share = z.number().min(0, "a share is not below 0").max(1, "a share is not above 1");
const bounds = z
  .array(z.number())
  .max(200)
  .refine((all) => all.every((bound, i) => i === 0 || bound > all[i - 1]), "bounds rise from one to the next");

/** Where durations are told apart, s (semantic conventions, "http.server.request.duration"). */
const DURATION_BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5, 10];

const onRecords = {
  keep: z.object({ ...common, type: z.literal("keep") }),
  drop: z.object({ ...common, type: z.literal("drop") }),
  rename: z.object({ ...common, type: z.literal("rename"), from: attribute, to: attribute }),
  copy: z.object({ ...common, type: z.literal("copy"), from: attribute, to: attribute }),
  hash: z.object({ ...common, type: z.literal("hash"), attributes }),
  set: z.object({ ...common, type: z.literal("set"), attribute, value: z.string().max(1000) }),
  remove: z.object({ ...common, type: z.literal("remove"), attributes }),
  redact: z.object({ ...common, type: z.literal("redact"), attributes, pattern }),
  fold: z.object({
    ...common,
    type: z.literal("fold"),
    attribute,
    folds: z.array(z.enum(FOLDS)).max(FOLDS.length).default([]),
    own: ownPatterns,
  }),
  /** Keeps a share of traces, the same ones everywhere; of records without a trace, a share of them. */
  sample: z.object({ ...common, type: z.literal("sample"), share }),
  /** Waits for a trace to be whole, then keeps it or not. */
  tail: z.object({
    ...common,
    type: z.literal("tail"),
    errors: z.boolean().default(true),
    /** Traces in which a span took longer are kept, s; null: none for that. */
    slower: z.number().positive().nullable().default(null),
    /** What is kept of the others. */
    share: share.default(0.05),
    /** How long after its first span a trace is decided on, s. */
    within: seconds.default(10),
  }),
  /** Metrics from spans: how many, how many failed, how long they took. */
  spans: z.object({
    ...common,
    type: z.literal("spans"),
    /** What the metrics' names begin with. */
    to: metricName.default("span"),
    attributes: z.array(attribute).max(50).default(["span.name", "span.kind"]),
    bounds: bounds.default(DURATION_BOUNDS),
    every: seconds.default(10),
  }),
  /** A metric from log records. */
  records: z.object({
    ...common,
    type: z.literal("records"),
    to: metricName,
    what: z.enum(["count", "sum", "histogram"]).default("count"),
    /** The attribute whose numbers are added up or told apart. */
    field: z.string().trim().max(255).default(""),
    unit: unitText.default("{record}"),
    attributes: z.array(attribute).max(50).default(["log.severity"]),
    bounds: bounds.default([]),
    every: seconds.default(10),
  }),
  /** Finds attributes in the text of a record. */
  parse: z.object({
    ...common,
    type: z.literal("parse"),
    from: attribute.default("log.body"),
    format: z.enum(["logfmt", "json", "pattern"]).default("logfmt"),
    /** With named groups; for the format "pattern". */
    pattern: z.union([z.literal(""), pattern]).default(""),
    /** What the names of found attributes begin with. */
    prefix: z.string().trim().max(100).default(""),
  }),
} as const;

/** A field is needed where numbers are asked for, a pattern where one is to find something. */
function refined<T extends z.ZodType>(schema: T): T {
  return schema.superRefine((value, context) => {
    const step = value as z.infer<(typeof onRecords)["records"]> | z.infer<(typeof onRecords)["parse"]>;
    if (step.type === "records" && step.what !== "count" && step.field === "")
      context.addIssue({ code: "custom", path: ["field"], message: "say which attribute has the numbers" });
    if (step.type === "parse" && step.format === "pattern" && step.pattern === "")
      context.addIssue({ code: "custom", path: ["pattern"], message: "a pattern with named groups is expected" });
  }) as T;
}

const { spans, records, parse, tail, ...shared } = onRecords;
const { keep, drop, rename, copy, hash, set, remove, redact, fold, sample } = shared;

export const spanStepSchema = z.discriminatedUnion("type", [
  keep,
  drop,
  rename,
  copy,
  hash,
  set,
  remove,
  redact,
  fold,
  sample,
  tail,
  spans,
]);
export const logStepSchema = refined(
  z.discriminatedUnion("type", [keep, drop, rename, copy, hash, set, remove, redact, fold, parse, sample, records]),
);
export type SpanStep = z.infer<typeof spanStepSchema>;
export type LogStep = z.infer<typeof logStepSchema>;
export type RecordStep = SpanStep | LogStep;

export const SPAN_STEP_TYPES = [...Object.keys(shared), "tail", "spans"] as SpanStep["type"][];
export const LOG_STEP_TYPES = [...Object.keys(shared), "parse", "records"] as LogStep["type"][];
