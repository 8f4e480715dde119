import type { PointSet } from "../../metric/model";
import { originOf } from "../../metric/origin";
import type { SideSource } from "./comparedCalls";

/** How often the processes of a release were started again, as the starts of their running counts tell. */

export interface Restarts {
  /** Starts within the minutes that are compared, but for each instance's first. */
  count: number;
  /** Hours that instances reported for, all together. */
  hours: number;
}

const HOUR = 3_600_000;

/** Starts that lie nearer together are one: clients round, ms. */
const SAME = 1000;

/** What a series tells of the process that wrote it, within a span. */
interface Told {
  /** The starts of its points, the earliest first, each once. */
  starts: number[];
  first: number;
  last: number;
}

function toldBy(parts: readonly PointSet[], from: number, to: number): Told | null {
  const starts: number[] = [];
  let [first, last] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const { startMs, timeMs, count } of parts)
    for (let row = 0; row < count; row++) {
      const [start, time] = [startMs[row], timeMs[row]];
      if (start === 0 || time <= from || time > to) continue;
      // Since when it counts, it ran.
      first = Math.min(first, Math.max(from, start));
      last = Math.max(last, time);
      if (!starts.some((other) => Math.abs(other - start) < SAME)) starts.push(start);
    }
  return starts.length > 0 ? { starts: starts.sort((a, b) => a - b), first, last } : null;
}

/**
 * Counts restarts from cumulative series: a count that begins anew is one of a process that did. Series of one process begin
 * at moments of their own, so that of each instance the series with most counts; an instance that comes back under another
 * id is another one.
 *
 * @returns null where no series is cumulative
 */
export function restartsOf({ source, bounds }: SideSource): Restarts | null {
  const [from, to] = [bounds[0], bounds[bounds.length - 1]];
  const byInstance = new Map<string, { again: number; first: number; last: number }>();
  for (const { identity, series } of source.metrics) {
    if (identity.temporality !== "cumulative") continue;
    for (const { attributes, parts } of series) {
      const told = toldBy(parts, from, to);
      if (!told) continue;
      const again = told.starts.slice(1).filter((start) => start > from).length;
      const { instance } = originOf(attributes);
      const known = byInstance.get(instance) ?? { again: 0, first: told.first, last: told.last };
      byInstance.set(instance, {
        again: Math.max(known.again, again),
        first: Math.min(known.first, told.first),
        last: Math.max(known.last, told.last),
      });
    }
  }
  const all = [...byInstance.values()];
  if (all.length === 0) return null;
  return {
    count: all.reduce((total, { again }) => total + again, 0),
    hours: all.reduce((total, { first, last }) => total + last - first, 0) / HOUR,
  };
}
