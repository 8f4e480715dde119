import { z } from "zod";
import type { LadderAnswer, Problem, RailAnswer } from "@/core/api/answers";
import type { ReadingResult } from "@/core/reading/result";

/** What the engine can be asked, and what it answers. Everything here crosses a thread boundary as plain data. */

export const readingJob = z.object({
  type: z.literal("reading"),
  text: z.string(),
  from: z.number(),
  to: z.number(),
  every: z.number().nullable(),
  zone: z.string(),
  picks: z.record(z.string(), z.array(z.string())),
});

export const ladderJob = z.object({
  type: z.literal("ladder"),
  service: z.string(),
  environment: z.string(),
  /** "" lets the engine choose. */
  metric: z.string(),
  from: z.number(),
  to: z.number(),
  zone: z.string(),
});

export const railJob = z.object({
  type: z.literal("rail"),
  service: z.string(),
  environment: z.string(),
  from: z.number(),
  to: z.number(),
});

export type Job = z.infer<typeof readingJob> | z.infer<typeof ladderJob> | z.infer<typeof railJob>;

export interface Answers {
  reading: ReadingResult;
  ladder: LadderAnswer;
  rail: RailAnswer;
}

export type Outcome<T> = { ok: true; value: T } | { ok: false; problem: Problem };
