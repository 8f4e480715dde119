import type { Interval } from "./intervals";
import { countUpTo } from "./quantile";

/**
 * Bands: ranges of values that follow each other, into which histograms of any buckets are laid, so that their shapes can be
 * held beside each other.
 */

/** A range (low, high] of values; an infinite end is open. */
export interface Band {
  low: number;
  high: number;
}

const MAX_BANDS = 60;
/** Values below this part of the greatest have no bands of their own. */
const SMALLEST = 1e-9;
/** No band begins below it: powers of ten are not told apart there. */
const LEAST = 1e-300;
/** Bands of a decade, the most first: as many as fit. */
const BY_DECADE = [20, 10, 5, 3, 2, 1];

/**
 * Bands for intervals: between their own bounds where these are few and none is taken as even on a logarithmic axis, so that
 * counts are laid into them exactly; else a logarithmic grid over what they span, with one band for all that is not above zero.
 *
 * @param intervals of everything that is laid into the bands
 */
export function bandsOf(intervals: readonly Interval[]): Band[] {
  const filled = intervals.filter(({ count }) => count > 0);
  if (filled.length === 0) return [];
  const bounds = [...new Set(filled.flatMap(({ low, high }) => [low, high]))].sort((a, b) => a - b);
  const own = filled.every(({ logarithmic }) => !logarithmic) && bounds.length <= MAX_BANDS;
  const all = own ? bounds : gridOf(bounds);
  // A single value is a band by itself.
  if (all.length === 1) return [{ low: all[0], high: all[0] }];
  return all.slice(1).map((high, i) => ({ low: all[i], high }));
}

/** Bounds of a logarithmic grid that spans some bounds, ascending. */
function gridOf(bounds: readonly number[]): number[] {
  const positive = bounds.filter((bound) => bound > LEAST && bound < Number.POSITIVE_INFINITY);
  const [first, last] = [bounds[0], bounds[bounds.length - 1]];
  if (positive.length === 0) return first === last ? [first] : [first, last];
  const most = positive[positive.length - 1];
  // What is a billion times smaller than the greatest is as good as nothing beside it.
  const least = Math.max(positive[0], most * SMALLEST);
  const decades = Math.max(1e-9, Math.log10(most / least));
  const room = MAX_BANDS - 4;
  const each = BY_DECADE.find((one) => decades * one <= room) ?? BY_DECADE[BY_DECADE.length - 1];
  const from = Math.floor(Math.log10(least) * each + 1e-9);
  const to = Math.max(from + 1, Math.ceil(Math.log10(most) * each - 1e-9));
  const grid = Array.from({ length: to - from + 1 }, (_, i) => 10 ** ((from + i) / each));
  const below = first < 0 ? [first, 0] : first < grid[0] * (1 - 1e-9) ? [0] : [];
  const above = last === Number.POSITIVE_INFINITY ? [last] : [];
  return [...below, ...grid, ...above];
}

/** How many observations lie in each band, interpolated inside buckets as percentiles are. They add up to all of them. */
export function countsIn(intervals: readonly Interval[], bands: readonly Band[]): number[] {
  let before = 0;
  const total = intervals.reduce((sum, { count }) => sum + count, 0);
  return bands.map(({ high }, i) => {
    const upTo = i === bands.length - 1 ? total : countUpTo(intervals, high);
    const count = upTo - before;
    before = upTo;
    return count;
  });
}
