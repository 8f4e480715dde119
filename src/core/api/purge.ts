import { z } from "zod";

/** What to delete: a metric's points, where given only those with an attribute's value or within a span (from, to]. */
export const purgeRequest = z.object({
  metric: z.string().min(1, "say which metric"),
  attribute: z.object({ name: z.string().min(1), value: z.string() }).optional(),
  /** Unix ms. */
  from: z.number().optional(),
  to: z.number().optional(),
});

export type PurgeRequest = z.infer<typeof purgeRequest>;

/** What a purge deletes. */
export interface PurgeCount {
  points: number;
  series: number;
  /** Bytes of the strips that are deleted or written anew. */
  bytes: number;
  strips: number;
  /** First and last point that goes, Unix ms; null where none does. */
  first: number | null;
  last: number | null;
}
