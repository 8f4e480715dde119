import { LIMITS } from "./limits";
import type { Numbers } from "./numbers";

/** Histograms as they come in, and what makes one no histogram. */

/** The buckets of one sign as they come in. */
export interface IncomingBuckets {
  offset: number;
  counts: Numbers;
}

export interface IncomingHistogram {
  count: number;
  sum: number;
  min: number;
  max: number;
}

/** OpenTelemetry metrics data model, "Histogram": counts are one longer than bounds and add up to the count. */
export function explicitProblem(point: IncomingHistogram, bounds: Numbers, counts: Numbers): string | null {
  if (bounds.size > LIMITS.buckets) return `${bounds.size} bucket bounds, at most ${LIMITS.buckets} are taken`;
  if (counts.size === 0 && bounds.size === 0) return null;
  if (counts.size !== bounds.size + 1)
    return `${counts.size} bucket counts for ${bounds.size} bounds; there must be one more count than bounds`;
  const { data } = bounds;
  for (let i = 0; i < bounds.size; i++) {
    if (!Number.isFinite(data[i]) || (i > 0 && data[i] <= data[i - 1])) return "bucket bounds do not rise";
  }
  const sum = counts.total();
  return sum === point.count ? null : `bucket counts add up to ${sum}, the count says ${point.count}`;
}

/** OpenTelemetry metrics data model, "ExponentialHistogram"; scales beyond ±20 do not occur in SDKs. */
export function exponentialProblem(
  point: IncomingHistogram & { scale: number; zeroCount: number },
  positive: IncomingBuckets,
  negative: IncomingBuckets,
): string | null {
  if (point.scale < -10 || point.scale > 20) return `scale ${point.scale} lies outside -10 to 20`;
  const width = positive.counts.size + negative.counts.size;
  if (width > LIMITS.buckets) return `${width} buckets, at most ${LIMITS.buckets} are taken`;
  const sum = positive.counts.total() + negative.counts.total() + point.zeroCount;
  return sum === point.count ? null : `bucket counts add up to ${sum}, the count says ${point.count}`;
}
