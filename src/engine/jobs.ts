import type { LadderAnswer, Problem, RailAnswer } from "@/core/api/answers";
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

export type Job = ReadingJob | LadderJob | RailJob;

export interface Answers {
  reading: ReadingResult;
  ladder: LadderAnswer;
  rail: RailAnswer;
}

export type Outcome<T> = { ok: true; value: T } | { ok: false; problem: Problem };
