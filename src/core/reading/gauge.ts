import { FLAG, type PointSet } from "../metric/model";
import { timesOf } from "./increase";
import { cellOf } from "./increaseSegments";

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

/** How long a point holds, ms, in a series with points at these times. */
export function holdOf(times: Float64Array): number {
  const interval = usualInterval(times);
  return interval === null ? UNKNOWN_HOLD : interval * HOLD_INTERVALS;
}

/**
 * What a gauge said, row by row: a single point, or several that were rolled up into one row. NaN in `last` says that
 * there is no value, which ends a hold.
 */
export interface Told {
  count: number;
  /** Points whose value is infinite or no number. */
  odd: number;
  /** When the first point of a row was, and its last; ms with their fraction. */
  first: Float64Array;
  time: Float64Array;
  min: Float64Array;
  max: Float64Array;
  last: Float64Array;
  /** For how long values held between first and last, ms, and the sum of each value times that. */
  held: Float64Array;
  weighted: Float64Array;
  /** For how long the last value holds on, ms. */
  hold: Float64Array;
  /** Whether that is known of any row, rather than taken. */
  known: boolean;
  /** 1 for rows that are a point each. */
  single: Uint8Array;
}

/** The rows of a gauge's parts, in time order. */
export function told(parts: readonly PointSet[]): Told {
  const count = parts.reduce((sum, part) => sum + part.count, 0);
  const column = () => new Float64Array(count);
  const time = column();
  const last = column();
  const rolled = parts.some(({ layout }) => layout.kind === "levels");
  const result: Told = {
    count,
    odd: 0,
    time,
    last,
    first: rolled ? column() : time,
    min: rolled ? column() : last,
    max: rolled ? column() : last,
    held: column(),
    weighted: rolled ? column() : last,
    hold: column(),
    known: false,
    single: new Uint8Array(count),
  };
  const single: Float64Array[] = [];
  let at = 0;
  for (const part of parts) {
    const times = timesOf(part);
    time.set(times, at);
    if (part.layout.kind === "levels") copyLevels(part, result, at);
    else {
      for (let i = 0; i < part.count; i++) {
        const value = part.flags[i] & FLAG.noRecordedValue ? Number.NaN : part.columns[0][i];
        // An infinite level can be neither drawn nor averaged: it is told, and counts as no value.
        last[at + i] = Number.isFinite(value) ? value : Number.NaN;
        if (!Number.isFinite(value) && !(part.flags[i] & FLAG.noRecordedValue)) result.odd++;
      }
      if (rolled) {
        result.first.set(times, at);
        const values = last.subarray(at, at + part.count);
        result.min.set(values, at);
        result.max.set(values, at);
      }
      single.push(times);
      result.single.fill(1, at, at + part.count);
      result.hold.fill(Number.NaN, at, at + part.count);
    }
    at += part.count;
  }
  setHolds(result, single);
  return result;
}

function copyLevels(part: PointSet, to: Told, at: number): void {
  const [min, max, last, held, weighted, hold] = part.columns;
  to.min.set(min, at);
  to.max.set(max, at);
  to.last.set(last, at);
  to.held.set(held, at);
  to.weighted.set(weighted, at);
  to.hold.set(hold, at);
  for (let i = 0; i < part.count; i++) to.first[at + i] = part.startMs[i] + part.startNs[i] / 1e6;
}

/**
 * Single points hold as long as their distances say; where they are too few, and where rolled-up rows did not know it, as
 * long as the nearest row that does.
 */
function setHolds(rows: Told, single: readonly Float64Array[]): void {
  const { hold, single: isSingle } = rows;
  const all = new Float64Array(single.reduce((sum, times) => sum + times.length, 0));
  let at = 0;
  for (const times of single) {
    all.set(times, at);
    at += times.length;
  }
  const own = usualInterval(all) === null ? Number.NaN : holdOf(all);
  if (!Number.isNaN(own)) for (let i = 0; i < hold.length; i++) if (isSingle[i] === 1) hold[i] = own;
  const first = hold.find((ms) => !Number.isNaN(ms));
  rows.known = first !== undefined;
  let near = first ?? UNKNOWN_HOLD;
  for (let i = 0; i < hold.length; i++) {
    if (Number.isNaN(hold[i])) hold[i] = near;
    else near = hold[i];
  }
}

/** What a gauge was in each cell; NaN where it is missing. */
export interface Levels {
  min: Float64Array;
  max: Float64Array;
  last: Float64Array;
  /** For how long of the cell values held, ms, and the sum of each value times that. */
  held: Float64Array;
  weighted: Float64Array;
  /** Points whose value is infinite or no number: they count as without one. */
  odd: number;
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

/** Cells in the filling. */
class Filling {
  readonly levels: Levels;

  constructor(private readonly bounds: Float64Array) {
    const cells = bounds.length - 1;
    const missing = () => new Float64Array(cells).fill(Number.NaN);
    const zero = () => new Float64Array(cells);
    this.levels = { min: missing(), max: missing(), last: missing(), held: zero(), weighted: zero(), odd: 0 };
  }

  private touch(cell: number, min: number, max: number, last: number): void {
    const { levels } = this;
    if (!(levels.min[cell] <= min)) levels.min[cell] = min;
    if (!(levels.max[cell] >= max)) levels.max[cell] = max;
    levels.last[cell] = last;
  }

  private get end(): number {
    return this.bounds[this.bounds.length - 1];
  }

  /** A point, or the last of several. */
  arrives(time: number, min: number, max: number, last: number): void {
    if (time > this.bounds[0] && time <= this.end) this.touch(cellOf(this.bounds, time), min, max, last);
  }

  /** A value that holds over (from, until]. */
  holds(from: number, until: number, value: number): void {
    this.lay(from, until, (cell, part) => {
      this.levels.held[cell] += part;
      this.levels.weighted[cell] += part * value;
      this.touch(cell, value, value, value);
    });
  }

  /** Points rolled up over (from, until]; where that crosses a bound, they are laid evenly. */
  rolled(from: number, until: number, held: number, weighted: number, min: number, max: number): void {
    this.lay(from, until, (cell, part) => {
      const share = part / (until - from);
      this.levels.held[cell] += held * share;
      this.levels.weighted[cell] += weighted * share;
      this.touch(cell, min, max, this.levels.last[cell]);
    });
  }

  private lay(from: number, until: number, put: (cell: number, part: number) => void): void {
    const { bounds } = this;
    const cells = bounds.length - 1;
    if (until <= bounds[0] || from >= bounds[cells]) return;
    const low = Math.max(from, bounds[0]);
    for (let k = low === bounds[0] ? 0 : cellOf(bounds, low); k < cells && bounds[k] < until; k++) {
      const part = Math.min(until, bounds[k + 1]) - Math.max(low, bounds[k]);
      if (part > 0) put(k, part);
    }
  }
}

/**
 * Brings one gauge series to cells (bounds[k], bounds[k+1]]. A point at t holds over (t, next point], at most 2.5
 * usual intervals (5 minutes where unknown); after that, a gap.
 * A mean is weighted by the time that each value held; `min` and `max` are over the values that held or arrived;
 * `last` is the value at the end of the cell or, where that has lapsed, the last that arrived in it.
 */
export function levelsOf(parts: readonly PointSet[], bounds: Float64Array): Levels {
  const filling = new Filling(bounds);
  const { count, odd, first, time, min, max, last, held, weighted, hold } = told(parts);
  filling.levels.odd = odd;
  for (let i = 0; i < count; i++) {
    const value = last[i];
    if (Number.isNaN(value)) continue;
    if (first[i] < time[i]) filling.rolled(first[i], time[i], held[i], weighted[i], min[i], max[i]);
    filling.arrives(time[i], min[i], max[i], value);
    filling.holds(time[i], Math.min(i + 1 < count ? first[i + 1] : Number.POSITIVE_INFINITY, time[i] + hold[i]), value);
  }
  return filling.levels;
}
