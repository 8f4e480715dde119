import { parentPort } from "node:worker_threads";
import type pg from "pg";
import type { Logger } from "pino";
import { type BackgroundJob, runJob, type Stopped } from "./job";

/** A background job, again and again, in a thread or a process of ours. */

/** What the first thread is told after each pass of a job that this process held. */
export interface JobReport {
  job: string;
  took: number;
  done: number;
  backlog: number;
  /** For how long the oldest piece of work waits, ms. */
  waiting: number;
  failed: boolean;
}

/** A job that looks at all there is rests so many times as long as it took: at most a tenth of a processor. */
const REST = 9;

/** Repeats a job until it is stopped; what fails is tried again the next time. */
export async function repeatJob(
  { pool, log, stopped }: { pool: pg.Pool; log: Logger; stopped: Stopped },
  job: BackgroundJob,
): Promise<void> {
  const tell = (report: JobReport) => parentPort?.postMessage(report);
  while (!stopped()) {
    const began = Date.now();
    try {
      const result = await runJob(pool, job, began, stopped);
      const now = Date.now();
      if (result) {
        const { done, backlog, waitingSince } = result;
        const waiting = waitingSince === null ? 0 : Math.max(0, now - waitingSince);
        tell({ job: job.name, took: now - began, done, backlog, waiting, failed: false });
      }
    } catch (error) {
      log.error(error, `${job.name} failed`);
      tell({ job: job.name, took: Date.now() - began, done: 0, backlog: 0, waiting: 0, failed: true });
    }
    const rest = job.looksAtAll ? Math.max(job.every, REST * (Date.now() - began)) : job.every;
    await new Promise((resolve) => setTimeout(resolve, rest));
  }
}
