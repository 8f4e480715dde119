import type { Estimate } from "./latency";
import { variance } from "./moments";
import { type Draw, MinuteColumn } from "./resample";
import { reach, varianceOf } from "./sequence";

/** How a level (memory, a queue, a rate) of the candidate differs from the baseline's. */
export interface LevelChange {
  /** Means over the minutes in which both have a value. */
  candidate: number;
  baseline: number;
  /** Relative where both are above zero: 0.1 is 10 % more; else the difference itself. */
  change: Estimate;
  relative: boolean;
}

/** Places at which both have a value. */
export function bothKnown(candidate: Float64Array, baseline: Float64Array): number[] {
  return Array.from(candidate.keys()).filter(
    (place) => Number.isFinite(candidate[place]) && Number.isFinite(baseline[place]),
  );
}

/**
 * Levels minute by minute, all of them known: means, and an interval of their ratio (their difference where that has none)
 * from minutes drawn in blocks, as for all else.
 *
 * @returns null without minutes
 */
export function compareLevels(
  candidate: Float64Array,
  baseline: Float64Array,
  seen: Draw,
  samples: readonly Draw[],
): LevelChange | null {
  const minutes = candidate.length;
  if (minutes === 0) return null;
  const columns = [new MinuteColumn(candidate), new MinuteColumn(baseline)];
  const means = (draw: Draw) => columns.map((column) => column.sum(draw) / draw.minutes);
  const [ours, theirs] = means(seen);
  const relative = ours > 0 && theirs > 0;
  const differs = ([one, other]: number[]) => (relative ? Math.log(one / other) : one - other);
  const drawn = samples.map((draw) => differs(means(draw))).filter((value) => Number.isFinite(value));
  const half = reach(minutes) * Math.sqrt(varianceOf(0, variance(drawn), minutes));
  const value = differs([ours, theirs]);
  const told = (by: number) => (relative ? Math.exp(by) - 1 : by);
  return {
    candidate: ours,
    baseline: theirs,
    change: { value: told(value), low: told(value - half), high: told(value + half) },
    relative,
  };
}
