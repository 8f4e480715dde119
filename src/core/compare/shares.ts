import { asItIs, type Estimate, type Weighed } from "./latency";
import { variance } from "./moments";
import { asSeen, type Draw } from "./resample";
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
  return { value, low: Math.max(0, middle - half), high: Math.min(1, middle + half) };
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

function count(hits: Float64Array, of: Float64Array, { minutes, times }: Draw): Counted {
  let [some, all] = [0, 0];
  for (let i = 0; i < minutes.length; i++) {
    some += times[i] * hits[minutes[i]];
    all += times[i] * of[minutes[i]];
  }
  return { hits: some, of: all };
}

/** How many times as much a figure varies as it would if each call came by itself: failures come in bursts. */
function burst(own: number, sampled: number, minutes: number): number {
  const times = own > 0 ? varianceOf(own, sampled, minutes) / own : 1;
  return Number.isFinite(times) ? times : 1;
}

const alone = ({ hits, of }: Counted) => (of > 0 ? (hits * (of - hits)) / of ** 3 : 0);

/** Failed calls and all calls of a sample, each part with its weight. */
function weighedCount({ sides, weights }: Weighed, draw: Draw): Counted {
  const all = weights(draw);
  return sides.reduce<Counted>(
    (total, { failed, calls }, place) => {
      const own = count(failed, calls, draw);
      return { hits: total.hits + all[place] * own.hits, of: total.of + all[place] * own.of };
    },
    { hits: 0, of: 0 },
  );
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
  const ours = weighedCount(candidate, seen);
  const theirs = weighedCount(baseline, seen);
  if (ours.of <= 0 || theirs.of <= 0) return null;
  const differences = samples.flatMap((draw) => {
    const now = weighedCount(candidate, draw);
    const then = weighedCount(baseline, draw);
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
  const seen = count(calls, all, asSeen(calls.length));
  if (seen.of <= 0) return null;
  const shares = samples.map((draw) => count(calls, all, draw)).map(({ hits, of }) => hits / of);
  const times = burst(alone(seen), variance(shares.filter(Number.isFinite)), calls.length);
  return wilson(seen.hits / times, seen.of / times, reach(calls.length));
}
