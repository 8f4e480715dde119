import { z } from "zod";
import type { Ladder } from "@/core/reading/ladder";
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

export interface LadderAnswer extends Ladder {
  service: string;
  environment: string;
  /** The histogram of calls that the ladder is read from; null where the service has none. */
  metric: string | null;
  /** All histograms that it could be read from. */
  metrics: string[];
  unit: string;
  failed: string;
  from: number;
  to: number;
  every: number;
  /** When each release was first and last heard at all. */
  heard: { release: string; firstAt: number; lastAt: number }[];
}

export interface RailAnswer {
  from: number;
  to: number;
  times: number[];
  /** Calls per second of the service, or null where nothing arrived. */
  traffic: (number | null)[];
  marks: { release: string; at: number }[];
}

export interface Answers {
  reading: ReadingResult;
  ladder: LadderAnswer;
  rail: RailAnswer;
}

/** A problem that the asker can do something about. */
export interface Problem {
  title: string;
  detail: string;
  position?: number;
  length?: number;
  hint?: string;
}

export type Outcome<T> = { ok: true; value: T } | { ok: false; problem: Problem };
