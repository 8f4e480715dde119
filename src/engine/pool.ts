import path from "node:path";
import Piscina from "piscina";
import { parseReading } from "@/core/reading/language/parse";
import { measuresOf } from "@/core/reading/language/tree";
import { setting } from "@/core/settings/environment";
import { BusyError } from "./faults";
import type { Answers, Job, JobType, SentJob } from "./jobs";
import type { Outcome } from "./outcome";

/**
 * The calling side of the engine: worker threads, each with caches of its own. A job goes to the thread that answered
 * for the same data before, unless that is busy and another is not.
 */

const MAX_QUEUED = 100;
/** What a thread may hold beside its columns, MiB: one that wants more ends, with the reading that made it, and not the web. */
const MAX_HEAP_MB = 1536;
/** What a thread may hold of what is new before it collects, MiB. */
const YOUNG_MB = 24;

/** A thread and how many jobs it has to do. */
interface Thread {
  pool: Piscina;
  jobs: number;
}

const kept = globalThis as typeof globalThis & { tinLadderEngine?: Thread[] };

function threads(): Thread[] {
  kept.tinLadderEngine ??= Array.from({ length: setting("TIN_ENGINE_THREADS") }, () => {
    const filename = path.join(/* turbopackIgnore: true */ process.cwd(), ".build", "engine-worker.js");
    return {
      pool: new Piscina({
        filename,
        minThreads: 1,
        maxThreads: 1,
        maxQueue: MAX_QUEUED,
        resourceLimits: { maxOldGenerationSizeMb: MAX_HEAP_MB, maxYoungGenerationSizeMb: YOUNG_MB },
      }),
      jobs: 0,
    };
  });
  return kept.tinLadderEngine;
}

/** What a job is mostly about: its service, its metric, or that of its first reading. Such jobs share what is decoded. */
function topicOf(job: Job): string {
  if ("service" in job) return job.service;
  if ("metric" in job) return job.metric;
  const text = "text" in job ? job.text : job.readings.at(0)?.text;
  return text === undefined ? job.type : metricIn(text);
}

/** The first metric of a reading; its text where it cannot be understood, which its thread will say. */
function metricIn(text: string): string {
  try {
    return measuresOf(parseReading(text).expression)[0]?.metric ?? text;
  } catch {
    return text;
  }
}

function threadFor(job: Job): Thread {
  const all = threads();
  let hash = 0;
  for (const letter of topicOf(job)) hash = (Math.imul(hash, 31) + letter.charCodeAt(0)) >>> 0;
  const usual = all[hash % all.length];
  return usual.jobs > 0 ? (all.find(({ jobs }) => jobs === 0) ?? usual) : usual;
}

/** Runs a job off the event loop. Once the signal is aborted, the thread leaves off soon and nobody waits for it. */
export async function runJob<T extends JobType>(
  job: Extract<Job, { type: T }>,
  signal?: AbortSignal,
): Promise<Outcome<Answers[T]>> {
  signal?.throwIfAborted();
  const thread = threadFor(job);
  const gone = new Int32Array(new SharedArrayBuffer(4));
  const leave = () => Atomics.store(gone, 0, 1);
  signal?.addEventListener("abort", leave, { once: true });
  thread.jobs++;
  try {
    return (await thread.pool.run({ job, gone } satisfies SentJob)) as Outcome<Answers[T]>;
  } catch (error) {
    // An error that comes from a thread has lost its name.
    signal?.throwIfAborted();
    const { code, message } = error as NodeJS.ErrnoException;
    if (message.includes("Task queue is at limit")) throw new BusyError(message);
    if (code !== "ERR_WORKER_OUT_OF_MEMORY") throw error;
    const detail = "answering it takes more memory than there is; take a shorter window, longer steps or fewer series";
    return { ok: false, status: 400, problem: { title: "The reading is too large", detail } };
  } finally {
    thread.jobs--;
    signal?.removeEventListener("abort", leave);
  }
}
