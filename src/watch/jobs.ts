import type pg from "pg";
import type { Logger } from "pino";
import type { Drift } from "@/core/api/drift";
import type { ServiceOutlook } from "@/core/api/home";
import { DAY } from "@/core/window/lengths";
import type { Answers, Job } from "@/engine/jobs";
import type { Outcome } from "@/engine/outcome";
import { runJob } from "@/engine/pool";
import { DRIFT, OUTLOOK } from "@/store/jobs/all";
import type { BackgroundJob } from "@/store/jobs/job";
import { driftDue, noteDrift, noteDriftFailure } from "@/store/releases/drift";
import { noteOutlook, noteOutlookFailure, type ServiceToLookAt, servicesDue } from "@/store/releases/outlooks";

/** What the watch does: it goes from service to service. */

interface Rounds<T extends "outlook" | "drift"> {
  type: T;
  due: (pool: pg.Pool, now: number) => Promise<ServiceToLookAt[]>;
  note: (pool: pg.Pool, place: ServiceToLookAt, at: number, found: Answers[T]) => Promise<void>;
  /** Notes why an evaluation failed, beside what the one before found. */
  noteFailure: (pool: pg.Pool, place: ServiceToLookAt, at: number, nothing: Answers[T]) => Promise<void>;
  /** What is known of a service whose first evaluation failed. */
  nothing: (at: number, problem: string) => Answers[T];
}

/** Longest that a service is looked at, ms: the others have their turn. */
const LONGEST = 60_000;

/** Looks at a service in a thread of the engine: one that takes too long, or more memory than there is, takes no other along. */
async function look<T extends "outlook" | "drift">(
  type: T,
  place: ServiceToLookAt,
  now: number,
  run: typeof runJob,
): Promise<Outcome<Answers[T]>> {
  const signal = AbortSignal.timeout(LONGEST);
  try {
    return await run<T>({ type, ...place, now } as Extract<Job, { type: T }>, { caller: "watch", signal });
  } catch (error) {
    if (!signal.aborted) throw error;
    const detail = `looking at it takes longer than ${LONGEST / 1000} s`;
    return { ok: false, status: 400, problem: { title: "Too much to look at", detail } };
  }
}

/** One round over the services whose turn it is. @param run answers a job of the engine */
export function rounds<T extends "outlook" | "drift">(
  log: Pick<Logger, "warn">,
  { type, due, note, noteFailure, nothing }: Rounds<T>,
  run: typeof runJob = runJob,
): BackgroundJob["pass"] {
  return async (pool, now, stopped) => {
    const places = await due(pool, now);
    let done = 0;
    for (const place of places) {
      if (stopped()) break;
      const at = Date.now();
      const outcome = await look(type, place, at, run);
      // What was found before stands while the store is away.
      if (!outcome.ok && outcome.status === 503) throw new Error(outcome.problem.detail);
      if (!outcome.ok) log.warn({ ...place, type, problem: outcome.problem }, "a service could not be looked at");
      if (outcome.ok) await note(pool, place, at, outcome.value);
      else await noteFailure(pool, place, at, nothing(at, outcome.problem.detail));
      done++;
    }
    return { done, backlog: places.length - done, waitingSince: null };
  };
}

const NO_OUTLOOK: Omit<ServiceOutlook, "from" | "to"> = { rate: null, serving: [], errors: null, verdict: null };
const NO_DRIFT: Omit<Drift, "from" | "to"> = { shifts: [], slopes: [], leak: null };

/** Looks at how the newest releases do, often while they are young; and for what changed without one. */
export function watching(log: Logger): BackgroundJob[] {
  return [
    {
      ...OUTLOOK,
      every: 5000,
      looksAtAll: true,
      pass: rounds(log, {
        type: "outlook",
        due: servicesDue,
        note: noteOutlook,
        noteFailure: noteOutlookFailure,
        nothing: (at, problem) => ({ ...NO_OUTLOOK, from: at - DAY, to: at, problem }),
      }),
    },
    {
      ...DRIFT,
      every: 60_000,
      looksAtAll: true,
      pass: rounds(log, {
        type: "drift",
        due: driftDue,
        note: noteDrift,
        noteFailure: noteDriftFailure,
        nothing: (at, problem) => ({ ...NO_DRIFT, from: at - DAY, to: at, problem }),
      }),
    },
  ];
}
