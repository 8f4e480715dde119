import { z } from "zod";
import { DAY } from "../window/lengths";
import { COSTLIEST } from "./costliest";
import { purgeEntry } from "./purge";

/** What the store page shows. Times in Unix ms, sizes in bytes. */

const resolutionName = z.enum(["raw", "minutes", "hours"]);
/** Names of the resolutions, as people read them. */
export type ResolutionName = z.infer<typeof resolutionName>;
const byResolution = <T extends z.ZodType>(one: T) => z.object({ raw: one, minutes: one, hours: one });

const resolutionEntry = z.object({
  resolution: resolutionName,
  strips: z.number(),
  points: z.number(),
  bytes: z.number().meta({ description: "Payloads only." }),
  disk: z.number().meta({ description: "On disk, with indexes and what is around." }),
  oldest: z.number().nullable(),
  newest: z.number().nullable(),
  keep: z.number().meta({ description: "For how long points are kept, ms." }),
});
export type ResolutionEntry = z.infer<typeof resolutionEntry>;

const jobEntry = z.object({
  name: z.string(),
  does: z.string().meta({ description: "In a few words." }),
  holder: z.string(),
  startedAt: z.number(),
  finishedAt: z.number().nullable(),
  done: z.number(),
  backlog: z.number(),
  waitingSince: z.number().nullable(),
  error: z.string().nullable(),
});
export type JobEntry = z.infer<typeof jobEntry>;

const storedMetric = z.object({
  name: z.string(),
  series: z.number().meta({ description: "Series that were ever registered." }),
  overflows: z.boolean().meta({ description: "Whether some of its series share the overflow series." }),
  strips: z.number(),
  points: byResolution(z.number()),
  bytes: z.number(),
  oldest: z.number().nullable(),
  newest: z.number().nullable(),
  keep: byResolution(z.number().nullable()).meta({ description: "Retention of its own, ms; null for the default." }),
});
export type StoredMetric = z.infer<typeof storedMetric>;

const setAsideEntry = z.object({
  kind: z.enum(["strip", "window", "trace", "export"]),
  subject: z.string().meta({ description: "The metric, step or exporter that they are of." }),
  reason: z.string(),
  pieces: z.number(),
  points: z.number(),
  bytes: z.number(),
  at: z.number().meta({ description: "When the last of them was." }),
});
/** Pieces that a background job could not handle, of one kind, subject and reason. */
export type SetAsideEntry = z.infer<typeof setAsideEntry>;

export const storeAnswer = z.object({
  resolutions: z.array(resolutionEntry),
  jobs: z.array(jobEntry),
  metrics: z.array(storedMetric).meta({ description: "Those that were asked for, the costliest first." }),
  found: z.number().meta({ description: "Metrics whose name has the text that was asked for." }),
  all: z.number().meta({ description: "Metrics there are." }),
  series: z.number().meta({ description: "Series of all metrics that were ever registered." }),
  purges: z.array(purgeEntry),
  setAside: z.array(setAsideEntry),
});
export type StoreAnswer = z.infer<typeof storeAnswer>;

/** Of which metrics the store's answer is: the costliest, so many, of those with a text in their names. */
export const costliestQuery = z.object({
  find: z.string().max(300).default(""),
  rows: z.coerce.number<string | number>().int().min(1).max(20_000).default(COSTLIEST),
});
export type CostliestQuery = z.infer<typeof costliestQuery>;

/** For how long points are kept at each resolution where a metric says nothing else, ms. */
export const DEFAULT_KEEP: Record<ResolutionName, number> = { raw: 7 * DAY, minutes: 60 * DAY, hours: 400 * DAY };

const keepTime = z
  .number()
  .int()
  .min(DAY, "at least a day")
  .max(4000 * DAY, "at most 4,000 days")
  .nullable();

/** For how long a metric is kept; null takes the default. */
export const keepRequest = z
  .object({ metric: z.string().min(1), raw: keepTime, minutes: keepTime, hours: keepTime })
  .refine(({ raw, minutes }) => (minutes ?? DEFAULT_KEEP.minutes) >= (raw ?? DEFAULT_KEEP.raw), {
    path: ["minutes"],
    message: "minutes must be kept at least as long as points as they arrived",
  })
  .refine(({ minutes, hours }) => (hours ?? DEFAULT_KEEP.hours) >= (minutes ?? DEFAULT_KEEP.minutes), {
    path: ["hours"],
    message: "hours must be kept at least as long as minutes",
  });

export type KeepRequest = z.infer<typeof keepRequest>;
