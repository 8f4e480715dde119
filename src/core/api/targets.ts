import { z } from "zod";
import { MAX_NUMBERED } from "../metric/pointLimits";
import { choiceSchema } from "../openmetrics/choice";
import { FAMILY_TYPES } from "../openmetrics/model";
import type { OfferedMetric } from "../openmetrics/offer";
import { isOneLine } from "../schema/refinements";

/** Scrape targets as the API takes and gives them. Times in ms. */

/** Attributes that describe the target beside its name and address: `service.version`, `deployment.environment.name`. */
export const targetLabels = z.record(z.string().trim().min(1).max(256), z.string().max(4096));
export type TargetLabels = z.infer<typeof targetLabels>;

const url = z
  .string()
  .trim()
  .max(2000)
  .superRefine((text, context) => {
    const parsed = URL.canParse(text) ? new URL(text) : null;
    if (!parsed || (parsed.protocol !== "http:" && parsed.protocol !== "https:"))
      context.addIssue({ code: "custom", message: "an address such as http://localhost:9101/metrics is expected" });
    else if (parsed.username !== "" || parsed.password !== "")
      context.addIssue({ code: "custom", message: "a password does not belong into the address; choose basic auth" });
  });

const fields = {
  name: z.string().trim().min(1, "a target needs a name: it becomes its service.name").max(300).superRefine(isOneLine),
  url,
  every: z.number().int().min(1000, "at least 1 s").max(86_400_000),
  timeout: z.number().int().min(100).max(300_000),
  auth: z.enum(["none", "bearer", "basic"]),
  username: z.string().max(300).default(""),
  /** The bearer token or password. Left out: as it was. */
  secret: z.string().max(8192).optional(),
  labels: targetLabels.default({}),
  choice: choiceSchema.default({ type: "all" }),
  paused: z.boolean().default(false),
};

export const targetRequest = z.object(fields).superRefine(({ every, timeout }, context) => {
  if (timeout > every)
    context.addIssue({
      code: "custom",
      path: ["timeout"],
      message: "the timeout must not be longer than the interval",
    });
});
export type TargetRequest = z.infer<typeof targetRequest>;

/** What is tried: a target that may not be saved yet, or one that is (its secret then need not be given again). */
export const trialRequest = z.object({ ...fields, id: z.number().int().min(1).max(MAX_NUMBERED).optional() });

const FAILURES = [
  "address",
  "forbidden",
  "unknown-host",
  "refused",
  "timeout",
  "tls",
  "connection",
  "unauthorized",
  "not-found",
  "status",
  "html",
  "content-type",
  "parse",
  "empty",
  "too-large",
  "too-many-series",
  "pipeline",
  "store",
] as const;
const failureCode = z.enum(FAILURES);
/** What can be wrong with a target. */
export type FailureCode = z.infer<typeof failureCode>;

const { secret: _, ...shown } = fields;

export const targetEntry = z.object({
  ...shown,
  id: z.number(),
  hasSecret: z.boolean(),
  createdAt: z.number(),
  last: z
    .object({
      at: z.number(),
      took: z.number(),
      samples: z.number(),
      points: z.number(),
      failure: failureCode.nullable(),
      detail: z.string().nullable(),
      since: z.number(),
    })
    .nullable()
    .meta({ description: "How the last scrape went; null before the first." }),
});
/** A saved target. Its secret is never shown. */
export type TargetEntry = z.infer<typeof targetEntry>;

const failure = z.object({ code: failureCode, title: z.string(), detail: z.string(), todo: z.string() });
/** What is wrong, in words, and what to do about it. */
export type Failure = z.infer<typeof failure>;

const trialStep = z.object({
  what: z.enum(["resolve", "connect", "fetch", "read"]),
  said: z.string().meta({ description: "In words: what came of it." }),
  at: z.number().meta({ description: "Since the beginning, ms." }),
});
/** One thing that was done on the way to a target's metrics. */
export type TrialStep = z.infer<typeof trialStep>;

const offered: z.ZodType<OfferedMetric> = z.object({
  name: z.string(),
  type: z.enum(FAMILY_TYPES),
  unit: z.string(),
  help: z.string(),
  series: z.number(),
  attributes: z.array(
    z.object({
      name: z.string(),
      distinct: z.number(),
      values: z.array(z.object({ value: z.string(), series: z.number() })),
    }),
  ),
});

export const trialAnswer = z.object({
  steps: z.array(trialStep),
  failure: failure.nullable(),
  offer: z.array(offered).nullable().meta({ description: "What the target offers; null where it was not reached." }),
  samples: z.number(),
  series: z.number(),
});
export type TrialAnswer = z.infer<typeof trialAnswer>;
