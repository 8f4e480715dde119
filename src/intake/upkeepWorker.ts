import { parentPort } from "node:worker_threads";
import pino from "pino";
import { CONFORM_EVERY, conformDue } from "@/store/contracts/conformance";
import { connect } from "@/store/database/connect";
import type { Done } from "@/store/jobs/jobs";
import {
  HOURS_EVERY,
  keepRetention,
  MERGE_EVERY,
  mergeDue,
  PURGE_EVERY,
  RETENTION_EVERY,
  rollDue,
} from "@/store/jobs/upkeep";
import { FORGET_EVERY, forgetSeries } from "@/store/registry/forgetSeries";
import { purgeDue } from "@/store/strips/purge";

/** The intake's second thread: keeps the store in order, so that merging never holds up what is received. */

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

const log = pino({ name: "upkeep", level: process.env.LOG_LEVEL ?? "info" });
/** Each job holds one connection for its lock and works on another. */
const pool = connect({ max: 10 });
let stopping = false;

/** A job that looks at all there is rests so many times as long as it took: at most a tenth of a processor. */
const REST = 9;

/** @param rests whether it only looks, and may come less often where that takes long */
async function repeat(job: string, every: number, pass: () => Promise<Done | null>, rests = false): Promise<void> {
  while (!stopping) {
    const began = Date.now();
    let result: Done | null = null;
    let failed = false;
    try {
      result = await pass();
    } catch (error) {
      failed = true;
      log.error(error, `${job} failed`);
    }
    if (result || failed) {
      const now = Date.now();
      const { done = 0, backlog = 0, waitingSince = null } = result ?? {};
      const waiting = waitingSince === null ? 0 : Math.max(0, now - waitingSince);
      parentPort?.postMessage({ job, took: now - began, done, backlog, waiting, failed } satisfies JobReport);
    }
    const rest = rests ? Math.max(every, REST * (Date.now() - began)) : every;
    await new Promise((resolve) => setTimeout(resolve, rest));
  }
}

const stopped = () => stopping;
parentPort?.on("message", (message) => {
  if (message === "stop") stopping = true;
});
void repeat("merging", MERGE_EVERY, () => mergeDue(pool, Date.now(), stopped));
void repeat("hours", HOURS_EVERY, () => rollDue(pool, Date.now(), stopped));
void repeat("purging", PURGE_EVERY, () => purgeDue(pool, stopped));
void repeat("conformance", CONFORM_EVERY, () => conformDue(pool, stopped), true);
void repeat("registry", FORGET_EVERY, () => forgetSeries(pool, Date.now(), stopped));
void repeat("retention", RETENTION_EVERY, () => keepRetention(pool));
