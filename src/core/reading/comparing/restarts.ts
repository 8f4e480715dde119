import type { PointSet } from "../../metric/model";
import { originOf } from "../../metric/origin";
import type { SideSource } from "./comparedCalls";

/** How often the processes of a release were started again, as the starts of their running counts tell. */

export interface Restarts {
  /** Starts within the minutes that are compared, but for each instance's first. */
  count: number;
  /** Hours of all instances together. */
  hours: number;
}

const HOUR = 3_600_000;

/** Starts that lie nearer together are one: clients round, ms. */
const SAME = 1000;

/** The starts of a series' points within a span, the earliest first, each once. */
function startsOf(parts: readonly PointSet[], from: number, to: number): number[] {
  const found: number[] = [];
  for (const { startMs, timeMs, count } of parts)
    for (let row = 0; row < count; row++) {
      const start = startMs[row];
      if (start === 0 || timeMs[row] <= from || timeMs[row] > to) continue;
      if (!found.some((other) => Math.abs(other - start) < SAME)) found.push(start);
    }
  return found.sort((a, b) => a - b);
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
  const byInstance = new Map<string, number>();
  for (const { identity, series } of source.metrics) {
    if (identity.temporality !== "cumulative") continue;
    for (const { attributes, parts } of series) {
      const starts = startsOf(parts, from, to);
      if (starts.length === 0) continue;
      const again = starts.slice(1).filter((start) => start > from).length;
      const { instance } = originOf(attributes);
      byInstance.set(instance, Math.max(byInstance.get(instance) ?? 0, again));
    }
  }
  if (byInstance.size === 0) return null;
  const count = [...byInstance.values()].reduce((total, one) => total + one, 0);
  return { count, hours: (byInstance.size * (to - from)) / HOUR };
}
