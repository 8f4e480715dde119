import { z } from "zod";
import { MAX_TIME } from "../metric/pointLimits";

/** What to delete: a metric's points; where given, only those of series with an attribute's value, or within a span. */
export const purgeRequest = z.object({
  metric: z.string().min(1, "say which metric"),
  attribute: z.object({ name: z.string().min(1, "say which attribute"), value: z.string() }).optional(),
  /** The span (from, to], Unix ms; widened to whole minutes. */
  from: z.number().int().min(0).max(MAX_TIME).optional(),
  to: z.number().int().min(0).max(MAX_TIME).optional(),
});

export type PurgeRequest = z.infer<typeof purgeRequest>;

/** What is deleted, in words. */
export function purgeInWords({ metric, attribute, from, to }: PurgeRequest): string {
  const which = attribute ? ` where ${attribute.name} is ${attribute.value}` : "";
  const moment = (time: number) => new Date(time).toISOString();
  return `${metric}${which}${from === undefined ? "" : ` from ${moment(from)}`}${to === undefined ? "" : ` to ${moment(to)}`}`;
}

export const purgeCount = z.object({
  raw: z.number().meta({ description: "Rows that go, of points as they arrived." }),
  minutes: z.number(),
  hours: z.number(),
  series: z.number(),
  first: z.number().nullable().meta({ description: "First and last point that goes." }),
  last: z.number().nullable(),
});
/** What a purge would delete: rows by resolution. */
export type PurgeCount = z.infer<typeof purgeCount>;

export const purgeEntry = z.object({
  id: z.number(),
  at: z.number(),
  who: z.string(),
  what: purgeRequest,
  points: z.number(),
  bytes: z.number(),
  finishedAt: z.number().nullable().meta({ description: "null while it is at work." }),
});
/** A purge on record. */
export type PurgeEntry = z.infer<typeof purgeEntry>;
