import type { InstanceEntry } from "@/core/api/services";
import { silence } from "@/core/service/silence";
import type { Vital } from "@/core/service/vitals";

/** The rows of the list of services: instances in groups, sorted. */

export interface InstanceRow extends InstanceEntry {
  /** For how long it has been silent, ms; 0 while it reports. */
  silent: number;
  vitals: Partial<Record<Vital, number>>;
}

export const SORTS = ["name", "silence", "points", "series", "memory", "processor", "garbage"] as const;
export type Sort = (typeof SORTS)[number];

/** Larger comes first; a name sorts by itself. */
function weight(row: InstanceRow, sort: Sort): number {
  switch (sort) {
    case "silence":
      return row.silent;
    case "points":
      return row.pointsPerMinute;
    case "series":
      return row.series;
    case "name":
      return 0;
    default:
      return row.vitals[sort] ?? -1;
  }
}

function nameOf({ service, environment, release, instance }: InstanceRow): string {
  return [service, environment, release, instance].join("\u0001");
}

function compare(sort: Sort): (a: InstanceRow, b: InstanceRow) => number {
  return (a, b) => weight(b, sort) - weight(a, sort) || nameOf(a).localeCompare(nameOf(b), "en", { numeric: true });
}

export interface InstanceGroup {
  /** The value that its rows share. */
  name: string;
  rows: InstanceRow[];
  silent: number;
  pointsPerMinute: number;
  series: number;
}

/** What a row is grouped under. */
export function groupValue(row: InstanceEntry, by: string): string {
  if (by === "service.name") return row.service;
  if (by === "service.version") return row.release;
  return row.attributes[by] ?? "";
}

/** Instances of one release in one environment. */
export interface ReleaseRows {
  service: string;
  release: string;
  environment: string;
  rows: InstanceRow[];
}

/** So many instances of one release are shown one by one; more stand in one row that opens. */
export const MAX_UNFOLDED = 4;

/**
 * The rows of a group by release. Those that report come first; instances of releases that nobody serves any more stand
 * apart. Where nobody reports at all, what was heard last counts as served: it is what has fallen silent.
 */
export function byRelease({ rows }: InstanceGroup): { served: ReleaseRows[]; past: InstanceRow[] } {
  const releases = new Map<string, ReleaseRows>();
  for (const row of rows) {
    const { service, release, environment } = row;
    const key = JSON.stringify([service, environment, release]);
    const found = releases.get(key);
    if (found) found.rows.push(row);
    else releases.set(key, { service, release, environment, rows: [row] });
  }
  const reporting = (one: ReleaseRows) => one.rows.some(({ silent }) => silent === 0);
  const all = [...releases.values()];
  const served = all.filter(reporting);
  if (served.length === 0) {
    const lastAt = (one: ReleaseRows) => Math.max(...one.rows.map((row) => row.lastAt));
    served.push(all.reduce((last, one) => (lastAt(one) > lastAt(last) ? one : last)));
  }
  const past = all.filter((one) => !served.includes(one)).flatMap((one) => one.rows);
  for (const one of served) one.rows.sort((a, b) => Number(a.silent > 0) - Number(b.silent > 0));
  return { served, past };
}

/** Rows in groups by a resource attribute; groups in the order of their first rows. */
export function groupsOf(rows: readonly InstanceRow[], by: string, sort: Sort): InstanceGroup[] {
  const groups = new Map<string, InstanceGroup>();
  for (const row of [...rows].sort(compare(sort))) {
    const name = groupValue(row, by);
    let group = groups.get(name);
    if (!group) {
      group = { name, rows: [], silent: 0, pointsPerMinute: 0, series: 0 };
      groups.set(name, group);
    }
    group.rows.push(row);
    group.silent += row.silent > 0 ? 1 : 0;
    group.pointsPerMinute += row.pointsPerMinute;
    group.series += row.series;
  }
  const list = [...groups.values()];
  return sort === "name" ? list.sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true })) : list;
}

/** An instance with what is known of it now. */
export function rowOf(entry: InstanceEntry, vitals: InstanceRow["vitals"], now: number): InstanceRow {
  return { ...entry, silent: silence(entry, now), vitals };
}
