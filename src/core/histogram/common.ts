import { type BucketRange, bucketColumns, emptyPointSet, type Layout, type PointSet } from "../metric/model";
import { unionLayout } from "../metric/ranges";
import { exponentialBound } from "./intervals";

/**
 * Buckets that two histograms have in common, so that their counts can be added or taken off each other exactly:
 * exponential ones at a coarser scale, explicit ones on the bounds that both have.
 */

export type Exponential = Extract<Layout, { kind: "exponential" }>;
type Explicit = Extract<Layout, { kind: "explicit" }>;

/** Buckets of one layout that ranges are joined to; where they would be more, the scale goes down. */
export const MAX_COMMON_BUCKETS = 320;

/** Index of a bucket at a scale that is coarser by `shift` ("Exponential Scale": index >> difference of the scales). */
function shifted(index: number, shift: number): number {
  return Math.floor(index / 2 ** shift);
}

function downRange({ from, width }: BucketRange, shift: number): BucketRange {
  if (width === 0) return { from: 0, width: 0 };
  const low = shifted(from, shift);
  return { from: low, width: shifted(from + width - 1, shift) - low + 1 };
}

/** The layout at a coarser scale: each step of scale joins two neighbouring buckets. */
export function coarserLayout(layout: Exponential, scale: number): Exponential {
  const shift = layout.scale - scale;
  if (shift === 0) return layout;
  return { ...layout, scale, negative: downRange(layout.negative, shift), positive: downRange(layout.positive, shift) };
}

/** The first index whose bucket lies wholly beyond a distance from zero; buckets before it count as zero there. */
function firstBeyond(threshold: number, scale: number): number {
  if (threshold <= 0) return Number.NEGATIVE_INFINITY;
  let index = Math.floor(Math.log2(threshold) * 2 ** scale) - 1;
  while (exponentialBound(scale, index) < threshold) index++;
  return index;
}

function beyond({ from, width }: BucketRange, first: number): BucketRange {
  const start = Math.max(from, first);
  const left = from + width - start;
  return left > 0 ? { from: start, width: left } : { from: 0, width: 0 };
}

/**
 * A layout whose zero bucket reaches at least so far, up to the bound of a bucket: buckets inside it are zero
 * (OpenTelemetry metrics data model, "Zero Count and Zero Threshold").
 */
function withZero(layout: Exponential, threshold: number): Exponential {
  if (threshold <= layout.zeroThreshold) return layout;
  const first = firstBeyond(threshold, layout.scale);
  return {
    ...layout,
    zeroThreshold: Math.max(threshold, exponentialBound(layout.scale, first)),
    negative: beyond(layout.negative, first),
    positive: beyond(layout.positive, first),
  };
}

/** How many buckets a layout has beside the zero bucket. */
function buckets({ negative, positive }: Exponential): number {
  return negative.width + positive.width;
}

/** The finest exponential layout that both can be brought to, with no more than so many buckets. */
export function commonExponential(a: Exponential, b: Exponential, most = MAX_COMMON_BUCKETS): Exponential {
  let scale = Math.min(a.scale, b.scale);
  for (;;) {
    const zero = Math.max(a.zeroThreshold, b.zeroThreshold);
    const [one, other] = [coarserLayout(a, scale), coarserLayout(b, scale)];
    const union = a.zeroThreshold === b.zeroThreshold ? unionLayout(one, other) : joined(one, other, zero);
    if (buckets(union) <= most) return union;
    scale--;
  }
}

/** Layouts of one scale and different zero buckets. */
function joined(a: Exponential, b: Exponential, zero: number): Exponential {
  const threshold = Math.max(withZero(a, zero).zeroThreshold, withZero(b, zero).zeroThreshold);
  return unionLayout(withZero({ ...a }, threshold), { ...withZero(b, threshold), zeroThreshold: threshold });
}

/** The bounds that both have; none where they share none, so that only their totals compare. */
function commonExplicit(a: Explicit, b: Explicit): Explicit {
  const own = new Set(b.bounds);
  return { kind: "explicit", bounds: a.bounds.filter((bound) => own.has(bound)) };
}

/** The finest layout that points of both can be brought to exactly; null where they are of different kinds. */
export function commonLayout(a: Layout, b: Layout): Layout | null {
  if (a.kind === "exponential" && b.kind === "exponential") return commonExponential(a, b);
  if (a.kind === "explicit" && b.kind === "explicit") return commonExplicit(a, b);
  if (a.kind === "summary" && b.kind === "summary") return { kind: "summary", quantiles: [] };
  return a.kind === b.kind ? a : null;
}

function explicitMap(layout: Explicit, target: Explicit): Int32Array {
  const map = new Int32Array(layout.bounds.length + 1);
  let to = 0;
  for (let i = 0; i < map.length; i++) {
    map[i] = to;
    if (to < target.bounds.length && layout.bounds[i] === target.bounds[to]) to++;
  }
  return map;
}

function exponentialMap(layout: Exponential, target: Exponential): Int32Array {
  const shift = layout.scale - target.scale;
  const { negative, positive } = layout;
  const map = new Int32Array(1 + negative.width + positive.width);
  const place = (index: number, range: BucketRange, base: number) => {
    const at = shifted(index, shift) - range.from;
    // What lies before a range lies inside the zero bucket.
    return at >= 0 && at < range.width ? base + at : 0;
  };
  for (let i = 0; i < negative.width; i++) map[1 + i] = place(negative.from + i, target.negative, 1);
  const base = 1 + target.negative.width;
  for (let i = 0; i < positive.width; i++)
    map[1 + negative.width + i] = place(positive.from + i, target.positive, base);
  return map;
}

/** For each bucket column of a layout, its column in a layout that {@link commonLayout} gave of it and others. */
export function bucketMap(layout: Layout, target: Layout): Int32Array {
  if (layout.kind === "exponential" && target.kind === "exponential") return exponentialMap(layout, target);
  if (layout.kind === "explicit" && target.kind === "explicit") return explicitMap(layout, target);
  throw new Error(`a ${layout.kind} layout does not go onto a ${target.kind} one`);
}

/** The rows of a set brought to a layout that {@link commonLayout} gave. */
export function onto(set: PointSet, target: Layout): PointSet {
  if (set.layout === target) return set;
  const result = emptyPointSet(target, set.count);
  const { series, timeMs, timeNs, startMs, startNs, flags } = set;
  Object.assign(result, { series, timeMs, timeNs, startMs, startNs, flags });
  const tail = target.kind === "summary" ? 2 : 3;
  if (bucketColumns(target) > 0) {
    bucketMap(set.layout, target).forEach((to, from) => {
      const source = set.columns[from];
      const column = result.columns[to];
      for (let i = 0; i < set.count; i++) column[i] += source[i];
    });
  }
  for (let i = 1; i <= tail; i++) result.columns[result.columns.length - i] = set.columns[set.columns.length - i];
  return result;
}
