import { commonLayout, onto } from "../histogram/common";
import { bucketColumns, type Layout, layoutKey, type MetricIdentity, type PointSet } from "../metric/model";
import { takeRows } from "../strip/strip";
import { BEFORE, increasesOf, NOTHING, type RowBefore, SKIP, type Track, trackOf } from "./increase";
import { writersOf } from "./writers";

/** Whether columns of two layouts stand for the same, one by one. */
function sameColumns(a: Layout, b: Layout): boolean {
  if (a === b) return true;
  if (layoutKey(a) !== layoutKey(b)) return false;
  if (a.kind !== "exponential" || b.kind !== "exponential") return true;
  return (
    a.positive.from === b.positive.from &&
    a.positive.width === b.positive.width &&
    a.negative.from === b.negative.from &&
    a.negative.width === b.negative.width
  );
}

function oneRow({ set, row }: RowBefore): PointSet {
  return takeRows(set, Int32Array.of(row));
}

/** What the first point of a layout adds to the last point of another layout before it, on the buckets of both. */
function bridge(before: RowBefore, next: RowBefore, common: Layout, earliest: number): Track {
  const last = { set: onto(oneRow(before), common), row: 0 };
  return trackOf(onto(oneRow(next), common), "cumulative", last, earliest, false);
}

/** Whether neither of two sets of bounds holds the other, so that buckets are lost between them. */
function losesBuckets(a: Layout, b: Layout, common: Layout): boolean {
  if (common.kind !== "explicit") return false;
  return bucketColumns(common) < Math.min(bucketColumns(a), bucketColumns(b));
}

/** What one series of a counter or histogram adds. */
export interface SeriesTracks {
  /** By writer, in the order of time. */
  tracks: Track[];
  /** How many processes write the series at the same time. */
  writers: number;
  /** The bounds changed without a reset to ones that do not nest with those before. */
  bucketsLost: boolean;
}

function addWriter(result: SeriesTracks, identity: MetricIdentity, parts: readonly PointSet[], earliest: number): void {
  const temporality = identity.temporality === "delta" ? "delta" : "cumulative";
  const unbounded = identity.kind === "sum" && !identity.monotonic;
  let before: RowBefore | null = null;
  for (const set of parts) {
    const increases = increasesOf(set, temporality, unbounded);
    const known: RowBefore | null = before;
    if (!known || temporality === "delta" || sameColumns(known.set.layout, set.layout)) {
      result.tracks.push(trackOf(set, temporality, known, earliest, unbounded));
    } else if (increases.opening >= 0) {
      const row = increases.breaks[increases.opening];
      const common = commonLayout(known.set.layout, set.layout) ?? set.layout;
      const bridged = bridge(known, { set, row }, common, earliest);
      if (bridged.opening.base === BEFORE) result.bucketsLost ||= losesBuckets(known.set.layout, set.layout, common);
      result.tracks.push(bridged);
      result.tracks.push({ set, increases, opening: { rule: SKIP, from: Number.NaN, base: NOTHING }, before: null });
    }
    if (increases.last >= 0) before = { set, row: increases.last };
  }
}

/**
 * The tracks of one series of a counter or histogram.
 *
 * @param parts its points as sets that follow each other in time
 * @param earliest the start of what was read, Unix ms
 */
export function tracksOf(identity: MetricIdentity, parts: readonly PointSet[], earliest: number): SeriesTracks {
  const writers = identity.temporality === "delta" ? [parts] : writersOf(parts);
  const result: SeriesTracks = { tracks: [], writers: writers.length, bucketsLost: false };
  for (const own of writers) addWriter(result, identity, own, earliest);
  return result;
}

/** The value of a column in the row before a track's set, or 0. */
export function valueBefore({ before }: Track, column: number): number {
  return before ? before.set.columns[column][before.row] : 0;
}
