import type { Layout } from "../metric/model";

/**
 * A histogram as intervals with weights: what every kind of bucket comes down to.
 * `count` observations lie in (low, high]; inside, they are taken as even on a linear or a logarithmic axis.
 */
export interface Interval {
  low: number;
  high: number;
  count: number;
  logarithmic: boolean;
  /** Whether an observation may lie at `low` itself. */
  closed: boolean;
}

/** Bounds of bucket columns, lower and upper; not to be changed. */
interface BucketBounds {
  low: Float64Array;
  high: Float64Array;
  logarithmic: boolean;
}

const known = new WeakMap<Layout, BucketBounds>();

/**
 * The bounds of each bucket column of a layout, worked out once for each.
 * Explicit: (b[i-1], b[i]]; the first and the last are open.
 * Exponential: (base^i, base^(i+1)] with base = 2^(2^-scale), mirrored for negatives; the zero bucket spans the
 * zero threshold (OpenTelemetry metrics data model, "ExponentialHistogram").
 */
export function bucketBounds(layout: Layout): BucketBounds {
  let bounds = known.get(layout);
  if (!bounds) {
    bounds = boundsOf(layout);
    known.set(layout, bounds);
  }
  return bounds;
}

function boundsOf(layout: Layout): BucketBounds {
  if (layout.kind === "explicit") {
    const { bounds } = layout;
    const size = bounds.length + 1;
    const low = new Float64Array(size);
    const high = new Float64Array(size);
    for (let i = 0; i < size; i++) {
      low[i] = i === 0 ? Number.NEGATIVE_INFINITY : bounds[i - 1];
      high[i] = i === bounds.length ? Number.POSITIVE_INFINITY : bounds[i];
    }
    return { low, high, logarithmic: false };
  }
  if (layout.kind !== "exponential") throw new Error(`a ${layout.kind} layout has no buckets`);
  const { scale, zeroThreshold, negative, positive } = layout;
  const size = 1 + negative.width + positive.width;
  const low = new Float64Array(size);
  const high = new Float64Array(size);
  low[0] = negative.width > 0 ? -zeroThreshold : 0;
  high[0] = zeroThreshold;
  for (let i = 0; i < negative.width; i++) {
    low[1 + i] = -exponentialBound(scale, negative.from + i + 1);
    high[1 + i] = -exponentialBound(scale, negative.from + i);
  }
  for (let i = 0; i < positive.width; i++) {
    const column = 1 + negative.width + i;
    low[column] = exponentialBound(scale, positive.from + i);
    high[column] = exponentialBound(scale, positive.from + i + 1);
  }
  return { low, high, logarithmic: true };
}

/** base^index with base = 2^(2^-scale). */
export function exponentialBound(scale: number, index: number): number {
  return 2 ** (index * 2 ** -scale);
}

/**
 * The non-empty buckets as intervals.
 *
 * @param least no observation lies below it
 * @param most no observation lies above it
 */
export function toIntervals(
  layout: Layout,
  counts: ArrayLike<number>,
  least = Number.NEGATIVE_INFINITY,
  most = Number.POSITIVE_INFINITY,
): Interval[] {
  const { low, high, logarithmic } = bucketBounds(layout);
  const closedAtLow = layout.kind === "exponential" ? 1 + layout.negative.width : 0;
  const intervals: Interval[] = [];
  for (let i = 0; i < low.length; i++) {
    if (counts[i] <= 0) continue;
    const from = Math.min(Math.max(low[i], least), high[i]);
    const to = Math.max(Math.min(high[i], most), from);
    const closed = i < closedAtLow || from > low[i] || from === to;
    intervals.push({ low: from, high: to, count: counts[i], logarithmic: logarithmic && i > 0, closed });
  }
  return intervals;
}
