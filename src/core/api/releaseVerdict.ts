import { z } from "zod";
import { judgedParts } from "./judged";

/** What a deployment gate is answered. Times in Unix ms, shares as parts of 1. */

const judged = z.object({
  ...judgedParts,
  candidate: z.number(),
  baseline: z.number(),
  needs: z.object({ calls: z.number(), time: z.number() }).nullable(),
});

export const verdictAnswer = z.object({
  service: z.string(),
  environment: z.string(),
  release: z.string(),
  against: z.string().nullable(),
  heard: z.boolean().meta({ description: "false: it was announced and is not heard yet." }),
  way: z.enum(["side by side", "before and after"]).nullable(),
  from: z.number(),
  to: z.number(),
  minutes: z.number().meta({ description: "Minutes in which both had calls." }),
  calls: z.object({ candidate: z.number(), baseline: z.number() }),
  latency: judged.nullable().meta({ description: "The p95 of calls, relative." }),
  failures: judged.nullable().meta({ description: "The share of failed calls, as a difference of parts of 1." }),
  split: z
    .object({
      value: z.number(),
      low: z.number().nullable(),
      high: z.number().nullable(),
      meant: z.number().nullable(),
    })
    .nullable(),
  words: z.array(
    z.enum(["slower", "faster", "as quick", "more errors", "fewer errors", "as many errors", "not enough yet"]),
  ),
  says: z.string().meta({ description: "All of it in a sentence." }),
});
export type VerdictAnswer = z.infer<typeof verdictAnswer>;
