import { bucketColumns, FLAG, isZeroColumn, type PointSet, type Temporality } from "../metric/model";

/**
 * Increases: what each point of a counter or histogram adds, and over which interval.
 *
 * - Delta: all of its value over (start, t]; without a start, over (t of the point before, t].
 * - Cumulative, same start as the point before: the difference over (t1, t2].
 * - Cumulative after a reset (the start changed, or the value fell): all of its value over (start, t2], or over
 *   (t1, t2] where the start is unknown or lies before t1. Where only one of the two points has a start, it is a reset
 *   only where that lies after t1, or the value fell.
 * - A point that resumes what another series told meanwhile: nothing; it is only a base.
 * - First point: all of its value over (start, t] where the start lies in what was read, else only a base.
 *
 * Start times, resets and overlaps: OpenTelemetry metrics data model, "Resets and Gaps".
 */
export interface Increases {
  /** Times of the rows, ms with their fraction. */
  to: Float64Array;
  /** Rows, ascending, that are anything else than a difference to the row right before them with the same flags. */
  breaks: number[];
  /** Per break: where its interval begins, what it adds (SKIP, DIFFERENCE, WHOLE) and the row that is taken off. */
  from: number[];
  rule: number[];
  base: number[];
  /** Place among the breaks of the first row with a value, whose rule depends on what came before; -1 where none has. */
  opening: number;
  /** The last row with a value, or -1. */
  last: number;
}

export const SKIP = 0;
export const DIFFERENCE = 1;
export const WHOLE = 2;
/** Bases that are not rows of the set: nothing, or the row before the set. */
export const NOTHING = -1;
export const BEFORE = -2;

/** Fractional times by their columns of ms: series that were exported together share them. */
const joinedTimes = new WeakMap<Float64Array, Float64Array>();

/** Times of a set's rows as milliseconds with their fraction. Do not write to them: they may be the set's own. */
export function timesOf({ timeMs, timeNs, count }: PointSet): Float64Array {
  if (isZeroColumn(timeNs)) return timeMs;
  let times = joinedTimes.get(timeMs);
  if (!times) {
    times = new Float64Array(count);
    for (let i = 0; i < count; i++) times[i] = timeMs[i] + timeNs[i] / 1e6;
    joinedTimes.set(timeMs, times);
  }
  return times;
}

/** The columns whose sum is the running count of a point: a counter's value, a histogram's observations. */
export function countColumns({ layout, columns }: PointSet): Float64Array[] {
  if (layout.kind === "summary") return [columns[layout.quantiles.length]];
  return layout.kind === "number" ? [columns[0]] : columns.slice(0, bucketColumns(layout));
}

function knowsStart({ startMs, startNs }: PointSet, row: number): boolean {
  return startMs[row] !== 0 || startNs[row] !== 0;
}

/** Whether the start of a row says that it began anew after another row. One that either lacks says it only where it lies later. */
function beganAnew(set: PointSet, row: number, before: PointSet, base: number, beforeTime: number): boolean {
  if (!knowsStart(set, row)) return false;
  if (!knowsStart(before, base)) return startOf(set, row) >= beforeTime;
  return set.startMs[row] !== before.startMs[base] || set.startNs[row] !== before.startNs[base];
}

/** When a row's start was, ms with its fraction; NaN where it is unknown. */
export function startOf({ startMs, startNs }: PointSet, row: number): number {
  return startMs[row] === 0 && startNs[row] === 0 ? Number.NaN : startMs[row] + startNs[row] / 1e6;
}

/** Whether any running count of a row is below that of another row of equal columns. */
export function fellBelow(set: PointSet, row: number, before: PointSet, base: number): boolean {
  const columns = countColumns(set);
  const others = countColumns(before);
  return columns.some((column, c) => column[row] < others[c][base]);
}

/** Whether all points have the same flags and each has a value. */
function isCalm(flags: Float64Array): boolean {
  if (isZeroColumn(flags)) return true;
  return (flags[0] & (FLAG.noRecordedValue | FLAG.resumed)) === 0 && flags.every((flag) => flag === flags[0]);
}

const NO_ROWS: readonly number[] = [];

/** Rows, ascending, of which some running count is below that of the row before. */
function falls(columns: readonly Float64Array[]): readonly number[] {
  let rows: Set<number> | null = null;
  for (const column of columns) {
    let before = column[0];
    for (let i = 1; i < column.length; i++) {
      const value = column[i];
      // Written so that a value that is no number counts as a fall.
      if (!(value >= before)) {
        rows ??= new Set();
        rows.add(i);
      }
      before = value;
    }
  }
  return rows ? [...rows].sort((a, b) => a - b) : NO_ROWS;
}

/** By columns of starts: series that were exported together share them. */
const startsKept = new WeakMap<Float64Array, readonly number[]>();

/** Rows, ascending, whose start is another than that of the row before. */
export function startChanges({ startMs, startNs, count }: PointSet): readonly number[] {
  const known = startsKept.get(startMs);
  if (known) return known;
  const rows: number[] = [];
  for (let i = 1; i < count; i++) if (startMs[i] !== startMs[i - 1] || startNs[i] !== startNs[i - 1]) rows.push(i);
  startsKept.set(startMs, rows);
  return rows;
}

function hasValue(set: PointSet, row: number, columns: readonly Float64Array[]): boolean {
  if (set.flags[row] & FLAG.noRecordedValue) return false;
  return columns.every((column) => Number.isFinite(column[row]));
}

/**
 * The increases of one series' points of one layout, in time order, as far as they do not depend on what came before.
 * Kept with the set, so a set must always be asked with the same temporality.
 *
 * @param unbounded whether values may fall without a reset (sums that are not monotonic)
 */
export function increasesOf(set: PointSet, temporality: Temporality, unbounded = false): Increases {
  set.workings ??= search(set, temporality, unbounded);
  return set.workings as Increases;
}

/** What there is to note of points that only rise: nothing but the first. */
const SMOOTH = { breaks: [0], from: [Number.NaN], rule: [SKIP], base: [NOTHING], opening: 0 };

function search(set: PointSet, temporality: Temporality, unbounded: boolean): Increases {
  const { count } = set;
  const to = timesOf(set);
  const columns = countColumns(set);
  const plain =
    count > 0 && temporality !== "delta" && !unbounded && isCalm(set.flags) && isFiniteAtEnds(columns, count);
  const fallen = plain ? falls(columns) : NO_ROWS;
  const changed = plain ? startChanges(set) : NO_ROWS;
  if (plain && fallen.length === 0 && changed.length === 0) return { to, ...SMOOTH, last: count - 1 };
  const result: Increases = { to, breaks: [], from: [], rule: [], base: [], opening: -1, last: -1 };
  const add = (row: number) => {
    const { last } = result;
    if (!hasValue(set, row, columns)) return note(result, row, SKIP, Number.NaN, NOTHING);
    if (last < 0) {
      result.opening = result.breaks.length;
      note(result, row, SKIP, Number.NaN, NOTHING);
    } else {
      const { rule, from } = between(set, row, set, last, to[last], temporality, unbounded);
      note(result, row, rule, from, rule === DIFFERENCE ? last : NOTHING);
    }
    result.last = row;
  };
  if (!plain) {
    for (let row = 0; row < count; row++) add(row);
    return result;
  }
  // Nearly all rows of a counter are differences to the row before: only those that might be none are looked at.
  add(0);
  const doubtful = fallen.length === 0 ? changed : changed.length === 0 ? fallen : joinRows(fallen, changed);
  let before = 0;
  for (const row of doubtful) {
    if (row - 1 > before) result.last = row - 1;
    add(row);
    before = row;
  }
  if (count - 1 > before) result.last = count - 1;
  return result;
}

/** A running count that rises cannot be infinite in between where it is finite at its ends. */
function isFiniteAtEnds(columns: readonly Float64Array[], count: number): boolean {
  return columns.every((column) => Number.isFinite(column[0]) && Number.isFinite(column[count - 1]));
}

function joinRows(a: readonly number[], b: readonly number[]): number[] {
  return [...new Set([...a, ...b])].sort((one, other) => one - other);
}

function note(to: Increases, row: number, rule: number, from: number, base: number): void {
  to.breaks.push(row);
  to.rule.push(rule);
  to.from.push(from);
  to.base.push(base);
}

/** What a row adds after another row of equal columns, and from when on. */
function between(
  set: PointSet,
  row: number,
  before: PointSet,
  base: number,
  beforeTime: number,
  temporality: Temporality,
  unbounded: boolean,
): { rule: number; from: number } {
  const time = set.timeMs[row] + set.timeNs[row] / 1e6;
  const start = startOf(set, row);
  const hasStart = start <= time;
  if (set.flags[row] & FLAG.resumed) return { rule: SKIP, from: Number.NaN };
  if (temporality === "delta") return { rule: WHOLE, from: hasStart ? start : beforeTime };
  const reset = beganAnew(set, row, before, base, beforeTime) || (!unbounded && fellBelow(set, row, before, base));
  if (!reset) return { rule: DIFFERENCE, from: beforeTime };
  return { rule: WHOLE, from: hasStart && start >= beforeTime ? start : beforeTime };
}

/** A row of another set. */
export interface RowBefore {
  set: PointSet;
  row: number;
}

/** A set of one series with what each of its rows adds, the first included. */
export interface Track {
  set: PointSet;
  increases: Increases;
  /** What the first row with a value adds. Its base is NOTHING or BEFORE. */
  opening: { rule: number; from: number; base: number };
  /** The row that the opening is a difference to; null where it is none. */
  before: RowBefore | null;
}

/**
 * Completes a set's increases with what came before it.
 *
 * @param before the last row with a value before the set, of equal columns; null where there is none
 * @param earliest the start of what was read: a first point counts from its start only where that is later
 */
export function trackOf(
  set: PointSet,
  temporality: Temporality,
  before: RowBefore | null,
  earliest: number,
  unbounded: boolean,
): Track {
  const increases = increasesOf(set, temporality, unbounded);
  const row = increases.opening < 0 ? -1 : increases.breaks[increases.opening];
  let opening = { rule: SKIP, from: Number.NaN, base: NOTHING };
  if (row >= 0 && before) {
    const beforeTime = before.set.timeMs[before.row] + before.set.timeNs[before.row] / 1e6;
    const { rule, from } = between(set, row, before.set, before.row, beforeTime, temporality, unbounded);
    opening = { rule, from, base: rule === DIFFERENCE ? BEFORE : NOTHING };
  } else if (row >= 0) {
    const start = startOf(set, row);
    const time = increases.to[row];
    const hasStart = start <= time;
    if (temporality === "delta") opening = { rule: WHOLE, from: hasStart ? start : time, base: NOTHING };
    else if (hasStart && start >= earliest && !(set.flags[row] & FLAG.resumed))
      opening = { rule: WHOLE, from: start, base: NOTHING };
  }
  return { set, increases, opening, before: opening.base === BEFORE ? before : null };
}
