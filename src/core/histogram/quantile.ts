import type { Interval } from "./intervals";

/** A value read off a histogram, with the interval in which the true one must lie. */
export interface Bounded {
  value: number;
  low: number;
  high: number;
}

export function totalCount(intervals: readonly Interval[]): number {
  let total = 0;
  for (const interval of intervals) total += interval.count;
  return total;
}

type Bucket = Pick<Interval, "low" | "high" | "logarithmic">;

/** How far x is on the way from low to high on a logarithmic axis. */
function partOfLogs(low: number, x: number, high: number): number {
  const whole = high / low;
  // A quotient of the least and the greatest numbers is none.
  return Number.isFinite(whole)
    ? Math.log(x / low) / Math.log(whole)
    : (Math.log(x) - Math.log(low)) / (Math.log(high) - Math.log(low));
}

/** The part of an interval's observations at or below x. */
function partBelow({ low, high, logarithmic }: Bucket, x: number): number {
  if (x >= high) return 1;
  if (x <= low) return 0;
  if (low === Number.NEGATIVE_INFINITY || high === Number.POSITIVE_INFINITY) return 0;
  if (logarithmic && low > 0) return partOfLogs(low, x, high);
  if (logarithmic && high < 0) return 1 - partOfLogs(-high, -x, -low);
  return (x - low) / (high - low);
}

/** The place inside an interval below which `part` of it lies. */
function placeInside({ low, high, logarithmic }: Bucket, part: number): number {
  // An open bucket has no inside to interpolate in: its known end is all that can be said.
  if (high === Number.POSITIVE_INFINITY) return low;
  if (low === Number.NEGATIVE_INFINITY) return high;
  if (logarithmic && low > 0) return low * (high / low) ** part;
  if (logarithmic && high < 0) return high * (low / high) ** (1 - part);
  return low + (high - low) * part;
}

/** Counts cut at step ends are fractions; the slack keeps rounding from pushing a rank into the next bucket. */
function reaches(count: number, rank: number): boolean {
  return count >= rank * (1 - 1e-12);
}

/** The end at which the running count over intervals, taken in the order of that end, reaches the rank. */
function endAtRank(intervals: readonly Interval[], rank: number, end: "low" | "high"): number {
  const sorted = [...intervals].sort((a, b) => a[end] - b[end]);
  let count = 0;
  for (const interval of sorted) {
    count += interval.count;
    if (reaches(count, rank)) return interval[end];
  }
  return sorted[sorted.length - 1][end];
}

/** Whether intervals follow each other as they stand, none reaching into the next: mostly they do. */
function disjoint(intervals: readonly Interval[]): boolean {
  for (let i = 1; i < intervals.length; i++) if (intervals[i].low < intervals[i - 1].high) return false;
  return true;
}

/** The quantile where intervals follow each other: all that is asked lies in the one that reaches the rank. */
function inSequence(intervals: readonly Interval[], rank: number): Bounded {
  let below = 0;
  for (const interval of intervals) {
    const { low, high, count } = interval;
    if (reaches(below + count, rank)) {
      const value = placeInside(interval, Math.min(1, (rank - below) / count));
      return { value: Math.min(Math.max(value, low), high), low, high };
    }
    below += count;
  }
  const { low, high } = intervals[intervals.length - 1];
  return { value: high, low, high };
}

/**
 * The q-quantile (0 to 1) of observations that are known only by their intervals: the smallest value at or below
 * which q of them lie, interpolated inside its bucket. `low` and `high` are reached where every observation lies at
 * the lower or upper end of its interval, so the true quantile is between them, whatever the buckets hold; this
 * holds for histograms merged from different bounds too.
 *
 * @returns null where there are no observations
 */
export function quantile(intervals: readonly Interval[], q: number): Bounded | null {
  const total = totalCount(intervals);
  if (total <= 0) return null;
  const rank = q * total;
  if (disjoint(intervals)) return inSequence(intervals, rank);
  const low = endAtRank(intervals, rank, "low");
  const high = endAtRank(intervals, rank, "high");
  return { value: Math.min(Math.max(valueAtRank(intervals, rank), low), high), low, high };
}

function valueAtRank(intervals: readonly Interval[], rank: number): number {
  const sorted = [...intervals].sort((a, b) => a.low - b.low || a.high - b.high);
  return disjoint(sorted) ? inSequence(sorted, rank).value : overlapping(sorted, rank);
}

/** Buckets that overlap are split at the union of all bounds; between two of these the count rises evenly. */
function overlapping(intervals: readonly Interval[], rank: number): number {
  const edges = [...new Set(intervals.flatMap(({ low, high }) => [low, high]))].sort((a, b) => a - b);
  let below = 0;
  for (let i = 1; i < edges.length; i++) {
    const upTo = countUpTo(intervals, edges[i]);
    if (reaches(upTo, rank)) {
      const logarithmic = intervals.every((interval) => interval.logarithmic);
      const part = upTo > below ? Math.min(1, Math.max(0, (rank - below) / (upTo - below))) : 0;
      return placeInside({ low: edges[i - 1], high: edges[i], logarithmic }, part);
    }
    below = upTo;
  }
  return edges[edges.length - 1];
}

export function countUpTo(intervals: readonly Interval[], x: number): number {
  let count = 0;
  for (const interval of intervals) count += interval.count * partBelow(interval, x);
  return count;
}

/**
 * The share of observations at or below x, with the least and the most that it can be.
 *
 * @returns null where there are no observations
 */
export function shareUnder(intervals: readonly Interval[], x: number): Bounded | null {
  const total = totalCount(intervals);
  if (total <= 0) return null;
  let low = 0;
  let high = 0;
  for (const interval of intervals) {
    if (interval.high <= x) low += interval.count;
    if (interval.high <= x || interval.low < x || (interval.low === x && interval.closed)) high += interval.count;
  }
  return { value: countUpTo(intervals, x) / total, low: low / total, high: high / total };
}

/** Whether intervals from different bounds overlap, so that a merge had to split buckets. */
export function hasSplitBuckets(intervals: readonly Interval[]): boolean {
  return !disjoint(intervals) && !disjoint([...intervals].sort((a, b) => a.low - b.low || a.high - b.high));
}
