import { bucketMap } from "../histogram/downscale";
import { type Interval, toIntervals } from "../histogram/intervals";
import { bucketColumns, FLAG, type Layout, layoutKey } from "../metric/model";
import type { Cells } from "./cells";
import type { SeriesGroup } from "./grouping";
import type { Track } from "./increase";
import { amountOf, cut } from "./pieces";
import { commonLayout, tracksOf, valueBefore } from "./tracks";

/** Cells × buckets that one reading may hold; beyond it the reading is refused. */
const MOST_NUMBERS = 60_000_000;

/** Too much for one reading. */
export class TooMuchError extends Error {
  override name = "TooMuchError";
}

interface Accumulator {
  layout: Layout;
  width: number;
  /** Counts by cell, then bucket. */
  counts: Float64Array;
}

/** Histograms of a group by cell: merged over its series, apart by layouts that cannot share buckets. */
export class Distribution {
  private readonly accumulators: Accumulator[];
  private readonly min: Float64Array;
  private readonly max: Float64Array;
  private readonly loose: Uint8Array;
  private readonly seen: Uint8Array;

  constructor(
    layouts: readonly Layout[],
    private readonly cells: Cells,
  ) {
    const size = cells.bounds.length - 1;
    this.accumulators = layouts.map((layout) => {
      const width = bucketColumns(layout);
      return { layout, width, counts: new Float64Array(width * size) };
    });
    this.min = new Float64Array(size).fill(Number.POSITIVE_INFINITY);
    this.max = new Float64Array(size).fill(Number.NEGATIVE_INFINITY);
    this.loose = new Uint8Array(size);
    this.seen = new Uint8Array(size);
  }

  add(track: Track): void {
    const { layout, columns, flags } = track.set;
    const pieces = cut(track, this.cells.bounds);
    if (pieces.count === 0) return;
    const accumulator = this.accumulators.find(({ layout: other }) => sharesBuckets(layout, other))!;
    const { counts, width } = accumulator;
    const map =
      layout.kind === "exponential" && accumulator.layout.kind === "exponential"
        ? bucketMap(layout, accumulator.layout)
        : null;
    const buckets = bucketColumns(layout);
    const { cell, count } = pieces;
    const observed = new Float64Array(count);
    for (let c = 0; c < buckets; c++) {
      const column = columns[c];
      const before = valueBefore(track, c);
      const target = map ? map[c] : c;
      for (let p = 0; p < count; p++) {
        const amount = amountOf(column, before, pieces, p);
        if (amount === 0) continue;
        counts[cell[p] * width + target] += amount;
        observed[p] += amount;
      }
    }
    const min = columns[buckets];
    const max = columns[buckets + 1];
    for (let p = 0; p < count; p++) {
      // The last row of a piece speaks for all of it: since its start, a series' minimum only falls, its maximum rises.
      const row = pieces.row[p];
      this.seen[cell[p]] = 1;
      if (observed[p] <= 0) continue;
      if (flags[row] & (FLAG.noMin | FLAG.noMax)) this.loose[cell[p]] = 1;
      else {
        if (min[row] < this.min[cell[p]]) this.min[cell[p]] = min[row];
        if (max[row] > this.max[cell[p]]) this.max[cell[p]] = max[row];
      }
    }
  }

  /** The merged intervals of a run of cells, or null where nothing arrived in them. */
  intervals(first: number, after: number): Interval[] | null {
    let seen = false;
    let loose = false;
    let min = Number.POSITIVE_INFINITY;
    let max = Number.NEGATIVE_INFINITY;
    for (let k = first; k < after; k++) {
      seen ||= this.seen[k] === 1;
      loose ||= this.loose[k] === 1;
      min = Math.min(min, this.min[k]);
      max = Math.max(max, this.max[k]);
    }
    if (!seen) return null;
    const known = !loose && min <= max;
    const result: Interval[] = [];
    for (const { layout, width, counts } of this.accumulators) {
      let sums: Float64Array;
      if (after - first === 1) sums = counts.subarray(first * width, after * width);
      else {
        sums = new Float64Array(width);
        for (let k = first; k < after; k++) for (let c = 0; c < width; c++) sums[c] += counts[k * width + c];
      }
      for (const one of known ? toIntervals(layout, sums, min, max) : toIntervals(layout, sums)) result.push(one);
    }
    return result;
  }

  step(i: number): Interval[] | null {
    return this.intervals(this.cells.first[i], this.cells.after[i]);
  }

  window(): Interval[] | null {
    return this.intervals(this.cells.windowStart, this.cells.bounds.length - 1);
  }
}

function sharesBuckets(a: Layout, b: Layout): boolean {
  if (a.kind === "exponential" && b.kind === "exponential") return a.zeroThreshold === b.zeroThreshold;
  return layoutKey(a) === layoutKey(b);
}

/** The layouts that hold all tracks: one per set of bounds, one per zero threshold for exponential ones. */
function layoutsOf(tracks: readonly Track[]): Layout[] {
  const layouts: Layout[] = [];
  const met = new Set<Layout>();
  for (const { set } of tracks) {
    const { layout } = set;
    if (met.has(layout)) continue;
    met.add(layout);
    const place = layouts.findIndex((other) => sharesBuckets(layout, other));
    if (place < 0) layouts.push(layout);
    else {
      const other = layouts[place];
      if (layout.kind === "exponential" && other.kind === "exponential") layouts[place] = commonLayout(layout, other);
    }
  }
  return layouts;
}

/** Merges the histograms of a group's series by cell. @throws TooMuchError */
export function distributionOf(group: SeriesGroup, cells: Cells, earliest: number): Distribution {
  const tracks = group.members.flatMap(({ identity, series }) => tracksOf(identity, series.parts, earliest));
  const layouts = layoutsOf(tracks);
  const numbers = layouts.reduce((sum, layout) => sum + bucketColumns(layout), 0) * (cells.bounds.length - 1);
  if (numbers > MOST_NUMBERS) {
    throw new TooMuchError(
      `${numbers.toLocaleString("en-GB")} bucket counts are more than one reading may hold; take longer steps or fewer series`,
    );
  }
  const distribution = new Distribution(layouts, cells);
  for (const track of tracks) distribution.add(track);
  return distribution;
}
