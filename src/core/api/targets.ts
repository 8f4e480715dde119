import { z } from "zod";
import { choiceSchema } from "../openmetrics/choice";
import type { OfferedMetric } from "../openmetrics/offer";

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
  name: z.string().trim().min(1, "a target needs a name: it becomes its service.name").max(300),
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
export const trialRequest = z.object({ ...fields, id: z.number().int().optional() });

/** A saved target. Its secret is never shown. */
export interface TargetEntry extends Omit<TargetRequest, "secret"> {
  id: number;
  hasSecret: boolean;
  createdAt: number;
  /** How the last scrape went; null before the first. */
  last: {
    at: number;
    took: number;
    samples: number;
    points: number;
    failure: FailureCode | null;
    detail: string | null;
    since: number;
  } | null;
}

/** What can be wrong with a target. */
export type FailureCode =
  | "address"
  | "forbidden"
  | "unknown-host"
  | "refused"
  | "timeout"
  | "tls"
  | "connection"
  | "unauthorized"
  | "not-found"
  | "status"
  | "html"
  | "content-type"
  | "parse"
  | "empty"
  | "too-large"
  | "too-many-series"
  | "store";

/** What is wrong, in words, and what to do about it. */
export interface Failure {
  code: FailureCode;
  title: string;
  detail: string;
  todo: string;
}

/** One thing that was done on the way to a target's metrics. */
export interface TrialStep {
  what: "resolve" | "connect" | "fetch" | "read";
  /** In words: what came of it. */
  said: string;
  /** Since the beginning, ms. */
  at: number;
}

export interface TrialAnswer {
  steps: TrialStep[];
  failure: Failure | null;
  /** What the target offers; null where it was not reached. */
  offer: OfferedMetric[] | null;
  samples: number;
  series: number;
}
