import { asItIs, type Estimate, type Weighed } from "./latency";
import { variance } from "./moments";
import { asSeen, type Draw, MinuteColumn } from "./resample";
import { reach, varianceOf } from "./sequence";
import type { Side } from "./side";

/** How the share of failed calls differs. Shares and differences are parts of 1. */
export interface ShareChange {
  candidate: Estimate;
  baseline: Estimate;
  change: Estimate;
}

/**
 * Bounds of a share (Wilson, "Probable inference, the law of succession, and statistical inference", 1927): where the
 * share that was seen is just `z` standard errors of the true one away.
 */
export function wilson(hits: number, of: number, z: number): Estimate {
  if (of <= 0 || !Number.isFinite(z)) return { value: of > 0 ? hits / of : 0, low: 0, high: 1 };
  const value = hits / of;
  const square = z * z;
  const middle = (hits + square / 2) / (of + square);
  const half = (z / (of + square)) * Math.sqrt((hits * (of - hits)) / of + square / 4);
  // Of none, and of all, one side is known: rounding would leave next to nothing there.
  return {
    value,
    low: hits <= 0 ? 0 : Math.max(0, middle - half),
    high: hits >= of ? 1 : Math.min(1, middle + half),
  };
}

/**
 * Bounds of the difference of two shares from those of each (Newcombe, "Interval estimation for the difference between
 * independent proportions", 1998, method 10).
 */
export function newcombe(one: Estimate, other: Estimate): Estimate {
  const value = one.value - other.value;
  return {
    value,
    low: value - Math.hypot(one.value - one.low, other.high - other.value),
    high: value + Math.hypot(one.high - one.value, other.value - other.low),
  };
}

interface Counted {
  hits: number;
  of: number;
}

/** Counts those that count, and all, over samples. */
function counter(hits: Float64Array, of: Float64Array): (draw: Draw) => Counted {
  const [some, all] = [new MinuteColumn(hits), new MinuteColumn(of)];
  return (draw) => ({ hits: some.sum(draw), of: all.sum(draw) });
}

/** How many times as much a figure varies as it would if each call came by itself: failures come in bursts. */
function burst(own: number, sampled: number, minutes: number): number {
  const times = own > 0 ? varianceOf(own, sampled, minutes) / own : 1;
  return Number.isFinite(times) ? times : 1;
}

const alone = ({ hits, of }: Counted) => (of > 0 ? (hits * (of - hits)) / of ** 3 : 0);

/** Counts failed calls and all calls over samples, each part with its weight. */
function weighedCounter({ sides, weights }: Weighed): (draw: Draw) => Counted {
  const counters = sides.map(({ failed, calls }) => counter(failed, calls));
  return (draw) => {
    const all = weights(draw);
    const total = { hits: 0, of: 0 };
    counters.forEach((count, place) => {
      const own = count(draw);
      total.hits += all[place] * own.hits;
      total.of += all[place] * own.of;
    });
    return total;
  };
}

/**
 * The share of failed calls on both sides, and their difference.
 *
 * @param one a side as it is, or its values with their weights
 * @returns null where a side had no calls
 */
export function compareFailures(
  one: Side | Weighed,
  other: Side | Weighed,
  samples: readonly Draw[],
): ShareChange | null {
  const [candidate, baseline] = [one, other].map((side) => ("sides" in side ? side : asItIs(side)));
  const { minutes } = baseline.sides[0];
  const seen = asSeen(minutes);
  const [countOurs, countTheirs] = [weighedCounter(candidate), weighedCounter(baseline)];
  const ours = countOurs(seen);
  const theirs = countTheirs(seen);
  if (ours.of <= 0 || theirs.of <= 0) return null;
  const differences = samples.flatMap((draw) => {
    const now = countOurs(draw);
    const then = countTheirs(draw);
    return now.of > 0 && then.of > 0 ? [now.hits / now.of - then.hits / then.of] : [];
  });
  const times = burst(alone(ours) + alone(theirs), variance(differences), minutes);
  const z = reach(minutes);
  // As many calls as would vary by so much, were each by itself.
  const bounds = ({ hits, of }: Counted) => wilson(hits / times, of / times, z);
  return { candidate: bounds(ours), baseline: bounds(theirs), change: newcombe(bounds(ours), bounds(theirs)) };
}

/**
 * The part of a service's calls that a release had: the actual split of traffic.
 *
 * @param all calls of all releases, by minute
 * @returns null without calls
 */
export function splitOf(calls: Float64Array, all: Float64Array, samples: readonly Draw[]): Estimate | null {
  const count = counter(calls, all);
  const seen = count(asSeen(calls.length));
  if (seen.of <= 0) return null;
  const shares = samples.map(count).map(({ hits, of }) => hits / of);
  const times = burst(alone(seen), variance(shares.filter(Number.isFinite)), calls.length);
  return wilson(seen.hits / times, seen.of / times, reach(calls.length));
}
