import { z } from "zod";
import type { PurgeEntry } from "./purge";

/** What the store page shows. Times in Unix ms, sizes in bytes. */

/** Names of the resolutions, as people read them. */
export type ResolutionName = "raw" | "minutes" | "hours";

export interface ResolutionEntry {
  resolution: ResolutionName;
  strips: number;
  points: number;
  /** Payloads only. */
  bytes: number;
  /** On disk, with indexes and what is around. */
  disk: number;
  oldest: number | null;
  newest: number | null;
  /** For how long points are kept, ms. */
  keep: number;
}

export interface JobEntry {
  name: string;
  holder: string;
  startedAt: number;
  finishedAt: number | null;
  done: number;
  backlog: number;
  waitingSince: number | null;
  error: string | null;
}

export interface StoredMetric {
  name: string;
  /** Series that were ever registered. */
  series: number;
  /** Whether there are more series than may be, so that some share the overflow series. */
  overflows: boolean;
  strips: number;
  points: Record<ResolutionName, number>;
  bytes: number;
  oldest: number | null;
  newest: number | null;
  /** Retention of its own, ms; null for the default. */
  keep: Record<ResolutionName, number | null>;
}

export interface StoreAnswer {
  resolutions: ResolutionEntry[];
  jobs: JobEntry[];
  metrics: StoredMetric[];
  series: number;
  purges: PurgeEntry[];
  /** What background jobs could not handle. */
  setAside: SetAsideEntry[];
}

/** Pieces that a background job could not handle, of one kind, subject and reason. */
export interface SetAsideEntry {
  kind: "strip" | "window" | "trace" | "export";
  /** The metric, step or exporter that they are of. */
  subject: string;
  reason: string;
  pieces: number;
  points: number;
  bytes: number;
  /** When the last of them was, Unix ms. */
  at: number;
}

const DAY = 86400_000;

/** For how long points are kept at each resolution where a metric says nothing else, ms. */
export const USUAL_KEEP: Record<ResolutionName, number> = { raw: 7 * DAY, minutes: 60 * DAY, hours: 400 * DAY };

const keepTime = z
  .number()
  .int()
  .min(DAY, "at least a day")
  .max(4000 * DAY, "at most 4,000 days")
  .nullable();

/** For how long a metric is kept; null takes the default. */
export const keepRequest = z
  .object({ metric: z.string().min(1), raw: keepTime, minutes: keepTime, hours: keepTime })
  .refine(({ raw, minutes }) => (minutes ?? USUAL_KEEP.minutes) >= (raw ?? USUAL_KEEP.raw), {
    path: ["minutes"],
    message: "minutes must be kept at least as long as points as they arrived",
  })
  .refine(({ minutes, hours }) => (hours ?? USUAL_KEEP.hours) >= (minutes ?? USUAL_KEEP.minutes), {
    path: ["hours"],
    message: "hours must be kept at least as long as minutes",
  });

export type KeepRequest = z.infer<typeof keepRequest>;
