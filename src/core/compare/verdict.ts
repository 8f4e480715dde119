import type { Estimate } from "./latency";

/** What can be said of a measure. */
export type Verdict = "worse" | "better" | "same" | "not enough yet";

export interface Judged {
  verdict: Verdict;
  /** How many times as many calls as so far would settle it at the present difference; null where it is settled. */
  times: number | null;
  /** Whether no number of calls would: the buckets leave more open than there is to decide. */
  tooWide: boolean;
}

/**
 * Judges a change: it is worse or better when its whole interval lies beyond the tolerance, the same when the whole of it
 * lies inside, and else there is not enough yet.
 *
 * @param change with its interval, which is as wide as chance and buckets leave it open
 * @param tolerance what is not worth a word, in the unit of the change
 * @param buckets how much of the interval to either side comes from buckets; more calls do not make it less
 * @param worse whether more or less of it is worse
 */
export function judge(change: Estimate, tolerance: number, buckets = 0, worse: "more" | "less" = "more"): Judged {
  const settled = (verdict: Verdict): Judged => ({ verdict, times: null, tooWide: false });
  if (change.low > tolerance) return settled(worse === "more" ? "worse" : "better");
  if (change.high < -tolerance) return settled(worse === "more" ? "better" : "worse");
  if (change.low >= -tolerance && change.high <= tolerance) return settled("same");
  // Chance gets less with the root of the calls; what is left of the way to the tolerance is what it may be.
  const far = Math.abs(Math.abs(change.value) - tolerance) - buckets;
  const chance = Math.max(change.high - change.value, change.value - change.low) - buckets;
  const tooWide = far <= 0;
  return {
    verdict: "not enough yet",
    times: tooWide || !Number.isFinite(chance) ? null : (chance / far) ** 2,
    tooWide: tooWide && buckets > 0,
  };
}
