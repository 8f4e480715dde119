import { bucketColumns, FLAG, isZeroColumn, type PointSet, type Temporality } from "../metric/model";

/**
 * Increases: what each point of a counter or histogram adds, and over which interval.
 *
 * - Delta: all of its value over (start, t]; without a start, over (t of the point before, t].
 * - Cumulative, same start as the point before: the difference over (t1, t2].
 * - Cumulative after a reset (the start changed, or the value fell): all of its value over (start, t2], or over
 *   (t1, t2] where the start is unknown or lies before t1.
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

/** Whether a start is known, and it and that of another row are the same. */
function sameStart(a: PointSet, i: number, b: PointSet, j: number): boolean {
  return a.startMs[i] === b.startMs[j] && a.startNs[i] === b.startNs[j];
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
  return (flags[0] & FLAG.noRecordedValue) === 0 && flags.every((flag) => flag === flags[0]);
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
function startChanges({ startMs, startNs, count }: PointSet): readonly number[] {
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
  if (temporality === "delta") return { rule: WHOLE, from: hasStart ? start : beforeTime };
  const reset = !sameStart(set, row, before, base) || (!unbounded && fellBelow(set, row, before, base));
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
    else if (hasStart && start >= earliest) opening = { rule: WHOLE, from: start, base: NOTHING };
  }
  return { set, increases, opening, before };
}

/**
 * Increases cut where cells begin and end. Piece p adds `weight` × (value at `row` − value at `base`) to a cell; bases
 * NOTHING and BEFORE stand for no row and for the row before the set. Differences that follow each other inside one
 * cell are one piece: their sum is the last value less the first base.
 */
export interface Pieces {
  row: Int32Array;
  base: Int32Array;
  cell: Int32Array;
  weight: Float64Array;
  count: number;
}

/** What a piece adds of a column. `before` is the column's value in the row before the set. */
export function amountOf(column: Float64Array, before: number, { row, base, weight }: Pieces, piece: number): number {
  const from = base[piece];
  return (column[row[piece]] - (from >= 0 ? column[from] : from === BEFORE ? before : 0)) * weight[piece];
}

let scratch: Piecemeal | null = null;

/**
 * Lays increases evenly over their intervals and cuts them at the bounds of cells (ascending; cell k is
 * (bounds[k], bounds[k+1]]). What lies outside the bounds is left out; weights of a row inside them sum to 1.
 * The pieces are good until the next call.
 */
export function cut({ increases, opening }: Track, bounds: Float64Array): Pieces {
  const { to, breaks, rule, from, base } = increases;
  scratch ??= new Piecemeal();
  const pieces = scratch.begin(to, bounds);
  let row = 0;
  for (let i = 0; i < breaks.length; i++) {
    const next = breaks[i];
    if (next > row) pieces.run(row, next);
    if (i === increases.opening) {
      if (opening.rule !== SKIP) pieces.single(next, opening.from, opening.base);
    } else if (rule[i] !== SKIP) pieces.single(next, from[i], base[i]);
    row = next + 1;
  }
  if (row < to.length) pieces.run(row, to.length);
  return pieces;
}

const NONE = new Float64Array(0);

/** Pieces in the making; one is used over and over, because making its columns anew would cost more than the cutting. */
class Piecemeal implements Pieces {
  row = new Int32Array(1024);
  base = new Int32Array(1024);
  cell = new Int32Array(1024);
  weight = new Float64Array(1024);
  count = 0;

  private to: Float64Array = NONE;
  private bounds: Float64Array = NONE;
  private at = 0;

  /** Starts afresh for rows with these times. */
  begin(to: Float64Array, bounds: Float64Array): this {
    this.to = to;
    this.bounds = bounds;
    this.count = 0;
    this.at = 0;
    return this;
  }

  /** One row by itself, laid over (from, its time]. */
  single(row: number, from: number, base: number): void {
    const { to, bounds } = this;
    const end = bounds[bounds.length - 1];
    if (from < to[row]) this.spread(row, from, base);
    else if (to[row] > bounds[0] && to[row] <= end) this.add(row, base, cellOf(bounds, to[row]), 1);
  }

  /** Rows [row, end) that are each a difference to the one right before: those inside one cell make one piece. */
  run(row: number, end: number): void {
    const { to, bounds } = this;
    const last = bounds[bounds.length - 1];
    let i = firstAfter(to, row, end, bounds[0]);
    while (i < end && to[i - 1] < last) {
      const from = to[i - 1];
      const cell = this.cellFrom(Math.max(from, bounds[0]));
      if (from >= bounds[cell] && to[i] <= bounds[cell + 1]) {
        const next = firstAfter(to, i + 1, end, bounds[cell + 1]);
        this.add(next - 1, i - 1, cell, 1);
        i = next;
      } else {
        this.spread(i, from, i - 1);
        i++;
      }
    }
  }

  /** A row over all cells that its interval touches. */
  private spread(row: number, from: number, base: number): void {
    const { bounds } = this;
    const t = this.to[row];
    const last = bounds.length - 1;
    if (t <= bounds[0] || from >= bounds[last]) return;
    for (let k = this.cellFrom(Math.max(from, bounds[0])); k < last && bounds[k] < t; k++) {
      const whole = from >= bounds[k] && t <= bounds[k + 1];
      const part = whole ? 1 : (Math.min(t, bounds[k + 1]) - Math.max(from, bounds[k])) / (t - from);
      this.add(row, base, k, part);
    }
  }

  /** The cell in which an interval begins; intervals mostly go on in time, so the search begins where the last ended. */
  private cellFrom(time: number): number {
    const { bounds } = this;
    if (time < bounds[this.at]) this.at = cellAfter(bounds, time);
    while (this.at + 2 < bounds.length && time >= bounds[this.at + 1]) {
      if (this.at + 3 < bounds.length && time >= bounds[this.at + 2]) this.at = cellAfter(bounds, time);
      else this.at++;
    }
    return this.at;
  }

  private add(row: number, base: number, cell: number, weight: number): void {
    if (this.count === this.row.length) this.grow();
    this.row[this.count] = row;
    this.base[this.count] = base;
    this.cell[this.count] = cell;
    this.weight[this.count++] = weight;
  }

  private grow(): void {
    const { row, base, cell, weight } = this;
    const size = this.count * 2;
    this.row = new Int32Array(size);
    this.base = new Int32Array(size);
    this.cell = new Int32Array(size);
    this.weight = new Float64Array(size);
    this.row.set(row);
    this.base.set(base);
    this.cell.set(cell);
    this.weight.set(weight);
  }
}

/** The cell (bounds[k], bounds[k+1]] that holds a time. */
export function cellOf(bounds: Float64Array, time: number): number {
  let low = 0;
  let high = bounds.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (bounds[middle] < time) low = middle;
    else high = middle;
  }
  return low;
}

/** The first row of [low, high) whose time is after a bound, or high; looked for in growing strides. */
function firstAfter(times: Float64Array, low: number, high: number, bound: number): number {
  let stride = 1;
  let from = low;
  while (from + stride < high && times[from + stride] <= bound) {
    from += stride;
    stride *= 2;
  }
  let to = Math.min(high, from + stride);
  while (from < to) {
    const middle = (from + to) >> 1;
    if (times[middle] <= bound) from = middle + 1;
    else to = middle;
  }
  return from;
}

/** The cell [bounds[k], bounds[k+1]) in which an interval from a time on begins. */
function cellAfter(bounds: Float64Array, time: number): number {
  let low = 0;
  let high = bounds.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (bounds[middle] <= time) low = middle;
    else high = middle;
  }
  return low;
}
