import type { Attributes } from "@/core/metric/model";
import { originOf } from "@/core/metric/origin";
import {
  latestReports,
  MAX_REPORTS,
  type Reports,
  releaseKey,
  type SettledReleases,
  settledTo,
} from "@/core/reading/settled";
import { HOUR } from "@/core/window/lengths";
import { RAW } from "@/store/database/partitions";
import type { UsedStrip } from "./collect";

/** When the instances that report into a reading last did, from the strips that it opened. */

/** Strips that end longer ago say nothing of who is awaited now, ms. */
export const LOOK_BACK = 2 * HOUR;

const instances = new WeakMap<Attributes, string>();

/** The instance that a series is of, as a text that is equal for equal ones. */
function instanceKey(attributes: Attributes): string {
  let key = instances.get(attributes);
  if (key === undefined) {
    key = releaseKey(attributes) + originOf(attributes).instance;
    instances.set(attributes, key);
  }
  return key;
}

/** The latest few moments of a clock. */
function latestOf({ ms, count, rising }: UsedStrip["cached"]["strip"]["clocks"][number]): number[] {
  const all = rising ? ms : ms.slice().sort();
  const latest: number[] = [];
  for (let i = count - 1; i >= 0 && latest.length < MAX_REPORTS; i--)
    if (all[i] !== latest[latest.length - 1]) latest.push(all[i]);
  return latest.reverse();
}

/** When each instance of a strip reported last. */
function inStrip(
  { cached }: UsedStrip,
  attributesOf: (series: number) => Attributes | undefined,
): Map<string, Reports> {
  const found = new Map<string, Reports>();
  const note = (series: number, times: readonly number[]) => {
    const attributes = attributesOf(series);
    if (!attributes) return;
    const instance = instanceKey(attributes);
    found.set(instance, latestReports(found.get(instance) ?? [], times));
  };
  const { strip } = cached;
  // Series that are exported together share a clock: it says nothing new of an instance a second time.
  const seen = new Set<string>();
  for (let entry = 0; entry < strip.entries; entry++) {
    const series = strip.series[entry];
    if (series === 0) {
      const { series: all, timeMs, count } = cached.acrossSeries(entry);
      const times = new Map<string, { series: number; moments: Set<number> }>();
      let instance = "";
      for (let row = 0; row < count; row++) {
        const attributes = attributesOf(all[row]);
        if (!attributes) continue;
        const other = instanceKey(attributes);
        // What came in one request stands together.
        if (other === instance && timeMs[row] === timeMs[row - 1]) continue;
        instance = other;
        const known = times.get(instance);
        if (known) known.moments.add(timeMs[row]);
        else times.set(instance, { series: all[row], moments: new Set([timeMs[row]]) });
      }
      for (const { series: one, moments } of times.values())
        note(one, [...moments].sort((a, b) => a - b).slice(-MAX_REPORTS));
      continue;
    }
    const attributes = attributesOf(series);
    if (!attributes) continue;
    const key = `${strip.timeOf[entry]} ${instanceKey(attributes)}`;
    if (seen.has(key)) continue;
    seen.add(key);
    note(series, latestOf(strip.clocks[strip.timeOf[entry]]));
  }
  return found;
}

/**
 * The reports of the instances of the releases that some series are of, by release; also of those instances that have none
 * of these series yet: a counter of failures is not late because nothing fails.
 *
 * @param now Unix ms
 */
export function reportsOf(
  strips: readonly UsedStrip[],
  attributes: ReadonlyMap<number, Attributes>,
  wanted: ReadonlySet<number>,
  now: number,
): Map<string, Reports[]> {
  const recent = strips.filter(({ note }) => note.resolution === RAW && note.to >= now - LOOK_BACK);
  if (recent.length === 0) return new Map();
  const releases = new Set<string>();
  for (const id of wanted) releases.add(releaseKey(attributes.get(id)!));
  const releaseOf = new Map<string, string>();
  for (const one of attributes.values()) releaseOf.set(instanceKey(one), releaseKey(one));
  const found = new Map<string, Reports>();
  for (const used of recent) {
    const inside = used.cached.reports(() => inStrip(used, (id) => attributes.get(id)));
    for (const [instance, reports] of inside) found.set(instance, latestReports(found.get(instance) ?? [], reports));
  }
  const byRelease = new Map<string, Reports[]>();
  for (const [instance, reports] of found) {
    const release = releaseOf.get(instance) ?? "";
    if (releases.has(release)) byRelease.set(release, [...(byRelease.get(release) ?? []), reports]);
  }
  return byRelease;
}

/** Up to when each release is settled that series of a reading are of. */
export function settledReleases(...asked: Parameters<typeof reportsOf>): SettledReleases {
  const now = asked[3];
  return new Map([...reportsOf(...asked)].map(([release, all]) => [release, settledTo(all, now)]));
}
