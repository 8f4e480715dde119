import type { AdviceAnswer, LatestAnswer } from "@/core/api/instruments";
import type { PurgeCount, PurgeRequest } from "@/core/api/purge";
import type { Problem } from "@/core/api/readings";
import type { LadderAnswer, RailAnswer } from "@/core/api/releases";
import type { Picks } from "@/core/reading/conditions";
import type { ReadingResult } from "@/core/reading/result";

/** What the engine can be asked, and what it answers. Everything here crosses a thread boundary as plain data. */

export interface ReadingJob {
  type: "reading";
  text: string;
  from: number;
  to: number;
  every: number | null;
  zone: string;
  picks: Picks;
}

/** Several readings over one window. */
export interface ReadingsJob {
  type: "readings";
  readings: { text: string; every: number | null }[];
  from: number;
  to: number;
  zone: string;
  picks: Picks;
}

export type ReadingOutcome = Outcome<ReadingResult>;

export interface LadderJob {
  type: "ladder";
  service: string;
  environment: string;
  /** "" lets the engine choose. */
  metric: string;
  from: number;
  to: number;
  zone: string;
}

export interface RailJob {
  type: "rail";
  service: string;
  environment: string;
  from: number;
  to: number;
}

/** The last point of each series of a metric. */
export interface LatestJob {
  type: "latest";
  metric: string;
  from: number;
  to: number;
}

/** Bucket bounds for a histogram, from what was observed. */
export interface AdviceJob {
  type: "advice";
  metric: string;
  from: number;
  to: number;
  zone: string;
  percents: number[];
  count: number;
}

/** Points of a metric as they arrived, to be written out. */
export interface PointsJob {
  type: "points";
  format: "otlp" | "openmetrics";
  metric: string;
  from: number;
  to: number;
  /** Attributes that a series must have. */
  where: { name: string; value: string }[];
  /** Families that the text holds already. */
  families: string[];
}

/** What a purge would delete. */
export interface PurgePreviewJob {
  type: "purge preview";
  metric: string;
  request: PurgeRequest;
}

/** A piece of what was asked for. */
export interface PointsAnswer {
  text: string;
  points: number;
  /** Where the next piece begins; null where this is the last. */
  next: number | null;
  /** Families that the piece holds. */
  families: string[];
}

export type Job = ReadingJob | ReadingsJob | LadderJob | RailJob | LatestJob | AdviceJob | PointsJob | PurgePreviewJob;

export interface Answers {
  reading: ReadingResult;
  readings: ReadingOutcome[];
  ladder: LadderAnswer;
  rail: RailAnswer;
  latest: LatestAnswer;
  advice: AdviceAnswer;
  points: PointsAnswer;
  "purge preview": PurgeCount;
}

/** `status`: 400 for what the asker can mend, 500 for a fault of ours, 503 where the store is away. */
export type Outcome<T> = { ok: true; value: T } | { ok: false; problem: Problem; status: 400 | 500 | 503 };

/** A job as it is sent to a thread. */
export interface SentJob {
  job: Job;
  /** One number, shared between threads: not 0 once nobody waits for the answer any more. */
  gone: Int32Array;
}
