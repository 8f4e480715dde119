import type { Weighed } from "./latency";
import { type Draw, MinuteColumn } from "./resample";
import { type Side, sum } from "./side";

/** Both sides of one value of an attribute. */
export interface ValueSides {
  /** null: calls without the attribute. */
  value: string | null;
  candidate: Side;
  baseline: Side;
}

/** Values with fewer calls than this on a side say too little by themselves. */
const LEAST_CALLS = 50;
export const THE_REST = "the rest";

/** Sides with the same edges as one. */
export function together(sides: readonly Side[]): Side {
  const [first] = sides;
  const add = (of: (side: Side) => Float64Array) => {
    const total = new Float64Array(of(first).length);
    for (const own of sides.map(of)) for (let i = 0; i < total.length; i++) total[i] += own[i];
    return total;
  };
  return {
    ...first,
    logarithmic: sides.every(({ logarithmic }) => logarithmic),
    below: add(({ below }) => below),
    calls: add(({ calls }) => calls),
    failed: add(({ failed }) => failed),
  };
}

/** Values with few calls on either side as one: the rest. All have the same edges. */
export function pooled(values: readonly ValueSides[]): ValueSides[] {
  const isSmall = ({ candidate, baseline }: ValueSides) =>
    sum(candidate.calls) < LEAST_CALLS || sum(baseline.calls) < LEAST_CALLS;
  const small = values.filter(isSmall);
  if (small.length === 0) return [...values];
  return [
    ...values.filter((one) => !isSmall(one)),
    {
      value: THE_REST,
      candidate: together(small.map(({ candidate }) => candidate)),
      baseline: together(small.map(({ baseline }) => baseline)),
    },
  ];
}

/**
 * Like for like: the candidate's calls of each value counted as often as the baseline has them, so that a changed mix
 * changes nothing. What the baseline has none of is left out.
 */
export function likeForLike(values: readonly ValueSides[]): Weighed {
  const logarithmic = values.every(({ candidate }) => candidate.logarithmic);
  const counts = values.map(({ candidate, baseline }) => ({
    own: new MinuteColumn(candidate.calls),
    wanted: new MinuteColumn(baseline.calls),
  }));
  const known = new WeakMap<Draw, Float64Array>();
  const weigh = (draw: Draw) => {
    const weights = new Float64Array(counts.length);
    counts.forEach(({ own, wanted }, place) => {
      const calls = own.sum(draw);
      weights[place] = calls > 0 ? wanted.sum(draw) / calls : 0;
    });
    return weights;
  };
  return {
    sides: values.map(({ candidate }) => ({ ...candidate, logarithmic })),
    weights: (draw) => {
      const found = known.get(draw) ?? weigh(draw);
      known.set(draw, found);
      return found;
    },
  };
}

/** What a value of an attribute adds to a change of a share. Parts of 1. */
export interface Part {
  value: string;
  /** From its own calls having another share. */
  within: number;
  /** From there being more or fewer of its calls. */
  mix: number;
}

/** Calls of a value on both sides, and of these those that count (slow ones, failed ones). */
export interface ValueCounts {
  value: string;
  candidate: { hits: number; calls: number };
  baseline: { hits: number; calls: number };
}

/** Of both sides all calls, and the share that counts. */
export interface PartTotals {
  candidate: { calls: number; share: number };
  baseline: { calls: number; share: number };
  change: number;
}

/** @returns null where a side has no calls */
export function totalsOf({ candidate, baseline }: ValueCounts): PartTotals | null {
  if (candidate.calls <= 0 || baseline.calls <= 0) return null;
  const [now, then] = [candidate.hits / candidate.calls, baseline.hits / baseline.calls];
  return {
    candidate: { calls: candidate.calls, share: now },
    baseline: { calls: baseline.calls, share: then },
    change: now - then,
  };
}

/**
 * Splits the change of a share into what came from within a value and what from the changed mix; over all values of an
 * attribute they add up to the whole (Kitagawa, "Components of a difference between two rates", 1955). A value's part of
 * the mix is told against the share of all calls, so that more of what is no worse than the rest adds nothing.
 */
export function partOf({ value, candidate, baseline }: ValueCounts, totals: PartTotals): Part {
  const share = ({ hits, calls }: { hits: number; calls: number }) => (calls > 0 ? hits / calls : null);
  const usual = (totals.candidate.share + totals.baseline.share) / 2;
  const [weight, before] = [candidate.calls / totals.candidate.calls, baseline.calls / totals.baseline.calls];
  // A value that one side has not got has no share of its own there: all of its part is mix.
  const now = share(candidate) ?? share(baseline) ?? usual;
  const then = share(baseline) ?? now;
  return {
    value,
    within: ((weight + before) / 2) * (now - then),
    mix: (weight - before) * ((now + then) / 2 - usual),
  };
}

/** The parts of all values of an attribute. */
export function partsOf(values: readonly ValueCounts[]): Part[] {
  const all = (side: "candidate" | "baseline") => ({
    hits: values.reduce((total, value) => total + value[side].hits, 0),
    calls: values.reduce((total, value) => total + value[side].calls, 0),
  });
  const totals = totalsOf({ value: "", candidate: all("candidate"), baseline: all("baseline") });
  return totals ? values.map((value) => partOf(value, totals)) : [];
}
