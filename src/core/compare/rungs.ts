import { type Tolerances, told, USUAL_TOLERANCES } from "./comparison";
import { asItIs, compareQuantile } from "./latency";
import { draws } from "./resample";
import { compareFailures } from "./shares";
import { minutesOf, type Side, sharedMinutes } from "./side";
import { type Judged, judge } from "./verdict";

/** How a release of the ladder does against another one. */
export interface RungChange {
  /** The release that it is held against. */
  against: string | null;
  /** Whether both served at the same time, or one after the other. */
  way: "side by side" | "before and after";
  /** How much time of each is compared, ms. */
  time: number;
  /** The p95 of calls, relative: 0.1 is 10 % more. */
  latency: JudgedChange | null;
  /** The share of failed calls, as a difference of parts of 1. */
  failures: JudgedChange | null;
}

export interface JudgedChange extends Judged {
  value: number;
  /** null: as low, or as high, as can be. */
  low: number | null;
  high: number | null;
}

const QUANTILE = 0.95;
/** Fewer minutes in common are no comparison side by side. */
const LEAST_SHARED = 8;
const RESAMPLES = 400;
/** The same window is always told the same. */
const SEED = 1;

/** The minutes of both sides that are held against each other: those in common, else as many before as there were after. */
function paired(candidate: Side, baseline: Side): { way: RungChange["way"]; sides: [Side, Side] } {
  const shared = sharedMinutes(candidate, baseline);
  if (shared.length >= LEAST_SHARED)
    return { way: "side by side", sides: [minutesOf(candidate, shared), minutesOf(baseline, shared)] };
  const busy = ({ calls }: Side) => Array.from(calls.keys()).filter((minute) => calls[minute] > 0);
  const after = busy(candidate);
  const before = busy(baseline).filter((minute) => after.length === 0 || minute < after[0]);
  const length = Math.min(after.length, before.length);
  return {
    way: "before and after",
    sides: [minutesOf(candidate, after.slice(0, length)), minutesOf(baseline, before.slice(before.length - length))],
  };
}

/**
 * Judges a release against another one, over minutes of the same window. `prepareDistributions` was awaited before.
 *
 * @param length of a minute, which may be several, ms
 * @returns null where there is nothing to hold it against
 */
export function judgeRung(
  candidate: Side | undefined,
  baseline: Side | undefined,
  against: string | null,
  length: number,
  tolerances: Tolerances = USUAL_TOLERANCES,
): RungChange | null {
  if (!candidate || !baseline) return null;
  const {
    way,
    sides: [ours, theirs],
  } = paired(candidate, baseline);
  if (ours.minutes === 0) return null;
  const samples = draws(ours.minutes, RESAMPLES, SEED);
  const latency = compareQuantile(asItIs(ours), asItIs(theirs), QUANTILE, samples);
  const failures = compareFailures(ours, theirs, samples);
  return {
    against,
    way,
    time: ours.minutes * length,
    latency: latency && {
      ...told(latency.change, -1),
      ...judge(latency.change, tolerances.latency, latency.buckets),
    },
    failures: failures && { ...told(failures.change), ...judge(failures.change, tolerances.failures) },
  };
}
