import type { Percentile, Rung } from "./ladder";

/** The plain change of a release against the one before it: differences of what was seen, with no claim beyond. */
export interface Change {
  /** Relative change of the 95th percentile: 0.6 is 60 % more. */
  p95: number | null;
  /** Whether the buckets of the two leave open which is greater. */
  p95Open: boolean;
  /** Change of the share of failed calls, as a difference of shares. */
  errors: number | null;
}

/** Whether the true value of one may be less than that of the other. */
function mayLieBelow({ low }: Percentile, { high }: Percentile): boolean {
  return (low ?? Number.NEGATIVE_INFINITY) < (high ?? Number.POSITIVE_INFINITY);
}

export function changeBetween(candidate: Rung, before: Rung): Change {
  const [a, b] = [candidate.p95, before.p95];
  return {
    p95: a && b && b.value !== 0 ? a.value / b.value - 1 : null,
    p95Open: a !== null && b !== null && mayLieBelow(a, b) && mayLieBelow(b, a),
    errors: candidate.errors !== null && before.errors !== null ? candidate.errors - before.errors : null,
  };
}
