import { z } from "zod";

/** What to delete: a metric's points; where given, only those of series with an attribute's value, or within a span. */
export const purgeRequest = z.object({
  metric: z.string().min(1, "say which metric"),
  attribute: z.object({ name: z.string().min(1, "say which attribute"), value: z.string() }).optional(),
  /** The span (from, to], Unix ms; widened to whole minutes. */
  from: z.number().int().optional(),
  to: z.number().int().optional(),
});

export type PurgeRequest = z.infer<typeof purgeRequest>;

/** A request with the name of the person who makes it, for the record. */
export const signedPurge = purgeRequest.extend({
  who: z.string().trim().min(1, "say who you are, for the record").max(200),
});

/** What a purge would delete. */
export interface PurgeCount {
  /** Rows by resolution: points as they arrived, and rolled up to minutes and hours. */
  raw: number;
  minutes: number;
  hours: number;
  series: number;
  /** First and last point that goes, Unix ms; null where none does. */
  first: number | null;
  last: number | null;
}

/** A purge on record. */
export interface PurgeEntry {
  id: number;
  at: number;
  who: string;
  what: PurgeRequest;
  points: number;
  bytes: number;
  /** null while it is at work. */
  finishedAt: number | null;
}
