import path from "node:path";
import Piscina from "piscina";
import type { Answers, Job, Outcome, SentJob } from "./jobs";

/**
 * The calling side of the engine: worker threads, each with caches of its own. A job goes to the thread that answered
 * for the same data before, unless that is busy and another is not.
 */

const THREADS = 2;
const MOST_QUEUED = 100;

const kept = globalThis as typeof globalThis & { tinLadderEngine?: Piscina[] };

function threads(): Piscina[] {
  kept.tinLadderEngine ??= Array.from(
    { length: THREADS },
    () =>
      new Piscina({
        filename: path.join(/* turbopackIgnore: true */ process.cwd(), ".build", "engine-worker.js"),
        minThreads: 1,
        maxThreads: 1,
        maxQueue: MOST_QUEUED,
      }),
  );
  return kept.tinLadderEngine;
}

/** What a job is mostly about; jobs about the same thing share what a thread has decoded. */
function topicOf(job: Job): string {
  switch (job.type) {
    case "reading":
      return /\bof\s+("[^"]*"|[\w.]+)/.exec(job.text)?.[1] ?? job.text;
    case "readings":
      return job.readings.length > 0
        ? topicOf({ ...job, type: "reading", text: job.readings[0].text, every: null })
        : "";
    default:
      return job.service;
  }
}

function threadFor(job: Job): Piscina {
  const all = threads();
  let hash = 0;
  for (const letter of topicOf(job)) hash = (Math.imul(hash, 31) + letter.charCodeAt(0)) >>> 0;
  const usual = all[hash % all.length];
  return running.get(usual) ? (all.find((thread) => !running.get(thread)) ?? usual) : usual;
}

/** Jobs that a thread has to do. */
const running = new Map<Piscina, number>();

/** Runs a job off the event loop. Once the signal is aborted, the thread leaves off soon and nobody waits for it. */
export async function runJob<T extends Job["type"]>(
  job: Extract<Job, { type: T }>,
  signal?: AbortSignal,
): Promise<Outcome<Answers[T]>> {
  signal?.throwIfAborted();
  const thread = threadFor(job);
  const gone = new Int32Array(new SharedArrayBuffer(4));
  const leave = () => Atomics.store(gone, 0, 1);
  signal?.addEventListener("abort", leave, { once: true });
  running.set(thread, (running.get(thread) ?? 0) + 1);
  try {
    return (await thread.run({ job, gone } satisfies SentJob)) as Outcome<Answers[T]>;
  } finally {
    running.set(thread, (running.get(thread) ?? 1) - 1);
    signal?.removeEventListener("abort", leave);
  }
}
