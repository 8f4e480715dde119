import { FLAG } from "../../metric/model";
import { MAX_WIDTH } from "../../metric/pointLimits";
import type { Numbers } from "../numbers";

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
  if (counts.size === 0 && bounds.size === 0) return null;
  if (counts.size !== bounds.size + 1)
    return `${counts.size} bucket counts for ${bounds.size} bounds; there must be one more count than bounds`;
  const sum = counts.total();
  if (counts.least() < 0) return "a bucket count lies below zero";
  return sum === point.count ? null : `bucket counts add up to ${sum}, the count says ${point.count}`;
}

/** OpenTelemetry metrics data model, "ExponentialHistogram". */
export function exponentialProblem(
  point: IncomingHistogram & { scale: number; zeroCount: number },
  positive: IncomingBuckets,
  negative: IncomingBuckets,
): string | null {
  const width = positive.counts.size + negative.counts.size;
  if (width > MAX_WIDTH * 4) return `${width} buckets, at most ${MAX_WIDTH} are taken`;
  if (Math.min(positive.counts.least(), negative.counts.least(), point.zeroCount) < 0)
    return "a bucket count lies below zero";
  const sum = positive.counts.total() + negative.counts.total() + point.zeroCount;
  return sum === point.count ? null : `bucket counts add up to ${sum}, the count says ${point.count}`;
}

/** Flags of a histogram point from what was present. */
export function histogramFlags(flags: number, hasSum: boolean, hasMin: boolean, hasMax: boolean): number {
  return (
    (flags & FLAG.noRecordedValue) | (hasSum ? 0 : FLAG.noSum) | (hasMin ? 0 : FLAG.noMin) | (hasMax ? 0 : FLAG.noMax)
  );
}

/** Where the buckets begin and end that are not empty: the same histogram, in one form. */
export function filled({ counts: { data, size } }: IncomingBuckets): { from: number; to: number } {
  let from = 0;
  let to = size;
  while (from < to && data[from] === 0) from++;
  while (to > from && data[to - 1] === 0) to--;
  return { from, to };
}
