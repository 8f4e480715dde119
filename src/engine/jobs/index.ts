import { answerAdvice } from "./advice";
import { answerComparison } from "./comparison";
import { answerDrift } from "./drift";
import { answerLadder } from "./ladder";
import { answerLatest } from "./latest";
import { answerOutlook } from "./outlook";
import { answerPickValues } from "./pickValues";
import { answerPoints } from "./points";
import { answerPurgePreview } from "./purgePreview";
import { answerRail } from "./rail";
import { answerReading } from "./reading";
import { answerReadings } from "./readings";
import { answerVersioned } from "./versioned";

/** What the engine can be asked. A job is one file here and one line: who answers it says what it takes and gives. */
export const JOBS = {
  reading: answerReading,
  "versioned reading": answerVersioned,
  readings: answerReadings,
  ladder: answerLadder,
  comparison: answerComparison,
  rail: answerRail,
  outlook: answerOutlook,
  drift: answerDrift,
  latest: answerLatest,
  advice: answerAdvice,
  "pick values": answerPickValues,
  points: answerPoints,
  "purge preview": answerPurgePreview,
};

export type JobType = keyof typeof JOBS;
type Parts = { [T in JobType]: Parameters<(typeof JOBS)[T]>[1] };

/** A job as it crosses to a thread: plain data. */
export type Job = Parts[JobType];

export type Answers = { [T in JobType]: Awaited<ReturnType<(typeof JOBS)[T]>> };

/** A job as it is sent to a thread. */
export interface SentJob {
  job: Job;
  /** One number, shared between threads: not 0 once nobody waits for the answer any more. */
  gone: Int32Array;
  /** When it has to be done, Unix ms. */
  until: number;
}

/** What a thread is told that has nothing to do. */
export interface Rest {
  /** What was not used since then is not worth its memory, Unix ms. */
  forgetSince: number;
}
