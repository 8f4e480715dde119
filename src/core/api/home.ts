import { z } from "zod";
import { drift, driftShift } from "./drift";
import { judgedParts } from "./judged";

/** What the first page is answered: every service, and how its newest release does. Times in Unix ms. */

const judged = z.object(judgedParts).nullable();

/** A service as it was looked at last. */
export const serviceOutlook = z.object({
  from: z.number(),
  to: z.number(),
  rate: z
    .number()
    .nullable()
    .meta({ description: "Calls a second of all releases, lately; null: it has no histogram of calls." }),
  serving: z
    .array(z.object({ release: z.string(), share: z.number(), rate: z.number() }))
    .meta({ description: "What serves now, the newest first." }),
  errors: z.number().nullable().meta({ description: "Share of failed calls of the newest release that serves." }),
  verdict: z
    .object({
      release: z.string(),
      against: z.string(),
      way: z.enum(["side by side", "before and after"]),
      time: z.number(),
      latency: judged,
      failures: judged,
      cause: z
        .string()
        .nullable()
        .meta({ description: "Where what got worse comes from most, and how much of it; null: from everywhere." }),
      differs: z.string().nullable().meta({ description: "The attribute whose changed mix changes the verdict." }),
    })
    .nullable()
    .meta({ description: "How the newest release does; null: there is nothing to hold it against." }),
  problem: z
    .string()
    .optional()
    .meta({ description: "Why the last evaluation failed; the other fields are of the one before." }),
});
export type ServiceOutlook = z.infer<typeof serviceOutlook>;

export const homeEntry = z.object({
  service: z.string(),
  environment: z.string(),
  newest: z.object({ release: z.string(), firstAt: z.number() }).nullable(),
  lastAt: z.number(),
  lately: z.array(z.object({ release: z.string(), at: z.number() })).meta({
    description: "Releases that were first heard within the last seven days, the latest first.",
  }),
  silent: z.boolean().meta({ description: "Whether it reported for long, and does not any more." }),
  findings: z.number().meta({ description: "Findings of contracts and arrivals that name it." }),
  shift: driftShift.nullable().meta({ description: "What changed last without a release, within a week." }),
  leak: drift.shape.leak,
  coming: z.array(z.string()).meta({ description: "Releases that were announced and have not been heard." }),
  lookedAt: z.number().nullable().meta({ description: "null: it was not looked at yet." }),
  outlook: serviceOutlook.nullable(),
});
export type HomeEntry = z.infer<typeof homeEntry>;

export const homeAnswer = z.object({
  at: z.number(),
  services: z.array(homeEntry).meta({ description: "The worst first; of very many, the ones that were heard last." }),
  all: z.number().meta({ description: "How many services there are." }),
});
