import { asItIs, compareQuantile, type Estimate, type Weighed } from "./latency";
import { compareLevels } from "./levels";
import { likeForLike, pooled, together, type ValueSides } from "./mix";
import { asSeen, type Draw } from "./resample";
import { compareFailures, splitOf } from "./shares";
import { type Side, sum } from "./side";
import { type Judged, judge } from "./verdict";

/** All that is said of two sides: latency, failures, throughput and how traffic is split, each with what chance leaves open. */

/** A figure between bounds; null: as low, or as high, as can be. */
export interface Told {
  value: number;
  low: number | null;
  high: number | null;
}

/** A change with its verdict, and what it takes to reach one. */
export interface ToldChange extends Told, Judged {
  /** Calls of the candidate that are missing at the present difference, and how long they take to come, ms. */
  needs: { calls: number; time: number } | null;
  /** Bounds of buckets with which it could be told; empty where buckets are not what is missing. */
  bounds: number[];
}

export interface ToldQuantile {
  q: number;
  candidate: Told;
  baseline: Told;
  change: ToldChange;
}

export interface ToldFailures {
  candidate: Told;
  baseline: Told;
  change: ToldChange;
}

/** What is not worth a word. */
export interface Tolerances {
  /** Of latency, relative. */
  latency: number;
  /** Of the share of failed calls, as a part of 1. */
  failures: number;
}

export const USUAL_TOLERANCES: Tolerances = { latency: 0.05, failures: 0.001 };
/** What is said of each release. */
export const QUANTILES = [0.5, 0.95, 0.99] as const;

/** Whatever its buckets, a share of traffic that is off by less is as it was meant, as a part of 1. */
const SPLIT_TOLERANCE = 0.02;

export function told({ value, low, high }: Estimate, least = Number.NEGATIVE_INFINITY): Told {
  const known = (bound: number) => (Number.isFinite(bound) ? bound : null);
  return { value, low: low <= least ? null : known(low), high: known(high) };
}

/** Steps between bounds that tell a change of the tolerance apart, around a value: a few to either side, of two figures. */
export function tellingBounds(value: number, tolerance: number): number[] {
  const round = (bound: number) => Number(bound.toPrecision(3));
  const steps = Array.from({ length: 9 }, (_, i) => round(value * (1 + tolerance / 2) ** (i - 3)));
  return [...new Set(steps)].filter((bound) => bound > 0);
}

interface Paced {
  calls: number;
  /** Calls a ms. */
  pace: number;
}

function needsOf({ times }: Judged, { calls, pace }: Paced): ToldChange["needs"] {
  if (times === null || pace <= 0) return null;
  const more = Math.max(1, Math.ceil((times - 1) * calls));
  return Number.isFinite(more) ? { calls: more, time: more / pace } : null;
}

function quantilesOf(
  candidate: Weighed,
  baseline: Weighed,
  samples: readonly Draw[],
  tolerance: number,
  paced: Paced,
): ToldQuantile[] {
  return QUANTILES.flatMap((q) => {
    const found = compareQuantile(candidate, baseline, q, samples);
    if (!found) return [];
    const judged = judge(found.change, tolerance, found.buckets);
    const bounds = judged.tooWide ? tellingBounds(found.baseline.value, tolerance) : [];
    const change = { ...told(found.change, -1), ...judged, needs: needsOf(judged, paced), bounds };
    return [{ q, candidate: told(found.candidate), baseline: told(found.baseline), change }];
  });
}

/** Latency and failures of two sides. */
export interface ToldCalls {
  latency: ToldQuantile[];
  failures: ToldFailures | null;
}

export interface ToldSplit extends Told {
  /** What it was meant to be; null: nothing was. */
  meant: number | null;
  verdict: "as meant" | "more than meant" | "less than meant" | "not enough yet" | null;
}

/** Two sides as they are. */
export interface Comparison extends ToldCalls {
  minutes: number;
  calls: { candidate: number; baseline: number };
  /** Calls a second while both are compared. */
  rates: { candidate: number; baseline: number };
  /** How their rates differ, relative. */
  throughput: Told | null;
  /** The candidate's part of all calls of the service, where both served at the same time. */
  split: ToldSplit | null;
}

/**
 * @param length of a minute, which may be several, ms
 * @param meant the part of the traffic that the candidate is meant to have; null: nothing is meant
 * @param all calls of all releases of the service, by minute; null where the two did not serve it at the same time
 */
export function compareSides(
  candidate: Side,
  baseline: Side,
  samples: readonly Draw[],
  {
    length,
    tolerances,
    meant,
    all,
  }: { length: number; tolerances: Tolerances; meant: number | null; all: Float64Array | null },
): Comparison {
  const { minutes } = candidate;
  const time = minutes * length;
  const calls = { candidate: sum(candidate.calls), baseline: sum(baseline.calls) };
  const paced = { calls: calls.candidate, pace: time > 0 ? calls.candidate / time : 0 };
  const failed = compareFailures(candidate, baseline, samples);
  const rate = compareLevels(candidate.calls, baseline.calls, asSeen(minutes), samples);
  return {
    minutes,
    calls,
    rates: { candidate: (calls.candidate / time) * 1000, baseline: (calls.baseline / time) * 1000 },
    latency: quantilesOf(asItIs(candidate), asItIs(baseline), samples, tolerances.latency, paced),
    failures: failed && toldFailures(failed, tolerances.failures, paced),
    throughput: rate?.relative ? told(rate.change, -1) : null,
    split: all && toldSplit(splitOf(candidate.calls, all, samples), meant),
  };
}

function toldFailures(
  found: NonNullable<ReturnType<typeof compareFailures>>,
  tolerance: number,
  paced: Paced,
): ToldFailures {
  const judged = judge(found.change, tolerance);
  const change = { ...told(found.change), ...judged, needs: needsOf(judged, paced), bounds: [] };
  return { candidate: told(found.candidate), baseline: told(found.baseline), change };
}

function toldSplit(actual: Estimate | null, meant: number | null): ToldSplit | null {
  if (!actual) return null;
  const verdict = () => {
    if (meant === null) return null;
    if (actual.low > meant + SPLIT_TOLERANCE) return "more than meant" as const;
    if (actual.high < meant - SPLIT_TOLERANCE) return "less than meant" as const;
    const inside = actual.low >= meant - SPLIT_TOLERANCE && actual.high <= meant + SPLIT_TOLERANCE;
    return inside ? ("as meant" as const) : ("not enough yet" as const);
  };
  return { ...told(actual), meant, verdict: verdict() };
}

/** Two sides after both were given the baseline's mix of an attribute's values. */
export interface AlikeComparison extends ToldCalls {
  /** Values that count by themselves; what is put together counts as one. */
  values: number;
}

/** @param values of one attribute, both sides each @returns null where no value has calls on both sides */
export function compareAlike(
  values: readonly ValueSides[],
  samples: readonly Draw[],
  { length, tolerances }: { length: number; tolerances: Tolerances },
): AlikeComparison | null {
  const shared = pooled(values).filter(
    ({ candidate, baseline }) => sum(candidate.calls) > 0 && sum(baseline.calls) > 0,
  );
  if (shared.length === 0) return null;
  const candidate = likeForLike(shared);
  const theirs = together(shared.map(({ baseline }) => baseline));
  const baseline = asItIs(theirs);
  const calls = shared.reduce((total, { candidate: side }) => total + sum(side.calls), 0);
  const time = theirs.minutes * length;
  const paced = { calls, pace: time > 0 ? calls / time : 0 };
  const failed = compareFailures(candidate, baseline, samples);
  return {
    values: shared.length,
    latency: quantilesOf(candidate, baseline, samples, tolerances.latency, paced),
    failures: failed && toldFailures(failed, tolerances.failures, paced),
  };
}
