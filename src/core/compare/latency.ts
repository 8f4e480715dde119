import { variance } from "./moments";
import { type Place, QuantileReader, valueAt } from "./quantileReader";
import { asSeen, type Draw } from "./resample";
import { reach, varianceOf } from "./sequence";
import { type Side, sum } from "./side";
import { within } from "./within";

/** A figure with the interval in which the true one lies, at every look (see `reach`). */
export interface Estimate {
  value: number;
  low: number;
  high: number;
}

/** One quantile of both sides. Changes are relative: 0.1 is 10 % more. */
export interface QuantileChange {
  q: number;
  /** In the metric's unit; `low` and `high` are how far the buckets leave it open. */
  candidate: Estimate;
  baseline: Estimate;
  change: Estimate;
  /** What of the interval comes from chance, and what from buckets, to either side, as logarithms. */
  chance: number;
  buckets: number;
}

/** Calls put together, each part with a weight: of one side the calls as they are, like for like those of each value. */
export interface Weighed {
  sides: readonly Side[];
  /** A weight for each side in a sample. */
  weights: (draw: Draw) => ArrayLike<number>;
}

export function asItIs(side: Side): Weighed {
  return { sides: [side], weights: () => [1] };
}

interface Found {
  estimate: Estimate;
  /** The standard error of its logarithm, were each call by itself. */
  least: number;
  reader: QuantileReader;
}

function find({ sides, weights }: Weighed, q: number, seen: Draw): Found | null {
  const reader = new QuantileReader(sides);
  const all = weights(seen);
  const place = reader.place(q, seen, all);
  if (!place) return null;
  const [side] = sides;
  const calls = sides.reduce((total, one) => total + sum(one.calls), 0);
  const { low, high } = within(side, place, reader.around(place.cell, seen, all));
  // Its rank alone varies by so much: the quantiles at both ends of that tell how much it does.
  const spread = Math.sqrt((q * (1 - q)) / calls);
  const at = (part: number) => valueAt(side, reader.place(part, seen, all) as Place);
  const least =
    q - spread > 0 && q + spread < 1 ? Math.log(at(q + spread) / at(q - spread)) / 2 : Number.POSITIVE_INFINITY;
  return { estimate: { value: valueAt(side, place), low, high }, least: least || 0, reader };
}

/**
 * How a quantile of the candidate differs from the baseline's. The interval of the ratio is worked out on logarithms: its
 * standard error is that of the samples, and no less than if each call came by itself; it reaches as far as holds at
 * every look; and it is widened by what the buckets leave open on either side.
 *
 * @param samples minutes drawn from both sides together, so that what befell both falls out
 * @returns null where a side had no calls
 */
export function compareQuantile(
  candidate: Weighed,
  baseline: Weighed,
  q: number,
  samples: readonly Draw[],
): QuantileChange | null {
  const { minutes } = baseline.sides[0];
  const seen = asSeen(minutes);
  const [ours, theirs] = [find(candidate, q, seen), find(baseline, q, seen)];
  // Where calls take no time, nothing is a part more or less of it.
  if (!ours || !theirs || ours.estimate.value <= 0 || theirs.estimate.value <= 0) return null;
  const ratio = Math.log(ours.estimate.value / theirs.estimate.value);
  const ratios: number[] = [];
  for (const draw of samples) {
    const one = ours.reader.place(q, draw, candidate.weights(draw));
    const other = theirs.reader.place(q, draw, baseline.weights(draw));
    if (!one || !other) continue;
    const found = Math.log(valueAt(candidate.sides[0], one) / valueAt(baseline.sides[0], other));
    if (Number.isFinite(found)) ratios.push(found);
  }
  const alone = ours.least ** 2 + theirs.least ** 2;
  const chance = reach(minutes) * Math.sqrt(varianceOf(alone, variance(ratios), minutes));
  const low = Math.log(ours.estimate.low / theirs.estimate.high);
  const high = Math.log(ours.estimate.high / theirs.estimate.low);
  return {
    q,
    candidate: ours.estimate,
    baseline: theirs.estimate,
    change: {
      value: Math.exp(ratio) - 1,
      low: Number.isFinite(chance) ? Math.exp(low - chance) - 1 : -1,
      high: Math.exp(high + chance) - 1,
    },
    chance,
    buckets: Math.max(high - ratio, ratio - low),
  };
}
