/** The nouns of the data model: what a metric is and how its points are shaped in memory. */

export type AttributeValue = string | number | boolean | AttributeValue[] | { [key: string]: AttributeValue };
export type Attributes = Record<string, AttributeValue>;

export type Kind = "gauge" | "sum" | "histogram" | "exponential" | "summary";
export type Temporality = "none" | "delta" | "cumulative";

/** What makes two streams the same metric (OpenTelemetry metrics data model, "Timeseries model"). */
export interface MetricIdentity {
  name: string;
  kind: Kind;
  /** UCUM code as it was sent; "" where the sender gave none. */
  unit: string;
  temporality: Temporality;
  monotonic: boolean;
}

/** Whether a metric's points are levels that hold, rather than counts that are added up. */
export function isLevel({
  kind,
  monotonic,
  temporality,
}: Pick<MetricIdentity, "kind" | "monotonic" | "temporality">): boolean {
  return kind === "gauge" || (kind === "sum" && !monotonic && temporality === "cumulative");
}

/**
 * Whether a metric's points are parts of a whole: levels in the unit 1 whose name ends as the semantic conventions
 * (utilization) and OpenMetrics (ratio) have it.
 */
export function isPart(metric: MetricIdentity): boolean {
  return isLevel(metric) && metric.unit === "1" && /[._](utilization|ratio)$/.test(metric.name);
}

/** Instrumentation scope of a series. */
export interface Scope {
  name: string;
  version: string;
  /** Missing where it has none. */
  attributes?: Attributes;
}

/** Everything that tells one series of a metric from another. */
export interface SeriesIdentity {
  resource: Attributes;
  scope: Scope;
  attributes: Attributes;
}

/**
 * Bits of a point's flags. The absent-bits are set only where a field was not sent, so that 0 is the common case.
 * `resumed`: what a running total added up to here was told by another series; it is only a base for what follows.
 */
export const FLAG = {
  noRecordedValue: 1,
  integer: 2,
  noSum: 4,
  noMin: 8,
  noMax: 16,
  resumed: 32,
  absent: 64,
  again: 128,
} as const;

/** Consecutive buckets of one sign of an exponential histogram: index `from` and `width` of them. */
export interface BucketRange {
  from: number;
  width: number;
}

/** How the columns of a point set are to be read. */
export type Layout =
  | { kind: "number" }
  | { kind: "explicit"; bounds: readonly number[] }
  | { kind: "exponential"; scale: number; zeroThreshold: number; negative: BucketRange; positive: BucketRange }
  | { kind: "summary"; quantiles: readonly number[] }
  | { kind: "levels" };

/**
 * Points of one metric that share a layout, as columns of equal length.
 * `columns` by layout kind:
 * - number: value
 * - explicit: a column per bucket (bounds + 1), min, max, sum
 * - exponential: zero count, negative buckets (ascending index), positive buckets, min, max, sum
 * - summary: a column per quantile, count, sum
 * - levels, several points of a gauge rolled up, the first at the row's start and the last at its time: min, max,
 *   last, held (ms between first and last for which values held), weighted (the sum of each value times its ms),
 *   hold (ms for which the last holds on where no other follows)
 * Times are Unix milliseconds with the nanoseconds inside the millisecond in a column of their own;
 * a start time of 0 means unknown.
 */
export interface PointSet {
  layout: Layout;
  count: number;
  series: Float64Array;
  timeMs: Float64Array;
  timeNs: Float64Array;
  startMs: Float64Array;
  startNs: Float64Array;
  flags: Float64Array;
  columns: Float64Array[];
  /** Room for what a reader worked out of the set and wants to find again with it. */
  workings?: unknown;
}

/** How many bucket columns a layout has (0 where it has none). */
export function bucketColumns(layout: Layout): number {
  switch (layout.kind) {
    case "explicit":
      return layout.bounds.length + 1;
    case "exponential":
      return 1 + layout.negative.width + layout.positive.width;
    default:
      return 0;
  }
}

/** How many columns a point set of this layout has. */
export function columnCount(layout: Layout): number {
  switch (layout.kind) {
    case "number":
      return 1;
    case "summary":
      return layout.quantiles.length + 2;
    case "levels":
      return 6;
    default:
      return bucketColumns(layout) + 3;
  }
}

/** Key under which point sets may be put together; exponential ranges may differ within one key. */
export function layoutKey(layout: Layout): string {
  switch (layout.kind) {
    case "number":
      return "n";
    case "explicit":
      return `e${layout.bounds.join(",")}`;
    case "exponential":
      return `x${layout.scale},${layout.zeroThreshold}`;
    case "summary":
      return `q${layout.quantiles.join(",")}`;
    case "levels":
      return "l";
  }
}

/** An empty point set with room for `count` points; its columns share one buffer. */
export function emptyPointSet(layout: Layout, count: number): PointSet {
  const width = columnCount(layout);
  const all = new Float64Array((width + 6) * count);
  const column = (i: number) => all.subarray(i * count, (i + 1) * count);
  const columns: Float64Array[] = new Array(width);
  for (let i = 0; i < width; i++) columns[i] = column(6 + i);
  return {
    layout,
    count,
    series: column(0),
    timeMs: column(1),
    timeNs: column(2),
    startMs: column(3),
    startNs: column(4),
    flags: column(5),
    columns,
  };
}

let zeros = new Float64Array(4096);

/** A column of zeros that is shared: never write to it. */
export function zeroColumn(count: number): Float64Array {
  if (count > zeros.length) zeros = new Float64Array(count * 2);
  return zeros.subarray(0, count);
}

/** Whether a column holds only zeros; known at once for shared ones. */
export function isZeroColumn(column: Float64Array): boolean {
  if (column.buffer === zeros.buffer) return true;
  for (let i = 0; i < column.length; i++) if (column[i] !== 0) return false;
  return true;
}
