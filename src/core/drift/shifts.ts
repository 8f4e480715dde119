import { changePoints, type Shift } from "./changePoints";
import { rhythmOf } from "./rhythm";

/** What changes lift a series by, at each place, against where it began. */
function lifted(count: number, shifts: readonly Shift[]): Float64Array {
  const by = new Float64Array(count);
  let [level, next] = [0, 0];
  for (let i = 0; i < count; i++) {
    for (; next < shifts.length && shifts[next].at === i; next++) level += shifts[next].after - shifts[next].before;
    by[i] = level;
  }
  return by;
}

/**
 * Changes of the level of a series that has a rhythm of days and weeks. The rhythm is told twice: what a change lifts is
 * no rhythm, but before the changes are known it looks like some.
 *
 * @param times of the values, rising, at even distances, Unix ms
 * @param values logarithms, or differences; all finite
 * @param least changes that are smaller are not worth a word
 */
export function shiftsOf(times: ArrayLike<number>, values: Float64Array, least: number, offset = 0): Shift[] {
  const without = (rhythm: Float64Array) => values.map((value, i) => value - rhythm[i]);
  const first = changePoints(without(rhythmOf(times, values, offset)), least);
  if (first.length === 0) return first;
  const lift = lifted(values.length, first);
  const level = values.map((value, i) => value - lift[i]);
  return changePoints(without(rhythmOf(times, level, offset)), least);
}
