import { z } from "zod";

/** The services that report, as the API gives them. Times in Unix ms. */

export const instanceEntry = z.object({
  service: z.string(),
  release: z.string(),
  environment: z.string(),
  instance: z.string(),
  attributes: z.record(z.string(), z.string()).meta({ description: "What else its resource says." }),
  firstAt: z.number(),
  lastAt: z.number(),
  every: z
    .number()
    .nullable()
    .meta({ description: "How long it usually is from one report to the next, ms; null where that is not known yet." }),
  pointsPerMinute: z.number().meta({ description: "Points in the last full minute." }),
  points: z.number().meta({ description: "Points ever received." }),
  series: z.number(),
});
/** One instance of a release of a service. */
export type InstanceEntry = z.infer<typeof instanceEntry>;

/** Longest that it takes until a report shows here, ms. */
const DELAY = 2500;
/** Reports that may be missing before an instance counts as silent. */
const MISSING = 3;

/** For how long an instance has been silent, ms; 0 while it reports as usual. */
export function silence({ lastAt, every }: Pick<InstanceEntry, "lastAt" | "every">, now: number): number {
  const quiet = now - lastAt;
  return quiet > MISSING * (every ?? 60_000) + DELAY ? quiet : 0;
}

export const serviceMetric = z.object({
  name: z.string(),
  kind: z.string(),
  unit: z.string(),
  monotonic: z.boolean(),
  attributes: z.array(z.string()),
});
/** A metric of a service, with the attributes that its points have there. */
export type ServiceMetric = z.infer<typeof serviceMetric>;

const seconds = z.number().positive().max(86_400);
/** What counts as slow, by kind of work, s. */
export const slowBounds = z.object({ calls: seconds, outgoing: seconds, database: seconds, messages: seconds });
