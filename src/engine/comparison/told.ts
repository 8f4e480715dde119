import type { ComparisonAnswer } from "@/core/api/comparison";
import { type Explanation, explain } from "@/core/compare/explain";
import type { ValueSides } from "@/core/compare/mix";
import type { Draw } from "@/core/compare/resample";
import { type Edges, intervalsOf, minutesOf, type Side, sum } from "@/core/compare/side";
import type { Interval } from "@/core/histogram/intervals";
import { quantile } from "@/core/histogram/quantile";
import type { BothEdges, ComparedCalls } from "@/core/reading/comparing/comparedCalls";
import { heatOf, logAxis } from "@/core/reading/ladder";
import { attributesOf } from "@/core/reading/language/needs";
import { parseCondition } from "@/core/reading/language/parse";

/** Parts of what is told of two releases, out of the calls of both. */

type Answer = ComparisonAnswer;

const P95 = 0.95;
/** A changed mix is looked into where it moves so much of the change, or so much of all calls. */
const MUCH_MIX = { part: 0.2, calls: 0.005 };

/**
 * The bound that is nearest to a value, of those that both sides have: calls above it are counted, and not interpolated.
 * Where they have none in common, the value itself.
 */
export function nearestEdge({ candidate, baseline }: BothEdges, value: number): number {
  const knownOf = ({ bounds, known }: Edges) => Array.from(bounds).filter((_, i) => known[i] === 1);
  const ours = new Set(knownOf(candidate));
  const possible = knownOf(baseline).filter((edge) => edge > 0 && Number.isFinite(edge) && ours.has(edge));
  const far = (edge: number) => Math.abs(Math.log(edge / value));
  return possible.reduce((best, edge) => (far(edge) < far(best) ? edge : best), possible[0] ?? value);
}

export function chosenMinutes(calls: ComparedCalls, minutes: readonly number[]): ComparedCalls {
  const pick = (column: Float64Array) => Float64Array.from(minutes, (minute) => column[minute]);
  const tuples = (all: ComparedCalls["slow"]) =>
    all.map(({ values, candidate, baseline }) => ({
      values,
      candidate: { calls: pick(candidate.calls), hits: pick(candidate.hits) },
      baseline: { calls: pick(baseline.calls), hits: pick(baseline.hits) },
    }));
  return {
    ...calls,
    candidate: minutesOf(calls.candidate, minutes),
    baseline: minutesOf(calls.baseline, minutes),
    slow: tuples(calls.slow),
    failed: tuples(calls.failed),
  };
}

export function shapes(candidate: readonly Interval[], baseline: readonly Interval[]) {
  const axis = logAxis([...candidate, ...baseline]);
  return { axis, candidate: heatOf(candidate, axis), baseline: heatOf(baseline, axis) };
}

export function valueRow({ value, candidate, baseline }: ValueSides): Answer["values"][number] {
  const p95 = (side: Side) => quantile(intervalsOf(side), 0.95)?.value ?? null;
  const errors = (side: Side) => (sum(side.calls) > 0 ? sum(side.failed) / sum(side.calls) : null);
  return {
    value,
    calls: { candidate: sum(candidate.calls), baseline: sum(baseline.calls) },
    p95: { candidate: p95(candidate), baseline: p95(baseline) },
    errors: { candidate: errors(candidate), baseline: errors(baseline) },
  };
}

/** The attribute whose mix changed most, where that moves much. */
export function changedMix(slow: Explanation | null): string | null {
  const most = slow?.attributes.reduce<Explanation["attributes"][number] | null>(
    (best, one) => (best === null || one.mix > best.mix ? one : best),
    null,
  );
  if (!slow || !most) return null;
  return most.mix > Math.max(MUCH_MIX.calls, MUCH_MIX.part * Math.abs(slow.whole)) ? most.attribute : null;
}

export function verdictsOf(calls: Pick<NonNullable<Answer["found"]>, "latency" | "failures">): string {
  const p95 = calls.latency.find(({ q }) => q === P95);
  return JSON.stringify([p95?.change.verdict, calls.failures?.change.verdict]);
}

/** Attributes that say how a call failed explain nothing of how many did. */
export function explainFailures(
  calls: ComparedCalls,
  failed: string,
  seen: Draw,
  samples: readonly Draw[],
): Explanation | null {
  const outcome = new Set(attributesOf(parseCondition(failed)));
  const places = [...calls.attributes.keys()].filter((place) => !outcome.has(calls.attributes[place]));
  const tuples = calls.failed.map((tuple) => ({ ...tuple, values: places.map((place) => tuple.values[place]) }));
  return explain(
    tuples,
    places.map((place) => calls.attributes[place]),
    seen,
    samples,
  );
}
