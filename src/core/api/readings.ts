import { z } from "zod";
import type { SideBySide } from "../reading/differences";
import type { ReadingResult } from "../reading/result";

/** Answers of readings, as schemas. Times in Unix ms. */

export const problem = z.object({
  title: z.string(),
  detail: z.string(),
  position: z.number().optional(),
  length: z.number().optional(),
  hint: z.string().optional(),
  instead: z.string().optional().meta({ description: "What may stand at the place instead." }),
});
/** A problem that the asker can do something about. */
export type Problem = z.infer<typeof problem>;

const gaps = z.array(z.number().nullable());
const labels = z.record(z.string(), z.string().nullable());

const series = z.object({
  labels,
  band: z.object({ low: z.number().nullable(), high: z.number().nullable() }).optional().meta({
    description: "Of a spread: the values that it counts, above low and up to high; null: none on that side.",
  }),
  values: gaps.meta({ description: "One per step; null where nothing arrived." }),
  low: gaps.optional().meta({ description: "Bounds of the true value; null: none on that side." }),
  high: gaps.optional(),
  total: z.number().nullable().meta({ description: "The value of the whole window." }),
  settledTo: z
    .number()
    .optional()
    .meta({ description: "After it this one's values may still change; left out where all are settled." }),
  totalLow: z.number().nullable().optional(),
  totalHigh: z.number().nullable().optional(),
});

const resolution = z.enum(["raw", "minute", "hour"]);

export const readingResult: z.ZodType<ReadingResult> = z.object({
  reading: z.string(),
  unit: z.string(),
  bandUnit: z.string().optional().meta({ description: "Of a spread: the unit of its bands." }),
  share: z.boolean(),
  from: z.number(),
  to: z.number(),
  every: z.number(),
  times: z.array(z.number()).meta({ description: "Ends of the steps." }),
  settledTo: z
    .number()
    .nullable()
    .meta({ description: "After it values may still change as instances report; null where all is settled." }),
  series: z.array(series),
  warnings: z.array(z.object({ code: z.string(), message: z.string() })),
  services: z.array(z.object({ service: z.string(), environment: z.string() })),
  resolution,
  resolutions: z.array(resolution),
});

export const readingOutcome = z.union([
  z.object({ ok: z.literal(true), value: readingResult }),
  z.object({ ok: z.literal(false), problem, status: z.literal([400, 429, 500, 503]) }),
]);

/** An answer, or why there is none. */
export type ReadingOutcome = z.infer<typeof readingOutcome>;

export const sideBySide: z.ZodType<SideBySide> = z.object({
  labels,
  left: series.nullable(),
  right: series.nullable(),
  furthest: z.object({ at: z.number(), left: z.number(), right: z.number() }).nullable(),
});
