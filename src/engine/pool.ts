import path from "node:path";
import Piscina from "piscina";
import { readingStructure } from "@/core/reading/language/grammar";
import { measuresOf } from "@/core/reading/language/tree";
import { setting } from "@/core/settings/environment";
import { MINUTE } from "@/core/window/lengths";
import { FairQueue, type NoRoom } from "./fairQueue";
import type { Answers, Job, JobType, Rest, SentJob } from "./jobs";
import type { Outcome, Refused } from "./outcome";
import { BUSY, TOO_MANY_WAIT } from "./problems";
import { Usage } from "./usage";

/**
 * The calling side of the engine: worker threads, each with caches of its own, that do one job at a time. A job waits for the
 * thread that answers for the same data, unless another has nothing else to do.
 */

/** Jobs that may wait, of all callers and of one: a sheet asks up to 60 readings, and somebody may have a few open. */
const MAX_WAITING = { all: 2000, caller: 240 };
/** What a thread may hold beside its columns, MiB: one that wants more ends, with the reading that made it, and not the web. */
const MAX_HEAP_MB = 1536;
/** What a thread may hold of what is new before it collects, MiB. */
const YOUNG_MB = 24;

/** What a thread keeps and nobody asked for in so long is given back, ms: pages that are open ask far more often. */
const KEPT_UNUSED = 10 * MINUTE;
const REST_EVERY = MINUTE;

/** How long a job may take in all, ms; of readings behind a link that needs no account, less. */
const DEADLINE = 30_000;
const DEADLINES: Partial<Record<JobType, number>> = {
  comparison: 60_000,
  outlook: 60_000,
  drift: 60_000,
  readings: 60_000,
  points: 120_000,
  "purge preview": 600_000,
};
/** A thread that does not leave off so long after a deadline is ended, ms. */
const GRACE = 3_000;

/** A caller who used more thread time than this lately is heavy, ms: others go first, and one thread stays free for them. */
const HEAVY = 4_000;
/** One thread stays free of heavy callers as long as others asked something so lately, ms. */
const OTHERS_LATELY = MINUTE;
/** A job that waits so long while another caller holds the threads interrupts one of theirs, ms. */
const INTERRUPTS_AFTER = 50;
/** Only a caller who used more than this lately is interrupted, ms. */
const INTERRUPTED_FROM = 1_000;
/** A job is interrupted at most so often; then it is finished. */
const MAX_INTERRUPTIONS = 3;

/** Who asks, and until when somebody waits. */
export interface Asking {
  caller: string;
  signal?: AbortSignal;
  /** How long it may take in all, ms, where less than usual. */
  deadline?: number;
}

/** Values of the number that is shared with a thread. */
const INTERRUPTED = 2;

/** What a thread works on. */
interface Work {
  caller: string;
  since: number;
  gone: Int32Array;
  interruptions: number;
}

/** A thread, what it is at, and whether it may keep something. */
interface Thread {
  pool: Piscina;
  busy: boolean;
  keeps: boolean;
  work: Work | null;
}

interface Engine {
  threads: Thread[];
  /** Jobs that wait, as what is called when their turn comes. */
  queue: FairQueue<(thread: Thread) => void>;
  usage: Usage;
  /** When each caller asked last, Unix ms. */
  lately: Map<string, number>;
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
        work: null,
      };
    }),
    queue: new FairQueue(MAX_WAITING),
    usage: new Usage(),
    lately: new Map(),
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
  if ("source" in job) return "metric" in job.source ? job.source.metric : job.type;
  const text = "text" in job ? job.text : job.readings.at(0)?.text;
  return text === undefined ? job.type : metricIn(text);
}

/** The first metric of a reading; its text where it cannot be understood, which its thread will say. */
function metricIn(text: string): string {
  try {
    return measuresOf(readingStructure(text).expression)[0]?.metric ?? text;
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

/** Thread time that a caller used lately, with what is under way, ms. */
function loadOf(caller: string): number {
  const { threads, usage } = engine();
  const now = Date.now();
  return threads.reduce(
    (sum, { work }) => (work?.caller === caller ? sum + now - work.since : sum),
    usage.of(caller, now),
  );
}

/** Whether a free thread may work for a caller: heavy ones leave one thread to the others who are there. */
function may(caller: string): boolean {
  const { threads, lately } = engine();
  if (loadOf(caller) <= HEAVY) return true;
  const since = Date.now() - OTHERS_LATELY;
  const others = [...lately].some(([other, at]) => other !== caller && at >= since);
  const heavy = threads.filter(({ work }) => work !== null && loadOf(work.caller) > HEAVY).length;
  return !others || threads.length === 1 || heavy < threads.length - 1;
}

function noteAsked(caller: string): void {
  const { lately } = engine();
  const now = Date.now();
  lately.delete(caller);
  lately.set(caller, now);
  for (const [other, at] of lately) {
    if (now - at < OTHERS_LATELY) break;
    lately.delete(other);
  }
}

/** Interrupts a job of a caller who used much more lately, so that one who waits gets a thread; its turn comes again. */
function interruptFor(caller: string): void {
  const own = loadOf(caller);
  const candidates = engine().threads.flatMap(({ work }) =>
    work !== null &&
    work.caller !== caller &&
    work.interruptions < MAX_INTERRUPTIONS &&
    loadOf(work.caller) > 2 * own + INTERRUPTED_FROM
      ? [work]
      : [],
  );
  // Whoever waits for one thread needs no second one.
  if (candidates.length === 0 || engine().threads.some(({ work }) => work?.caller === caller)) return;
  const youngest = candidates.reduce((a, b) => (b.since > a.since ? b : a));
  Atomics.store(youngest.gone, 0, INTERRUPTED);
}

/** A thread for a job, once one is free. @throws QueueFullError where too many wait; what the signal was aborted for */
function threadFor(job: Job, caller: string, signal: AbortSignal): Promise<Thread> {
  if (signal.aborted) return Promise.reject(signal.reason);
  const { threads, queue } = engine();
  const home = homeOf(job, threads.length);
  const free = threads[home].busy ? threads.find(({ busy }) => !busy) : threads[home];
  if (free && may(caller)) {
    free.busy = true;
    return Promise.resolve(free);
  }
  return new Promise((resolve, reject) => {
    const interrupting = setTimeout(() => interruptFor(caller), INTERRUPTS_AFTER);
    const give = (thread: Thread) => {
      clearTimeout(interrupting);
      signal.removeEventListener("abort", leave);
      resolve(thread);
    };
    const leave = () => {
      clearTimeout(interrupting);
      queue.remove(give);
      reject(signal.reason);
    };
    const full = queue.put(give, { caller, home });
    if (full !== null) {
      clearTimeout(interrupting);
      return reject(new QueueFullError(full));
    }
    signal.addEventListener("abort", leave, { once: true });
  });
}

/** Gives a thread its next job, or lets it rest. Others that rest may have one to do now, too. */
function next(thread: Thread): void {
  const { threads, queue } = engine();
  thread.busy = false;
  for (const [i, one] of [thread, ...threads.filter((other) => other !== thread)].entries()) {
    if (i > 0 && queue.size === 0) return;
    if (one.busy) continue;
    const give = queue.take(threads.indexOf(one), loadOf, may);
    if (!give) continue;
    one.busy = true;
    give(one);
  }
}

class QueueFullError extends Error {
  override name = "QueueFullError";
  constructor(readonly of: NoRoom) {
    super(`too many readings wait: of ${of}`);
  }
}

function queueFull(of: NoRoom): Refused {
  return of === "caller"
    ? { ok: false, status: 429, problem: TOO_MANY_WAIT }
    : { ok: false, status: 503, problem: BUSY };
}

/** Says that a job took too long. */
function tooLong(ms: number): Refused {
  const detail = `it took longer than ${Math.round(ms / 1000)} s; take a shorter window, longer steps or fewer series`;
  return { ok: false, status: 400, problem: { title: "The reading takes too long", detail } };
}

/** Runs a job on a thread that is free for it. @returns INTERRUPTED where it was given up for another caller */
async function runOn<T>(
  thread: Thread,
  job: Job,
  {
    caller,
    interruptions,
    until,
    signal,
  }: { caller: string; interruptions: number; until: number; signal: AbortSignal },
): Promise<Outcome<T> | typeof INTERRUPTED> {
  const gone = new Int32Array(new SharedArrayBuffer(4));
  const leave = () => Atomics.compareExchange(gone, 0, 0, 1);
  signal.addEventListener("abort", leave, { once: true });
  const began = Date.now();
  thread.work = { caller, since: began, gone, interruptions };
  // What does not leave off by itself is ended with its thread.
  const end = new AbortController();
  const ending = setTimeout(() => end.abort(), Math.max(0, until - began) + GRACE);
  try {
    // It may have been given up between its turn and now.
    signal.throwIfAborted();
    thread.keeps = true;
    return (await thread.pool.run({ job, gone, until } satisfies SentJob, { signal: end.signal })) as Outcome<T>;
  } catch (error) {
    if (Atomics.load(gone, 0) === INTERRUPTED) return INTERRUPTED;
    throw error;
  } finally {
    clearTimeout(ending);
    signal.removeEventListener("abort", leave);
    thread.work = null;
    const now = Date.now();
    engine().usage.add(caller, now - began, now);
    next(thread);
  }
}

/**
 * Runs a job off the event loop, in its caller's turn. Once the signal is aborted, the thread leaves off soon and nobody waits
 * for it. A job that takes longer than its deadline, waiting included, ends with a problem.
 */
export async function runJob<T extends JobType>(
  job: Extract<Job, { type: T }>,
  { caller, signal, deadline = Number.POSITIVE_INFINITY }: Asking,
): Promise<Outcome<Answers[T]>> {
  signal?.throwIfAborted();
  noteAsked(caller);
  const time = Math.min(deadline, DEADLINES[job.type] ?? DEADLINE);
  const until = Date.now() + time;
  const ended = AbortSignal.timeout(time);
  const either = signal ? AbortSignal.any([signal, ended]) : ended;
  try {
    for (let interruptions = 0; ; interruptions++) {
      const thread = await threadFor(job, caller, either);
      const outcome = await runOn<Answers[T]>(thread, job, { caller, interruptions, until, signal: either });
      if (outcome !== INTERRUPTED) return outcome;
    }
  } catch (error) {
    // An error that comes from a thread has lost its name.
    signal?.throwIfAborted();
    if (ended.aborted || Date.now() >= until) return tooLong(time);
    if (error instanceof QueueFullError) return queueFull(error.of);
    const { code } = error as NodeJS.ErrnoException;
    if (code !== "ERR_WORKER_OUT_OF_MEMORY") throw error;
    const detail = "answering it takes more memory than there is; take a shorter window, longer steps or fewer series";
    return { ok: false, status: 400, problem: { title: "The reading is too large", detail } };
  }
}
