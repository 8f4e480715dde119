import { ndtri } from "cephes";
import { median } from "./robust";

/** How fast a series rises or falls, whatever a few odd values say. */

export interface Slope {
  /** Per unit of time. */
  value: number;
  low: number;
  high: number;
}

const ALPHA = 0.01;

/**
 * The slope that half of all pairs of values lie above (Theil 1950, Sen 1968), with the interval of Sen's paper: as many
 * pairs from the middle as Kendall's statistic scatters by. `prepareDistributions` was awaited before.
 *
 * @param times rising
 * @param apart of how many values each says as much as one that comes by itself: neighbours are alike
 * @returns null of fewer than four values
 */
export function slopeOf(times: ArrayLike<number>, values: ArrayLike<number>, apart = 1): Slope | null {
  const count = values.length;
  if (count < 4) return null;
  const slopes: number[] = [];
  for (let i = 0; i < count; i++)
    for (let j = i + 1; j < count; j++) slopes.push((values[j] - values[i]) / (times[j] - times[i]));
  const sorted = Float64Array.from(slopes).sort();
  // Of n values that come by themselves the statistic has the variance n (n - 1) (2 n + 5) / 18; fewer of them say less.
  const own = Math.max(4, count / apart);
  const scatter = Math.sqrt((own * (own - 1) * (2 * own + 5)) / 18) / ((own * (own - 1)) / 2);
  const half = (ndtri(1 - ALPHA / 2) * scatter * sorted.length) / 2;
  const middle = sorted.length / 2;
  const at = (place: number) => sorted[Math.min(sorted.length - 1, Math.max(0, Math.round(place)))];
  return { value: median(sorted), low: at(middle - half - 1), high: at(middle + half) };
}
