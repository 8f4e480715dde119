import { z } from "zod";

/** What changed of a service without anybody doing it. Times in Unix ms; changes relative, or in the measure's unit. */

const measure = z.enum(["p95", "errors", "throughput"]);

export const driftShift = z.object({
  measure,
  at: z.number().meta({ description: "When the new level began, by the hour." }),
  change: z.number().meta({ description: "Relative; of errors a difference of parts of 1." }),
  release: z.string().nullable().meta({ description: "The release that began then; null: nothing was released." }),
  serving: z
    .string()
    .nullable()
    .meta({ description: "A release that served then: of several, the one that had for longest." }),
  cause: z.string().nullable().meta({ description: "Where it comes from most." }),
});
export type DriftShift = z.infer<typeof driftShift>;

export const drift = z.object({
  from: z.number(),
  to: z.number(),
  shifts: z.array(driftShift).meta({ description: "The earliest first." }),
  slopes: z.array(
    z.object({
      measure,
      week: z.number().meta({ description: "Change in a week, relative; of errors a difference." }),
      low: z.number(),
      high: z.number(),
      since: z.number(),
    }),
  ),
  leak: z
    .object({
      metric: z.string(),
      unit: z.string(),
      instances: z.number(),
      hour: z.number().meta({ description: "What is gained in an hour." }),
      every: z.number().meta({ description: "From one start to the next, ms." }),
      gained: z.number().meta({ description: "What is gained from one start to the next." }),
    })
    .nullable()
    .meta({ description: "Memory that rises until the process is started again." }),
  problem: z
    .string()
    .optional()
    .meta({ description: "Why the last evaluation failed; the other fields are of the one before." }),
});
export type Drift = z.infer<typeof drift>;
