import path from "node:path";
import Piscina from "piscina";
import type { Answers, Job, Outcome } from "./jobs";

/** The calling side of the engine: a pool of worker threads, one per process. */

const THREADS = 2;
const MOST_QUEUED = 200;

const kept = globalThis as typeof globalThis & { tinLadderEngine?: Piscina };

function pool(): Piscina {
  kept.tinLadderEngine ??= new Piscina({
    filename: path.join(/* turbopackIgnore: true */ process.cwd(), ".build", "engine-worker.js"),
    minThreads: 1,
    maxThreads: THREADS,
    maxQueue: MOST_QUEUED,
    idleTimeout: 10 * 60_000,
  });
  return kept.tinLadderEngine;
}

/** Runs a job off the event loop. An aborted signal ends its thread, so that nobody waits for an answer nobody wants. */
export function runJob<T extends Job["type"]>(
  job: Extract<Job, { type: T }>,
  signal?: AbortSignal,
): Promise<Outcome<Answers[T]>> {
  return pool().run(job, signal ? { signal } : {}) as Promise<Outcome<Answers[T]>>;
}
