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
  /** Per point: where its interval begins; it ends at the point's time. */
  from: Float64Array;
  to: Float64Array;
  /** Per point: what is added, see SKIP, DIFFERENCE, WHOLE. */
  rule: Uint8Array;
  /** Per point: the row whose values are taken off, where the rule is DIFFERENCE. */
  base: Int32Array;
}

export const SKIP = 0;
export const DIFFERENCE = 1;
export const WHOLE = 2;

/** Times of a set's rows as milliseconds with their fraction. Do not write to them: they may be the set's own. */
export function timesOf(set: PointSet): Float64Array {
  if (isZeroColumn(set.timeNs)) return set.timeMs;
  const times = new Float64Array(set.count);
  for (let i = 0; i < set.count; i++) times[i] = set.timeMs[i] + set.timeNs[i] / 1e6;
  return times;
}

const levelsKept = new WeakMap<PointSet, Float64Array>();

/** The running count by which a reset is recognised: the value of a counter, the observations of a histogram. */
export function levels(set: PointSet): Float64Array {
  const { layout, columns } = set;
  if (layout.kind === "number") return columns[0];
  if (layout.kind === "summary") return columns[layout.quantiles.length];
  const known = levelsKept.get(set);
  if (known) return known;
  const level = new Float64Array(set.count);
  levelsKept.set(set, level);
  for (let c = 0; c < bucketColumns(layout); c++) {
    const column = columns[c];
    for (let i = 0; i < level.length; i++) level[i] += column[i];
  }
  return level;
}

/** Per row: 1 where some bucket is below that of the row before it. */
function bucketFalls(set: PointSet): Uint8Array | null {
  const buckets = bucketColumns(set.layout);
  if (buckets === 0) return null;
  const fell = new Uint8Array(set.count);
  for (let c = 0; c < buckets; c++) {
    const column = set.columns[c];
    let before = column[0];
    for (let i = 1; i < column.length; i++) {
      const value = column[i];
      if (value < before) fell[i] = 1;
      before = value;
    }
  }
  return fell;
}

function anyBucketFell(set: PointSet, row: number, base: number): boolean {
  const buckets = bucketColumns(set.layout);
  for (let c = 0; c < buckets; c++) if (set.columns[c][row] < set.columns[c][base]) return true;
  return false;
}

/**
 * The increases of one series' points of one layout, in time order.
 *
 * @param earliest the start of what was read: a first point counts from its start only where that is later
 * @param continued whether the first row only stands in as a base, having been counted before
 * @param unbounded whether values may fall without a reset (sums that are not monotonic)
 */
export function increasesOf(
  set: PointSet,
  temporality: Temporality,
  earliest: number,
  continued = false,
  unbounded = false,
): Increases {
  const { count, flags, startMs, startNs } = set;
  const to = timesOf(set);
  const from = new Float64Array(count);
  const rule = new Uint8Array(count);
  const base = new Int32Array(count);
  const level = levels(set);
  const falls = temporality === "delta" || unbounded ? null : bucketFalls(set);
  let last = -1;
  for (let i = 0; i < count; i++) {
    if (flags[i] & FLAG.noRecordedValue || !Number.isFinite(level[i])) continue;
    const start = startMs[i] === 0 && startNs[i] === 0 ? Number.NaN : startMs[i] + startNs[i] / 1e6;
    const hasStart = start <= to[i];
    base[i] = last;
    if (temporality === "delta") {
      from[i] = hasStart ? start : last >= 0 ? to[last] : to[i];
      rule[i] = continued && last < 0 ? SKIP : WHOLE;
    } else if (last < 0) {
      from[i] = start;
      rule[i] = hasStart && start >= earliest && !continued ? WHOLE : SKIP;
    } else {
      const sameStart = startMs[i] === startMs[last] && startNs[i] === startNs[last];
      const fell =
        !unbounded &&
        (level[i] < level[last] || (falls !== null && (last === i - 1 ? falls[i] === 1 : anyBucketFell(set, i, last))));
      if (sameStart && !fell) {
        from[i] = to[last];
        rule[i] = DIFFERENCE;
      } else {
        from[i] = hasStart && start >= to[last] ? start : to[last];
        rule[i] = WHOLE;
      }
    }
    last = i;
  }
  return { from, to, rule, base };
}

/**
 * Increases cut where cells begin and end. Piece p adds `weight` × (value at `row` − value at `base`) to a cell, where
 * a base of −1 takes nothing off. Differences that follow each other inside one cell are one piece: their sum is the
 * last value less the first base.
 */
export interface Pieces {
  row: Int32Array;
  base: Int32Array;
  cell: Int32Array;
  weight: Float64Array;
  count: number;
}

/** What a piece adds of a column. */
export function amountOf(column: Float64Array, { row, base, weight }: Pieces, piece: number): number {
  const before = base[piece] < 0 ? 0 : column[base[piece]];
  return (column[row[piece]] - before) * weight[piece];
}

/**
 * Lays increases evenly over their intervals and cuts them at the bounds of cells (ascending; cell k is
 * (bounds[k], bounds[k+1]]). What lies outside the bounds is left out; weights of a row inside them sum to 1.
 *
 * @param flags rows are joined only where their flags are equal
 */
export function cut(increases: Increases, bounds: Float64Array, flags: Float64Array): Pieces {
  const { from, to, rule, base } = increases;
  const last = bounds.length - 1;
  const first = bounds[0];
  const end = bounds[last];
  const pieces = new Piecemeal(Math.min(rule.length, 2 * last) + 16);
  let cell = 0;
  for (let row = 0; row < rule.length; row++) {
    if (rule[row] === SKIP) continue;
    const a = from[row];
    const t = to[row];
    if (t <= first) continue;
    const before = rule[row] === DIFFERENCE ? base[row] : -1;
    if (!(a < t)) {
      if (t <= end) pieces.add(row, before, cellOf(bounds, t), 1);
      continue;
    }
    if (a >= end) continue;
    const low = Math.max(a, first);
    if (low >= bounds[cell + 1] || low < bounds[cell]) {
      // Rows go on in time: mostly the next cell is the one.
      if (cell + 1 < last && low >= bounds[cell + 1] && low < bounds[cell + 2]) cell++;
      else cell = cellAfter(bounds, low);
    }
    if (a >= bounds[cell] && t <= bounds[cell + 1]) {
      if (before >= 0 && pieces.endsAt(before, cell) && flags[before] === flags[row]) pieces.extend(row);
      else pieces.add(row, before, cell, 1);
    } else {
      for (let k = cell; k < last && bounds[k] < t; k++) {
        const part = Math.min(t, bounds[k + 1]) - Math.max(a, bounds[k]);
        pieces.add(row, before, k, part / (t - a));
      }
    }
  }
  return pieces;
}

/** Pieces in the making. */
class Piecemeal implements Pieces {
  row: Int32Array;
  base: Int32Array;
  cell: Int32Array;
  weight: Float64Array;
  count = 0;

  constructor(capacity: number) {
    this.row = new Int32Array(capacity);
    this.base = new Int32Array(capacity);
    this.cell = new Int32Array(capacity);
    this.weight = new Float64Array(capacity);
  }

  add(row: number, base: number, cell: number, weight: number): void {
    if (this.count === this.row.length) this.grow();
    this.row[this.count] = row;
    this.base[this.count] = base;
    this.cell[this.count] = cell;
    this.weight[this.count++] = weight;
  }

  /** Whether the last piece is a whole one of this cell that ends with this row. */
  endsAt(row: number, cell: number): boolean {
    const last = this.count - 1;
    return last >= 0 && this.row[last] === row && this.cell[last] === cell && this.weight[last] === 1;
  }

  /** Lets the last piece go on to a later row. */
  extend(row: number): void {
    this.row[this.count - 1] = row;
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
