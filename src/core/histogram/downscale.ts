import { type BucketRange, emptyPointSet, type Layout, type PointSet } from "../metric/model";

type Exponential = Extract<Layout, { kind: "exponential" }>;

function downRange({ from, width }: BucketRange, shift: number): BucketRange {
  if (width === 0) return { from: 0, width: 0 };
  const low = from >> shift;
  return { from: low, width: ((from + width - 1) >> shift) - low + 1 };
}

/** The layout at a coarser scale: each step of scale joins two neighbouring buckets. */
export function coarserLayout(layout: Exponential, scale: number): Exponential {
  const shift = layout.scale - scale;
  return { ...layout, scale, negative: downRange(layout.negative, shift), positive: downRange(layout.positive, shift) };
}

/**
 * For each bucket column of a layout, its column in a coarser or wider one
 * (OpenTelemetry metrics data model, "Exponential Scale": index >> difference of the scales).
 */
export function bucketMap(layout: Exponential, target: Exponential): Int32Array {
  const shift = layout.scale - target.scale;
  const { negative, positive } = layout;
  const map = new Int32Array(1 + negative.width + positive.width);
  for (let i = 0; i < negative.width; i++) map[1 + i] = 1 + ((negative.from + i) >> shift) - target.negative.from;
  const base = 1 + target.negative.width;
  for (let i = 0; i < positive.width; i++) {
    map[1 + negative.width + i] = base + ((positive.from + i) >> shift) - target.positive.from;
  }
  return map;
}

/** The rows of a set brought to a coarser or wider layout. */
export function downscale(set: PointSet, target: Exponential): PointSet {
  const layout = set.layout as Exponential;
  const result = emptyPointSet(target, set.count);
  const { series, timeMs, timeNs, startMs, startNs, flags } = set;
  Object.assign(result, { series, timeMs, timeNs, startMs, startNs, flags });
  bucketMap(layout, target).forEach((to, from) => {
    const source = set.columns[from];
    const column = result.columns[to];
    for (let i = 0; i < set.count; i++) column[i] += source[i];
  });
  for (let i = 1; i <= 3; i++) result.columns[result.columns.length - i] = set.columns[set.columns.length - i];
  return result;
}
