import { DAY, HOUR } from "../window/lengths";
import { median } from "./robust";

/** Takes the rhythm of days and weeks out of a series, so that what is left changes only where something changed. */

/** Rounds in which level and rhythm are told apart. */
const ROUNDS = 5;
/** A level is that of the week around, ms to either side: weekends do not move it. */
const AROUND = 3.5 * DAY;
/** A slot of the day needs so many days to say something. */
const LEAST_DAYS = 3;

/** The level around each place: the median of the values of the week around it. */
function levels(times: ArrayLike<number>, values: Float64Array): Float64Array {
  const found = new Float64Array(values.length);
  let [from, to] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    while (times[from] < times[i] - AROUND) from++;
    while (to < values.length && times[to] <= times[i] + AROUND) to++;
    found[i] = median(values.subarray(from, to));
  }
  return found;
}

/** What values of a slot have in common beyond their level, less what all have. */
function slotMedians(slots: readonly number[], rest: Float64Array, count: number): Float64Array {
  const by = Array.from({ length: count }, (): number[] => []);
  slots.forEach((slot, i) => {
    by[slot].push(rest[i]);
  });
  return Float64Array.from(by, (values) => (values.length >= LEAST_DAYS ? median(values) : 0));
}

/**
 * What returns at the same hour of every day, and on weekends: level and rhythm are told apart in turns, each by medians
 * (a seasonal decomposition with moving medians, after Cleveland, Cleveland, McRae and Terpenning 1990).
 *
 * @param times of the values, rising, Unix ms
 * @param values logarithms, or differences; all finite
 * @param offset of the viewer's clock from UTC, ms
 * @returns how much of each value is rhythm
 */
export function rhythmOf(times: ArrayLike<number>, values: Float64Array, offset = 0): Float64Array {
  const local = Array.from(times, (time) => time + offset);
  const hours = local.map((time) => Math.floor((((time % DAY) + DAY) % DAY) / HOUR));
  // 1970 began on a Thursday: days 2 and 3 were its first weekend.
  const weekends = local.map((time) => ([2, 3].includes(Math.floor(time / DAY) % 7) ? 1 : 0));
  const slots = hours.map((hour, i) => hour + 24 * weekends[i]);
  let rhythm: Float64Array = new Float64Array(48);
  let left: Float64Array = values;
  for (let round = 0; round < ROUNDS; round++) {
    const level = levels(times, left);
    rhythm = slotMedians(
      slots,
      values.map((value, i) => value - level[i]),
      48,
    );
    left = values.map((value, i) => value - rhythm[slots[i]]);
  }
  return values.map((_, i) => rhythm[slots[i]]);
}
