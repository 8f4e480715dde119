import { coarserLayout, downscale } from "../histogram/downscale";
import { type Layout, layoutKey, type MetricIdentity, type PointSet } from "../metric/model";
import { unionLayout } from "../metric/ranges";
import { takeRows } from "../strip/strip";
import {
  countColumns,
  increasesOf,
  NOTHING,
  type RowBefore,
  SKIP,
  startOf,
  type Track,
  trackOf,
  WHOLE,
} from "./increase";

type Exponential = Extract<Layout, { kind: "exponential" }>;

/** The coarsest scale and widest ranges of two exponential layouts. */
export function commonLayout(a: Exponential, b: Exponential): Exponential {
  const scale = Math.min(a.scale, b.scale);
  return unionLayout(coarserLayout(a, scale), coarserLayout(b, scale));
}

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

function timeOf({ set, row }: RowBefore): number {
  return set.timeMs[row] + set.timeNs[row] / 1e6;
}

function level({ set, row }: RowBefore): number {
  return countColumns(set).reduce((sum, column) => sum + column[row], 0);
}

/** A track of one row that adds nothing of itself. */
function silent(set: PointSet): Track {
  const increases = { ...increasesOf(set, "cumulative") };
  return { set, increases, opening: { rule: SKIP, from: Number.NaN, base: NOTHING }, before: null };
}

/** What the first point of a layout adds to the last point of another layout before it. */
function bridge(before: RowBefore, next: RowBefore, earliest: number): Track {
  const [a, b] = [before.set.layout, next.set.layout];
  if (a.kind === "exponential" && b.kind === "exponential" && a.zeroThreshold === b.zeroThreshold) {
    const layout = commonLayout(a, b);
    const last = { set: downscale(oneRow(before), layout), row: 0 };
    return trackOf(downscale(oneRow(next), layout), "cumulative", last, earliest, false);
  }
  // Bounds that differ cannot be subtracted: only a reset, whose point counts as a whole, can be told.
  const track = silent(oneRow(next));
  const { startMs, startNs } = next.set;
  const startChanged =
    before.set.startMs[before.row] !== startMs[next.row] || before.set.startNs[before.row] !== startNs[next.row];
  if (startChanged || level(next) < level(before)) {
    const start = startOf(next.set, next.row);
    const from = start >= timeOf(before) && start <= timeOf(next) ? start : timeOf(before);
    track.opening = { rule: WHOLE, from, base: NOTHING };
  }
  return track;
}

/**
 * The tracks of one series of a counter or histogram, in time order.
 *
 * @param parts its points as sets that follow each other in time
 * @param earliest the start of what was read, Unix ms
 */
export function tracksOf(identity: MetricIdentity, parts: readonly PointSet[], earliest: number): Track[] {
  const tracks: Track[] = [];
  const temporality = identity.temporality === "delta" ? "delta" : "cumulative";
  const unbounded = identity.kind === "sum" && !identity.monotonic;
  let before: RowBefore | null = null;
  for (const set of parts) {
    const increases = increasesOf(set, temporality, unbounded);
    const known: RowBefore | null = before;
    if (!known || temporality === "delta" || sameColumns(known.set.layout, set.layout)) {
      tracks.push(trackOf(set, temporality, known, earliest, unbounded));
    } else if (increases.opening >= 0) {
      const row = increases.breaks[increases.opening];
      tracks.push(bridge(known, { set, row }, earliest));
      tracks.push({ set, increases, opening: { rule: SKIP, from: Number.NaN, base: NOTHING }, before: null });
    }
    if (increases.last >= 0) before = { set, row: increases.last };
  }
  return tracks;
}

/** The value of a column in the row before a track's set, or 0. */
export function valueBefore({ before }: Track, column: number): number {
  return before ? before.set.columns[column][before.row] : 0;
}
