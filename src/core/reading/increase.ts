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
  /** Rows, ascending, that are anything else than a difference to the row right before them with the same flags. */
  breaks: number[];
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

/** Whether all points have the same flags and each has a value. */
function isCalm(flags: Float64Array): boolean {
  if (isZeroColumn(flags)) return true;
  return (flags[0] & FLAG.noRecordedValue) === 0 && flags.every((flag) => flag === flags[0]);
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
  const breaks: number[] = [];
  const level = levels(set);
  const falls = temporality === "delta" || unbounded ? null : bucketFalls(set);
  const calm = isCalm(flags);
  let last = -1;
  for (let i = 0; i < count; i++) {
    // Nearly all rows of a counter: the same start as the row before, and no fall.
    if (
      calm &&
      last === i - 1 &&
      i > 0 &&
      temporality !== "delta" &&
      level[i] >= level[i - 1] &&
      startMs[i] === startMs[i - 1] &&
      startNs[i] === startNs[i - 1] &&
      (falls === null || falls[i] === 0) &&
      level[i] < Number.POSITIVE_INFINITY &&
      to[i] > to[i - 1]
    ) {
      from[i] = to[i - 1];
      rule[i] = DIFFERENCE;
      base[i] = i - 1;
      last = i;
      continue;
    }
    breaks.push(i);
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
      const fell = !unbounded && (level[i] < level[last] || (falls !== null && anyBucketFell(set, i, last)));
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
  return { from, to, rule, base, breaks };
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
 */
export function cut(increases: Increases, bounds: Float64Array): Pieces {
  const { rule, breaks } = increases;
  const pieces = new Piecemeal(increases, bounds, Math.min(rule.length, 2 * bounds.length) + 16);
  let row = 0;
  for (const next of breaks) {
    if (next > row) pieces.run(row, next);
    if (rule[next] !== SKIP) pieces.single(next);
    row = next + 1;
  }
  if (row < rule.length) pieces.run(row, rule.length);
  return pieces;
}

/** Pieces in the making. */
class Piecemeal implements Pieces {
  row: Int32Array;
  base: Int32Array;
  cell: Int32Array;
  weight: Float64Array;
  count = 0;

  private at = 0;

  constructor(
    private readonly increases: Increases,
    private readonly bounds: Float64Array,
    capacity: number,
  ) {
    this.row = new Int32Array(capacity);
    this.base = new Int32Array(capacity);
    this.cell = new Int32Array(capacity);
    this.weight = new Float64Array(capacity);
  }

  /** One row by itself. */
  single(row: number): void {
    const { from, to, rule, base } = this.increases;
    const { bounds } = this;
    const end = bounds[bounds.length - 1];
    const before = rule[row] === DIFFERENCE ? base[row] : -1;
    if (from[row] < to[row]) this.spread(row, before);
    else if (to[row] > bounds[0] && to[row] <= end) this.add(row, before, cellOf(bounds, to[row]), 1);
  }

  /** Rows [row, end) that are each a difference to the one right before: those inside one cell make one piece. */
  run(row: number, end: number): void {
    const { from, to } = this.increases;
    const { bounds } = this;
    const last = bounds[bounds.length - 1];
    let i = firstAfter(to, row, end, bounds[0]);
    while (i < end && from[i] < last) {
      const cell = this.cellFrom(Math.max(from[i], bounds[0]));
      if (from[i] >= bounds[cell] && to[i] <= bounds[cell + 1]) {
        const next = firstAfter(to, i + 1, end, bounds[cell + 1]);
        this.add(next - 1, i - 1, cell, 1);
        i = next;
      } else {
        this.spread(i, i - 1);
        i++;
      }
    }
  }

  /** A row over all cells that its interval touches. */
  private spread(row: number, base: number): void {
    const { from, to } = this.increases;
    const { bounds } = this;
    const [a, t] = [from[row], to[row]];
    const last = bounds.length - 1;
    if (t <= bounds[0] || a >= bounds[last]) return;
    for (let k = this.cellFrom(Math.max(a, bounds[0])); k < last && bounds[k] < t; k++) {
      const whole = a >= bounds[k] && t <= bounds[k + 1];
      this.add(row, base, k, whole ? 1 : (Math.min(t, bounds[k + 1]) - Math.max(a, bounds[k])) / (t - a));
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
