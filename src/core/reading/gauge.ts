import { FLAG, type PointSet } from "../metric/model";
import { cellOf, timesOf } from "./increase";

/** How long a point holds where the series' usual interval is not known, ms. */
const UNKNOWN_HOLD = 300_000;
const HOLD_INTERVALS = 2.5;

/** The median distance of successive times, or null below three points. */
export function usualInterval(times: Float64Array): number | null {
  if (times.length < 3) return null;
  const gaps = new Float64Array(times.length - 1);
  for (let i = 1; i < times.length; i++) gaps[i - 1] = times[i] - times[i - 1];
  gaps.sort();
  return gaps[gaps.length >> 1];
}

/** What a gauge was in each cell; NaN where it is missing. */
export interface Levels {
  min: Float64Array;
  max: Float64Array;
  last: Float64Array;
  /** For how long of the cell values held, ms, and the sum of each value times that. */
  held: Float64Array;
  weighted: Float64Array;
}

export type LevelMeasure = "mean" | "min" | "max" | "last";

/** A measure over a run of cells [first, after); NaN where nothing held or arrived in any. */
export function overCells(levels: Levels, measure: LevelMeasure, first: number, after: number): number {
  let held = 0;
  let weighted = 0;
  let found = Number.NaN;
  for (let k = first; k < after; k++) {
    if (Number.isNaN(levels.last[k])) continue;
    held += levels.held[k];
    weighted += levels.weighted[k];
    if (measure === "min") found = Number.isNaN(found) ? levels.min[k] : Math.min(found, levels.min[k]);
    else if (measure === "max") found = Number.isNaN(found) ? levels.max[k] : Math.max(found, levels.max[k]);
    else found = levels.last[k];
  }
  // A point in the very last moment has held for no time: it is all there is.
  return measure === "mean" && held > 0 ? weighted / held : found;
}

/**
 * Brings one gauge series to cells (bounds[k], bounds[k+1]]. A point at t holds over (t, next point], at most 2.5
 * usual intervals (5 minutes where unknown); after that, a gap.
 * A mean is weighted by the time that each value held; `min` and `max` are over the values that held or arrived;
 * `last` is the value at the end of the cell or, where that has lapsed, the last that arrived in it.
 */
export function levelsOf(parts: readonly PointSet[], bounds: Float64Array): Levels {
  const cells = bounds.length - 1;
  const fill = () => new Float64Array(cells).fill(Number.NaN);
  const held = new Float64Array(cells);
  const weighted = new Float64Array(cells);
  const result: Levels = { min: fill(), max: fill(), last: fill(), held, weighted };
  const { times, values } = points(parts);
  const interval = usualInterval(times);
  const hold = interval === null ? UNKNOWN_HOLD : interval * HOLD_INTERVALS;
  const touch = (cell: number, value: number) => {
    if (!(result.min[cell] <= value)) result.min[cell] = value;
    if (!(result.max[cell] >= value)) result.max[cell] = value;
    result.last[cell] = value;
  };
  for (let i = 0; i < times.length; i++) {
    const value = values[i];
    if (Number.isNaN(value)) continue;
    const time = times[i];
    const until = Math.min(i + 1 < times.length ? times[i + 1] : Number.POSITIVE_INFINITY, time + hold);
    if (until <= bounds[0] || time > bounds[cells]) continue;
    if (time > bounds[0]) touch(cellOf(bounds, time), value);
    const low = Math.max(time, bounds[0]);
    for (let k = low === bounds[0] ? 0 : cellOf(bounds, low); k < cells && bounds[k] < until; k++) {
      const part = Math.min(until, bounds[k + 1]) - Math.max(low, bounds[k]);
      if (part <= 0) continue;
      held[k] += part;
      weighted[k] += part * value;
      touch(k, value);
    }
  }
  return result;
}

/** Times and values of a gauge; NaN where a point says that there is no value, which ends a hold. */
function points(parts: readonly PointSet[]): { times: Float64Array; values: Float64Array } {
  const count = parts.reduce((sum, part) => sum + part.count, 0);
  const times = new Float64Array(count);
  const values = new Float64Array(count);
  let at = 0;
  for (const part of parts) {
    times.set(timesOf(part), at);
    for (let i = 0; i < part.count; i++) {
      values[at + i] = part.flags[i] & FLAG.noRecordedValue ? Number.NaN : part.columns[0][i];
    }
    at += part.count;
  }
  return { times, values };
}
