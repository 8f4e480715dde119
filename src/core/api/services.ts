import { z } from "zod";
import { WORK } from "../service/work";

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

/** A section of a service's page. */
export const serviceSection = z.object({
  title: z.string(),
  work: z.enum(WORK).nullable().meta({ description: 'The kind of work whose bound for "slow" applies.' }),
  ready: z.string().nullable().meta({ description: "The ready sheet that shows more of it." }),
  plates: z.array(z.object({ title: z.string(), reading: z.string() })),
});

export const serviceSections = z.object({
  metrics: z.number().meta({ description: "How many metrics it sends." }),
  sections: z.array(serviceSection),
  ready: z
    .array(z.object({ id: z.string(), name: z.string(), purpose: z.string() }))
    .meta({ description: "The ready sheets of which it sends something." }),
});
