/** The services that report, as the API gives them. Times in Unix ms. */

/** One instance of a release of a service. */
export interface InstanceEntry {
  service: string;
  release: string;
  environment: string;
  instance: string;
  /** What else its resource says. */
  attributes: Record<string, string>;
  firstAt: number;
  lastAt: number;
  /** How long it usually is from one report to the next, ms; null where that is not known yet. */
  every: number | null;
  /** Points in the last full minute. */
  pointsPerMinute: number;
  /** Points ever received. */
  points: number;
  series: number;
}

/** Longest that it takes until a report shows here, ms. */
const DELAY = 2500;
/** Reports that may be missing before an instance counts as silent. */
const MISSING = 3;

/** For how long an instance has been silent, ms; 0 while it reports as usual. */
export function silence({ lastAt, every }: Pick<InstanceEntry, "lastAt" | "every">, now: number): number {
  const quiet = now - lastAt;
  return quiet > MISSING * (every ?? 60_000) + DELAY ? quiet : 0;
}

/** A metric of a service, with the attributes that its points have there. */
export interface ServiceMetric {
  name: string;
  kind: string;
  unit: string;
  monotonic: boolean;
  attributes: string[];
}
