import { z } from "zod";
import { parseReading } from "../reading/parse";
import { measuresOf, ReadingError } from "../reading/tree";
import {
  attribute,
  attributes,
  common,
  FOLDS,
  LEVEL_HOWS,
  metricName,
  ownPatterns,
  pattern,
  seconds,
  unitText,
} from "./parts";

/** Steps of the lane for metrics. Conditions are over attributes, and over `metric` and `unit` as if they were. */

/** A reading that a figure is worked out with, window by window. */
const readingText = z
  .string()
  .min(1)
  .max(2000)
  .superRefine((text, context) => {
    try {
      const measures = measuresOf(parseReading(text).expression);
      const wrong = measures.find(({ over, every, shifted }) => over !== null || every !== null || shifted !== null);
      if (wrong)
        context.addIssue({
          code: "custom",
          message: "a figure is worked out per window: leave over, every and shifts out",
        });
      if (measures.length === 0) context.addIssue({ code: "custom", message: "a reading of some metric is expected" });
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      context.addIssue({ code: "custom", message: [error.message, error.hint].filter(Boolean).join("; ") });
    }
  });

/** For steps that bring series together: how their gauges meet, and in windows of how many seconds. */
const meeting = { gauges: z.enum(LEVEL_HOWS).default("sum"), every: seconds.default(10) };

const steps = {
  keep: z.object({ ...common, type: z.literal("keep") }),
  drop: z.object({ ...common, type: z.literal("drop") }),
  rename: z.object({ ...common, type: z.literal("rename"), from: attribute, to: attribute }),
  copy: z.object({ ...common, type: z.literal("copy"), from: attribute, to: attribute }),
  hash: z.object({ ...common, type: z.literal("hash"), attributes }),
  set: z.object({ ...common, type: z.literal("set"), attribute, value: z.string().max(1000), ...meeting }),
  remove: z.object({ ...common, type: z.literal("remove"), attributes, ...meeting }),
  redact: z.object({ ...common, type: z.literal("redact"), attributes, pattern, ...meeting }),
  fold: z.object({
    ...common,
    type: z.literal("fold"),
    attribute,
    folds: z.array(z.enum(FOLDS)).max(FOLDS.length).default([]),
    own: ownPatterns,
    ...meeting,
  }),
  metric: z.object({ ...common, type: z.literal("metric"), to: metricName }),
  unit: z.object({
    ...common,
    type: z.literal("unit"),
    to: unitText,
  }),
  merge: z.object({
    ...common,
    type: z.literal("merge"),
    /** Whether the attributes are those that go, or those that stay. */
    mode: z.enum(["without", "by"]).default("without"),
    attributes,
    how: z.enum([...LEVEL_HOWS, "distinct"]).default("sum"),
    /** The name of what comes out; "" keeps it. */
    to: z.string().max(255).default(""),
    /** Whether what went in goes on as well. */
    originals: z.boolean().default(false),
    every: seconds.default(10),
  }),
  slow: z.object({
    ...common,
    type: z.literal("slow"),
    every: seconds.default(60),
    gauges: z.enum(LEVEL_HOWS.slice(1)).default("mean"),
  }),
  limit: z.object({ ...common, type: z.literal("limit"), series: z.number().int().min(1).max(1_000_000) }),
  coarsen: z.object({
    ...common,
    type: z.literal("coarsen"),
    /** Bounds that explicit histograms keep, as far as they have them. */
    bounds: z.array(z.number()).max(200).default([]),
    /** The finest scale that exponential histograms keep. */
    scale: z.number().int().min(-10).max(20).nullable().default(null),
  }),
  compute: z.object({
    ...common,
    type: z.literal("compute"),
    /** A reading over metrics that match; each group of it becomes a series. */
    reading: readingText,
    to: metricName,
    /** The unit that it is said in; "" for the one that the formula gives. */
    unit: z.union([z.literal(""), unitText]).default(""),
    /** Significant digits; null keeps all. */
    digits: z.number().int().min(1).max(15).nullable().default(null),
    /** Whether what it is worked out from goes on as well. */
    originals: z.boolean().default(true),
    every: seconds.default(10),
  }),
} as const;

export const stepSchema = z.discriminatedUnion("type", [
  steps.keep,
  steps.drop,
  steps.rename,
  steps.copy,
  steps.hash,
  steps.set,
  steps.remove,
  steps.redact,
  steps.fold,
  steps.metric,
  steps.unit,
  steps.merge,
  steps.slow,
  steps.limit,
  steps.coarsen,
  steps.compute,
]);
export type StepConfig = z.infer<typeof stepSchema>;
export type StepType = StepConfig["type"];
export const STEP_TYPES = Object.keys(steps) as StepType[];
