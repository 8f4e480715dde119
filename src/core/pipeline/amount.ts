import { bucketColumns, FLAG, type Layout, type PointSet } from "../metric/model";
import type { Batch } from "../otlp/batch/batch";
import type { KnownSeries } from "../otlp/dictionary";

/** A value that can be added up: of a counter a number, of a histogram buckets, whatever their layout. */
export type Amount =
  | { kind: "number"; value: number; integer: boolean }
  | (Measured & { kind: "explicit"; bounds: readonly number[]; counts: number[] })
  | (Measured & {
      kind: "exponential";
      scale: number;
      zeroThreshold: number;
      zero: number;
      negative: Buckets;
      positive: Buckets;
    });

/** Counts by bucket index, without zeros. */
export type Buckets = [index: number, count: number][];

interface Measured {
  /** null where some part did not say. */
  sum: number | null;
  min: number | null;
  max: number | null;
}

/** The value of a row. @returns null for layouts that cannot be added up */
export function amountAt({ layout, columns, flags }: PointSet, row: number): Amount | null {
  const flag = flags[row];
  if (layout.kind === "number") return { kind: "number", value: columns[0][row], integer: (flag & FLAG.integer) > 0 };
  if (layout.kind !== "explicit" && layout.kind !== "exponential") return null;
  const after = bucketColumns(layout);
  const told = (column: number, absent: number) => (flag & absent ? null : columns[column][row]);
  const measured = { min: told(after, FLAG.noMin), max: told(after + 1, FLAG.noMax), sum: told(after + 2, FLAG.noSum) };
  if (layout.kind === "explicit")
    return {
      kind: "explicit",
      bounds: layout.bounds,
      counts: columns.slice(0, after).map((one) => one[row]),
      ...measured,
    };
  const { scale, zeroThreshold, negative, positive } = layout;
  const buckets = (from: number, width: number, first: number): Buckets => {
    const found: Buckets = [];
    for (let i = 0; i < width; i++) {
      const count = columns[first + i][row];
      if (count !== 0) found.push([from + i, count]);
    }
    return found;
  };
  return {
    kind: "exponential",
    scale,
    zeroThreshold,
    zero: columns[0][row],
    negative: buckets(negative.from, negative.width, 1),
    positive: buckets(positive.from, positive.width, 1 + negative.width),
    ...measured,
  };
}

/** How many were counted: a counter's value, a histogram's observations. */
export function countOf(amount: Amount): number {
  const total = (buckets: Buckets) => buckets.reduce((sum, [, count]) => sum + count, 0);
  if (amount.kind === "number") return amount.value;
  if (amount.kind === "explicit") return amount.counts.reduce((sum, count) => sum + count, 0);
  return amount.zero + total(amount.negative) + total(amount.positive);
}

/** Whether two amounts can be taken from each other as they are: the same bounds, or the same scale. */
export function sameShape(a: Amount, b: Amount): boolean {
  if (a.kind === "explicit" && b.kind === "explicit")
    return a.bounds.length === b.bounds.length && a.bounds.every((bound, i) => bound === b.bounds[i]);
  if (a.kind === "exponential" && b.kind === "exponential")
    return a.scale === b.scale && a.zeroThreshold === b.zeroThreshold;
  return a.kind === b.kind;
}

function joined(a: number | null, b: number | null, how: (a: number, b: number) => number): number | null {
  return a === null || b === null ? null : how(a, b);
}

/** Only bounds that both have: what lies between them is added up, so nothing is guessed. */
export function onBounds(amount: Extract<Amount, { kind: "explicit" }>, keep: (bound: number) => boolean) {
  const bounds = amount.bounds.filter(keep);
  const counts = new Array<number>(bounds.length + 1).fill(0);
  let at = 0;
  amount.counts.forEach((count, i) => {
    counts[at] += count;
    if (i < amount.bounds.length && at < bounds.length && amount.bounds[i] === bounds[at]) at++;
  });
  return { ...amount, bounds, counts };
}

/** At a coarser scale: index >> difference (OpenTelemetry metrics data model, "Exponential Scale"). */
export function atScale(amount: Extract<Amount, { kind: "exponential" }>, scale: number) {
  if (scale >= amount.scale) return amount;
  const shift = amount.scale - scale;
  const shifted = (buckets: Buckets) => together(buckets.map(([index, count]) => [index >> shift, count]));
  return { ...amount, scale, negative: shifted(amount.negative), positive: shifted(amount.positive) };
}

/** Buckets in order, each index once, without zeros. */
function together(buckets: Buckets): Buckets {
  const found = new Map<number, number>();
  for (const [index, count] of buckets) found.set(index, (found.get(index) ?? 0) + count);
  return [...found].filter(([, count]) => count !== 0).sort(([a], [b]) => a - b);
}

/** The sum of two. Histograms are brought to what both can say: common bounds, the coarser scale. null: not of a kind. */
export function plus(a: Amount, b: Amount): Amount | null {
  if (a.kind === "number" && b.kind === "number")
    return { kind: "number", value: a.value + b.value, integer: a.integer && b.integer };
  if (a.kind === "number" || b.kind === "number" || a.kind !== b.kind) return null;
  const measured = {
    sum: joined(a.sum, b.sum, (x, y) => x + y),
    min: joined(a.min, b.min, Math.min),
    max: joined(a.max, b.max, Math.max),
  };
  if (a.kind === "explicit" && b.kind === "explicit") {
    const [first, second] = sameShape(a, b)
      ? [a, b]
      : [onBounds(a, (bound) => b.bounds.includes(bound)), onBounds(b, (bound) => a.bounds.includes(bound))];
    return { ...first, counts: first.counts.map((count, i) => count + second.counts[i]), ...measured };
  }
  if (a.kind !== "exponential" || b.kind !== "exponential") return null;
  const scale = Math.min(a.scale, b.scale);
  const [first, second] = [atScale(a, scale), atScale(b, scale)];
  return narrowed({
    ...first,
    // The wider of two zeros holds both.
    zeroThreshold: Math.max(a.zeroThreshold, b.zeroThreshold),
    zero: a.zero + b.zero,
    negative: together([...first.negative, ...second.negative]),
    positive: together([...first.positive, ...second.positive]),
    ...measured,
  });
}

/** Buckets of one sign that are laid out side by side. */
const WIDEST = 320;

/** Coarser until both signs have room. */
function narrowed(amount: Extract<Amount, { kind: "exponential" }>): Amount {
  const wide = (buckets: Buckets) => buckets.length > 0 && buckets[buckets.length - 1][0] - buckets[0][0] >= WIDEST;
  let result = amount;
  while (wide(result.negative) || wide(result.positive)) result = atScale(result, result.scale - 1);
  return result;
}

/**
 * What was added from an earlier value to a later one.
 *
 * @returns null where the later one is lower anywhere, or of another shape: the count began anew
 */
export function minus(later: Amount, earlier: Amount): Amount | null {
  if (!sameShape(later, earlier)) return null;
  // Least and greatest of a total say nothing of its last part.
  const measured = (a: Measured, b: Measured) => ({ sum: joined(a.sum, b.sum, (x, y) => x - y), min: null, max: null });
  if (later.kind === "number" && earlier.kind === "number") {
    const value = later.value - earlier.value;
    return value >= 0 ? { kind: "number", value, integer: later.integer && earlier.integer } : null;
  }
  if (later.kind === "explicit" && earlier.kind === "explicit") {
    const counts = later.counts.map((count, i) => count - earlier.counts[i]);
    return counts.every((count) => count >= 0) ? { ...later, counts, ...measured(later, earlier) } : null;
  }
  if (later.kind !== "exponential" || earlier.kind !== "exponential") return null;
  const taken = (a: Buckets, b: Buckets) => together([...a, ...b.map(([i, n]): [number, number] => [i, -n])]);
  const negative = taken(later.negative, earlier.negative);
  const positive = taken(later.positive, earlier.positive);
  const zero = later.zero - earlier.zero;
  const rises = zero >= 0 && [...negative, ...positive].every(([, count]) => count > 0);
  return rises ? { ...later, zero, negative, positive, ...measured(later, earlier) } : null;
}

/** An amount over a time: Unix ms with their fraction; a start of 0 is unknown. */
export interface TimedAmount {
  start: number;
  time: number;
  amount: Amount;
}

/** Adds an amount to a batch as a point of a series. @param flag in addition to those of the amount */
export function addAmount(out: Batch, series: KnownSeries, { start, time, amount }: TimedAmount, flag = 0): void {
  const { layout, values, flags } = columnsOf(amount);
  const [timeMs, startMs] = [Math.floor(time), Math.floor(start)];
  const timeNs = Math.round((time - timeMs) * 1e6);
  const startNs = Math.round((start - startMs) * 1e6);
  out.addPoint(series.metric, layout, series, { timeMs, timeNs, startMs, startNs, flags: flags | flag }, values);
}

/** A layout and the values of its columns. */
export function columnsOf(amount: Amount): { layout: Layout; values: number[]; flags: number } {
  if (amount.kind === "number")
    return { layout: { kind: "number" }, values: [amount.value], flags: amount.integer ? FLAG.integer : 0 };
  const { sum, min, max } = amount;
  const flags = (sum === null ? FLAG.noSum : 0) | (min === null ? FLAG.noMin : 0) | (max === null ? FLAG.noMax : 0);
  const tail = [min ?? 0, max ?? 0, sum ?? 0];
  if (amount.kind === "explicit")
    return { layout: { kind: "explicit", bounds: amount.bounds }, values: [...amount.counts, ...tail], flags };
  const range = (buckets: Buckets) =>
    buckets.length === 0
      ? { from: 0, width: 0 }
      : { from: buckets[0][0], width: buckets[buckets.length - 1][0] - buckets[0][0] + 1 };
  const dense = (buckets: Buckets) => {
    const { from, width } = range(buckets);
    const all = new Array<number>(width).fill(0);
    for (const [index, count] of buckets) all[index - from] = count;
    return all;
  };
  const { scale, zeroThreshold, zero, negative, positive } = amount;
  return {
    layout: { kind: "exponential", scale, zeroThreshold, negative: range(negative), positive: range(positive) },
    values: [zero, ...dense(negative), ...dense(positive), ...tail],
    flags,
  };
}
