import path from "node:path";
import Piscina from "piscina";
import { parseReading } from "@/core/reading/language/parse";
import { measuresOf } from "@/core/reading/language/tree";
import { setting } from "@/core/settings/environment";
import { MINUTE } from "@/core/window/lengths";
import { BusyError } from "./faults";
import { JobQueue } from "./jobQueue";
import type { Answers, Job, JobType, Rest, SentJob } from "./jobs";
import type { Outcome } from "./outcome";

/**
 * The calling side of the engine: worker threads, each with caches of its own, that do one job at a time. A job waits for the
 * thread that answers for the same data, unless another has nothing else to do.
 */

const MAX_QUEUED = 200;
/** What a thread may hold beside its columns, MiB: one that wants more ends, with the reading that made it, and not the web. */
const MAX_HEAP_MB = 1536;
/** What a thread may hold of what is new before it collects, MiB. */
const YOUNG_MB = 24;

/** What a thread keeps and nobody asked for in so long is given back, ms: pages that are open ask far more often. */
const KEPT_UNUSED = 10 * MINUTE;
const REST_EVERY = MINUTE;

/** A thread, whether it is at work, and whether it may keep something. */
interface Thread {
  pool: Piscina;
  busy: boolean;
  keeps: boolean;
}

interface Engine {
  threads: Thread[];
  /** Jobs that wait, as what is called when their turn comes. */
  queue: JobQueue<(thread: Thread) => void>;
}

const kept = globalThis as typeof globalThis & { tinLadderEngine?: Engine };

function engine(): Engine {
  kept.tinLadderEngine ??= begin();
  return kept.tinLadderEngine;
}

function begin(): Engine {
  setInterval(rest, REST_EVERY).unref();
  return {
    threads: Array.from({ length: setting("TIN_ENGINE_THREADS") }, () => {
      const filename = path.join(/* turbopackIgnore: true */ process.cwd(), ".build", "engine-worker.js");
      return {
        pool: new Piscina({
          filename,
          minThreads: 1,
          maxThreads: 1,
          resourceLimits: { maxOldGenerationSizeMb: MAX_HEAP_MB, maxYoungGenerationSizeMb: YOUNG_MB },
        }),
        busy: false,
        keeps: false,
      };
    }),
    queue: new JobQueue(MAX_QUEUED),
  };
}

/** Lets threads that have nothing to do give back what is not used. */
function rest(): void {
  for (const thread of engine().threads.filter(({ busy, keeps }) => keeps && !busy)) {
    thread.busy = true;
    const told: Rest = { forgetSince: Date.now() - KEPT_UNUSED };
    void (thread.pool.run(told) as Promise<boolean>)
      .then(
        (keeps) => {
          thread.keeps = keeps;
        },
        // A thread that ended keeps nothing.
        () => {},
      )
      .finally(() => next(thread));
  }
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

/** The place of the thread that keeps the data of a job. */
function homeOf(job: Job, threads: number): number {
  let hash = 0;
  for (const letter of topicOf(job)) hash = (Math.imul(hash, 31) + letter.charCodeAt(0)) >>> 0;
  return hash % threads;
}

/** A thread for a job, once one is free. @throws BusyError where too many wait; what the signal was aborted for */
function threadFor(job: Job, signal?: AbortSignal): Promise<Thread> {
  const { threads, queue } = engine();
  const home = homeOf(job, threads.length);
  const free = threads[home].busy ? threads.find(({ busy }) => !busy) : threads[home];
  if (free) {
    free.busy = true;
    return Promise.resolve(free);
  }
  return new Promise((resolve, reject) => {
    const give = (thread: Thread) => {
      signal?.removeEventListener("abort", leave);
      resolve(thread);
    };
    const leave = () => {
      queue.remove(give);
      reject(signal?.reason);
    };
    if (!queue.put(give, home)) return reject(new BusyError(`${queue.size} readings wait`));
    signal?.addEventListener("abort", leave, { once: true });
  });
}

/** Gives a thread its next job, or lets it rest. */
function next(thread: Thread): void {
  const { threads, queue } = engine();
  const give = queue.take(threads.indexOf(thread));
  if (give) give(thread);
  else thread.busy = false;
}

/** Runs a job off the event loop. Once the signal is aborted, the thread leaves off soon and nobody waits for it. */
export async function runJob<T extends JobType>(
  job: Extract<Job, { type: T }>,
  signal?: AbortSignal,
): Promise<Outcome<Answers[T]>> {
  signal?.throwIfAborted();
  const thread = await threadFor(job, signal);
  const gone = new Int32Array(new SharedArrayBuffer(4));
  const leave = () => Atomics.store(gone, 0, 1);
  signal?.addEventListener("abort", leave, { once: true });
  try {
    // It may have been given up between its turn and now.
    signal?.throwIfAborted();
    thread.keeps = true;
    return (await thread.pool.run({ job, gone } satisfies SentJob)) as Outcome<Answers[T]>;
  } catch (error) {
    // An error that comes from a thread has lost its name.
    signal?.throwIfAborted();
    const { code } = error as NodeJS.ErrnoException;
    if (code !== "ERR_WORKER_OUT_OF_MEMORY") throw error;
    const detail = "answering it takes more memory than there is; take a shorter window, longer steps or fewer series";
    return { ok: false, status: 400, problem: { title: "The reading is too large", detail } };
  } finally {
    signal?.removeEventListener("abort", leave);
    next(thread);
  }
}
