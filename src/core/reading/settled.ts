import type { Attributes } from "../metric/model";
import { originOf } from "../metric/origin";

/**
 * The fresh end of readings. Instances report one after the other, so the last steps of a live window hold less than
 * they will: a rate drawn to the very end always falls there. A reading is *settled* up to the moment past which nobody
 * is awaited: every instance that reports into it has reported, or is late by more than three of its usual intervals and
 * taken for gone.
 */

/** Usual intervals after which an instance that is silent is not awaited any more. */
const LATE = 3;
/** The interval of an instance of which one report is known, ms, where no other instance says better. */
const DEFAULT_INTERVAL = 60_000;
/** Reports of an instance that are looked at to know its interval. */
export const MAX_REPORTS = 16;

/** The moments at which one instance reported, Unix ms, ascending; the latest few are enough. */
export type Reports = readonly number[];

/** The usual interval between an instance's reports, ms: the median; 0 where one report is known. */
export function usualInterval(reports: Reports): number {
  const gaps = reports.slice(1).map((time, i) => time - reports[i]);
  gaps.sort((a, b) => a - b);
  return gaps[gaps.length >> 1] ?? 0;
}

/**
 * Up to when a reading is settled that these instances report into, Unix ms; Infinity where none is awaited.
 *
 * @param now when it is asked, Unix ms
 */
export function settledTo(instances: Iterable<Reports>, now: number): number {
  const all = [...instances].filter((reports) => reports.length > 0);
  const known = all.map(usualInterval);
  const longest = known.reduce((most, interval) => Math.max(most, interval), 0) || DEFAULT_INTERVAL;
  let settled = Number.POSITIVE_INFINITY;
  all.forEach((reports, i) => {
    const last = reports[reports.length - 1];
    if (now - last <= LATE * (known[i] || longest)) settled = Math.min(settled, last);
  });
  return settled;
}

/** The latest few of two lists of moments, ascending, each once. */
export function latestReports(a: Reports, b: Reports): Reports {
  if (b.length === 0) return a;
  return [...new Set([...a, ...b])].sort((x, y) => x - y).slice(-MAX_REPORTS);
}

const releases = new WeakMap<Attributes, string>();

/** The release that a series is of, as a text that is equal for equal ones. */
export function releaseKey(attributes: Attributes): string {
  let key = releases.get(attributes);
  if (key === undefined) {
    const { service, environment, release } = originOf(attributes);
    key = JSON.stringify([service, environment, release]);
    releases.set(attributes, key);
  }
  return key;
}

/** Up to when each release is settled, by {@link releaseKey}. */
export type SettledReleases = ReadonlyMap<string, number>;

/** Up to when series are settled together: the releases that they are of. */
export function settledTogether(settled: SettledReleases | undefined, series: Iterable<Attributes>): number {
  let together = Number.POSITIVE_INFINITY;
  if (settled && settled.size > 0)
    for (const attributes of series)
      together = Math.min(together, settled.get(releaseKey(attributes)) ?? Number.POSITIVE_INFINITY);
  return together;
}
