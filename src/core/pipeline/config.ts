import { RE2JS } from "re2js";
import { z } from "zod";
import { predicate } from "../reading/conditions";
import { parseCondition } from "../reading/parse";
import { ReadingError } from "../reading/tree";
import { parseUnit, UnitError } from "../unit/unit";

/**
 * What a team says its pipeline does: a lane of steps in order. Each step has a condition in the words of readings, over
 * attributes, and over `metric` and `unit` as if they were attributes.
 */

const condition = z
  .string()
  .max(2000)
  .default("")
  .superRefine((text, context) => {
    try {
      // A pattern that is not understood shows only when it is made ready.
      predicate(parseCondition(text));
    } catch (error) {
      const message = error instanceof ReadingError ? [error.message, error.hint] : [(error as Error).message];
      context.addIssue({ code: "custom", message: message.filter(Boolean).join("; ") });
    }
  });

const attribute = z.string().trim().min(1, "an attribute is expected").max(255);
const attributes = z.array(attribute).min(1, "at least one attribute is expected").max(50);
const metricName = z.string().trim().min(1, "a metric is expected").max(255);
const seconds = z.number().int().min(1, "at least a second").max(3600, "at most an hour");

/** How values of gauges that meet in one series and window become one. */
export const LEVEL_HOWS = ["sum", "mean", "min", "max", "last"] as const;
export type LevelHow = (typeof LEVEL_HOWS)[number];

const pattern = z
  .string()
  .min(1)
  .max(500)
  .superRefine((text, context) => {
    try {
      RE2JS.compile(text);
    } catch (error) {
      context.addIssue({ code: "custom", message: `the pattern is not understood: ${(error as Error).message}` });
    }
  });

/** Ready patterns of values that are better folded. */
export const FOLDS = ["numbers", "uuids", "hex", "emails", "hosts", "paths"] as const;
export type Fold = (typeof FOLDS)[number];

const common = {
  /** What tells a step from others; it stays when the step is moved or changed. */
  id: z.string().regex(/^[a-z0-9-]{1,40}$/, "an id of small letters, digits and dashes is expected"),
  /** A step that is off is passed over. */
  on: z.boolean().default(true),
  where: condition,
};
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
    /** Own patterns (RE2) and what stands in place of what they find. */
    own: z
      .array(z.object({ pattern, to: z.string().max(200) }))
      .max(20)
      .default([]),
    ...meeting,
  }),
  metric: z.object({ ...common, type: z.literal("metric"), to: metricName }),
  unit: z.object({
    ...common,
    type: z.literal("unit"),
    to: z.string().superRefine((code, context) => {
      try {
        parseUnit(code);
      } catch (error) {
        if (!(error instanceof UnitError)) throw error;
        context.addIssue({ code: "custom", message: error.message });
      }
    }),
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
]);
export type StepConfig = z.infer<typeof stepSchema>;
export type StepType = StepConfig["type"];
export const STEP_TYPES = Object.keys(steps) as StepType[];

const MOST_STEPS = 60;

export const pipelineSchema = z
  .object({ metrics: z.array(stepSchema).max(MOST_STEPS, `a lane has at most ${MOST_STEPS} steps`).default([]) })
  .superRefine(({ metrics }, context) => {
    const seen = new Set<string>();
    metrics.forEach(({ id }, i) => {
      if (seen.has(id))
        context.addIssue({ code: "custom", path: ["metrics", i, "id"], message: `another step is called ${id}` });
      seen.add(id);
    });
  });
export type PipelineConfig = z.infer<typeof pipelineSchema>;

export const EMPTY_PIPELINE: PipelineConfig = { metrics: [] };
