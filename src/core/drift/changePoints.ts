import { deviation, median } from "./robust";

/** Where the level of a series changed: a split into stretches, each about a median of its own. */

export interface Shift {
  /** Place of the first value of the new level. */
  at: number;
  before: number;
  after: number;
}

/** A level holds for so many values at least. */
const LEAST = 6;
/** What each change costs, in deviations times the logarithm of the length. */
const PENALTY = 3.5;
/** A change that is not so many deviations of a median large is none. */
const LEAST_SIZE = 5.5;
/** Neighbours keep so much in common at most as is allowed for. */
const MOST_MEMORY = 0.9;

/**
 * A stretch that grows at its end, and its cost: the sum of absolute distances from its median. Each further value adds its
 * distance from the median, or from between the two middle ones.
 */
class Stretch {
  private readonly sorted: number[] = [];
  cost = 0;
  /** From which end on it cannot be a part of the best split any more. */
  endsAt = Number.POSITIVE_INFINITY;

  constructor(readonly from: number) {}

  add(value: number): void {
    const { sorted } = this;
    const count = sorted.length;
    const [below, above] = [sorted[(count - 1) >> 1], sorted[count >> 1]];
    this.cost += count === 0 ? 0 : Math.max(0, below - value, value - above);
    let [low, high] = [0, count];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle] < value) low = middle + 1;
      else high = middle;
    }
    sorted.splice(low, 0, value);
  }
}

/** The places at which the best split begins its stretches, with both ends. @param price of each change */
function bestSplit(values: Float64Array, price: number): number[] {
  const count = values.length;
  const best = new Float64Array(count + 1).fill(Number.POSITIVE_INFINITY);
  const last = new Int32Array(count + 1);
  best[0] = -price;
  let open = [new Stretch(0)];
  for (let to = 1; to <= count; to++) {
    for (const stretch of open) {
      stretch.add(values[to - 1]);
      const total = best[stretch.from] + stretch.cost + price;
      if (to - stretch.from < LEAST || total >= best[to]) continue;
      best[to] = total;
      last[to] = stretch.from;
    }
    // What costs more without another change than the best does with one never becomes the best: it is pruned, once a
    // stretch from here on is long enough to stand in its place.
    for (const stretch of open)
      if (best[stretch.from] + stretch.cost >= best[to]) stretch.endsAt = Math.min(stretch.endsAt, to + LEAST);
    open = open.filter(({ endsAt }) => endsAt > to);
    if (Number.isFinite(best[to])) open.push(new Stretch(to));
  }
  const places = [count];
  for (let to = count; to > 0; to = last[to]) places.unshift(last[to]);
  return places;
}

/** What neighbours have in common, from 0 to {@link MOST_MEMORY}: the correlation of values with the next, about a moving median. */
export function memory(values: Float64Array): number {
  const around = 24;
  const rest = values.map((value, i) => value - median(values.subarray(Math.max(0, i - around), i + around + 1)));
  let [product, square] = [0, 0];
  for (let i = 0; i + 1 < rest.length; i++) {
    product += rest[i] * rest[i + 1];
    square += rest[i] * rest[i];
  }
  return square > 0 ? Math.min(MOST_MEMORY, Math.max(0, product / square)) : 0;
}

/**
 * Finds changes of level: of all splits the one whose stretches lie closest to their medians, with a price for each change
 * that grows with the length and with what neighbours have in common (PELT: Killick, Fearnhead and Eckley, "Optimal
 * detection of changepoints with a linear computational cost", 2012; the cost is that of medians, which odd values do not
 * move).
 *
 * @param values at even distances, without rhythm
 * @param least changes that are smaller are not worth a word
 * @returns changes, the earliest first
 */
export function changePoints(values: Float64Array, least = 0): Shift[] {
  const count = values.length;
  if (count < 2 * LEAST) return [];
  const steps = Float64Array.from({ length: count - 1 }, (_, i) => values[i + 1] - values[i]);
  const kept = memory(values);
  // Of values that keep a part of the one before, steps are smaller than their spread says.
  const noise = deviation(steps) / Math.sqrt(2 * (1 - kept));
  if (!(noise > 0)) return levelSteps(values);
  const lasting = Math.sqrt((1 + kept) / (1 - kept));
  const price = PENALTY * noise * Math.log(count) * lasting;
  const places = bestSplit(values, price);
  // A median of so many values scatters by about 1.25 deviations over the root of their number.
  const scatter = (one: number, other: number) => 1.25 * noise * lasting * Math.sqrt(1 / one + 1 / other);
  return pruned(values, places, (size, one, other) => size >= Math.max(least, LEAST_SIZE * scatter(one, other)));
}

/** The changes between stretches, without those that are too small: the smallest goes first, and its stretches are one. */
function pruned(
  values: Float64Array,
  places: readonly number[],
  counts: (size: number, before: number, after: number) => boolean,
): Shift[] {
  const bounds = [...places];
  for (;;) {
    const shifts = bounds.slice(1, -1).map((at, i) => {
      const [one, other] = [values.subarray(bounds[i], at), values.subarray(at, bounds[i + 2])];
      const [before, after] = [median(one), median(other)];
      return { at, before, after, real: counts(Math.abs(after - before), one.length, other.length) };
    });
    const small = shifts
      .filter(({ real }) => !real)
      .sort((a, b) => Math.abs(a.after - a.before) - Math.abs(b.after - b.before));
    if (small.length === 0) return shifts.map(({ at, before, after }) => ({ at, before, after }));
    bounds.splice(bounds.indexOf(small[0].at), 1);
  }
}

/** Changes of a series that has no noise at all: where it is another value for long enough. */
function levelSteps(values: Float64Array): Shift[] {
  const found: Shift[] = [];
  for (let at = LEAST; at <= values.length - LEAST; at++) {
    const [before, after] = [median(values.subarray(at - LEAST, at)), median(values.subarray(at, at + LEAST))];
    if (before !== after && values[at] === after && values[at - 1] === before) found.push({ at, before, after });
  }
  return found;
}
