import { BEFORE, SKIP, type Track } from "./increase";

/**
 * Increases cut where cells begin and end. Piece p adds `weight` × (value at `row` − value at `base`) to a cell; bases
 * NOTHING and BEFORE stand for no row and for the row before the set. Differences that follow each other inside one
 * cell are one piece: their sum is the last value less the first base.
 */
export interface IncreaseSegments {
  row: Int32Array;
  base: Int32Array;
  cell: Int32Array;
  weight: Float64Array;
  count: number;
}

/** What a piece adds of a column. `before` is the column's value in the row before the set. */
export function amountOf(
  column: Float64Array,
  before: number,
  { row, base, weight }: IncreaseSegments,
  piece: number,
): number {
  const from = base[piece];
  return (column[row[piece]] - (from >= 0 ? column[from] : from === BEFORE ? before : 0)) * weight[piece];
}

let scratch: Piecemeal | null = null;

/**
 * Lays increases evenly over their intervals and cuts them at the bounds of cells (ascending; cell k is
 * (bounds[k], bounds[k+1]]). What lies outside the bounds is left out; weights of a row inside them sum to 1.
 * The segments are good until the next call.
 */
export function cut({ increases, opening }: Track, bounds: Float64Array): IncreaseSegments {
  const { to, breaks, rule, from, base } = increases;
  scratch ??= new Piecemeal();
  const segments = scratch.begin(to, bounds);
  let row = 0;
  for (let i = 0; i < breaks.length; i++) {
    const next = breaks[i];
    if (next > row) segments.run(row, next);
    if (i === increases.opening) {
      if (opening.rule !== SKIP) segments.single(next, opening.from, opening.base);
    } else if (rule[i] !== SKIP) segments.single(next, from[i], base[i]);
    row = next + 1;
  }
  if (row < to.length) segments.run(row, to.length);
  return segments;
}

const NONE = new Float64Array(0);

/** Segments in the making; one is used over and over, because making its columns anew would cost more than the cutting. */
class Piecemeal implements IncreaseSegments {
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
