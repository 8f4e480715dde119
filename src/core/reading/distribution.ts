import type { Edges } from "../compare/side";
import { bucketMap, commonExponential } from "../histogram/common";
import { bucketBounds, type Interval, toIntervals } from "../histogram/intervals";
import type { Bounded } from "../histogram/quantile";
import { bucketColumns, FLAG, type Layout, layoutKey } from "../metric/model";
import type { Cells } from "./cells";
import type { SeriesGroup } from "./grouping";
import { BEFORE, NOTHING, type Track } from "./increase";
import { amountOf, cut, type IncreaseSegments } from "./increaseSegments";
import { Noticed } from "./noticed";
import { tracksOf, valueBefore } from "./tracks";

/** Cells × buckets that one reading may hold; beyond it the reading is refused. */
const MAX_NUMBERS = 60_000_000;
/** Zero buckets of different width that are kept apart; beyond it they are joined at the widest. */
const MAX_ZERO_BUCKETS = 8;
/** Counts below it are what rounding left of a difference. */
const NO_COUNT = 1e-9;

/** Too much for one reading. */
export class TooMuchError extends Error {
  override name = "TooMuchError";
}

/** Between which values the least, or the greatest, observation lies. */
interface End {
  low: number;
  high: number;
}

/** Histograms that share buckets, by cell. */
class Accumulator {
  readonly width: number;
  /** Counts by cell, then bucket. */
  readonly counts: Float64Array;
  /** Least and greatest observation, as far as they are known. */
  private readonly min: Float64Array;
  private readonly max: Float64Array;
  /** Cells in which some observations have no known least or greatest, and in which some may be below zero. */
  private readonly looseMin: Uint8Array;
  private readonly looseMax: Uint8Array;
  private readonly signed: Uint8Array;
  private readonly low: Float64Array;
  private readonly high: Float64Array;
  /** Bucket columns by rising value. */
  private readonly rising: Int32Array;

  constructor(
    readonly layout: Layout,
    size: number,
  ) {
    this.width = bucketColumns(layout);
    this.counts = new Float64Array(this.width * size);
    this.min = new Float64Array(size).fill(Number.POSITIVE_INFINITY);
    this.max = new Float64Array(size).fill(Number.NEGATIVE_INFINITY);
    this.looseMin = new Uint8Array(size);
    this.looseMax = new Uint8Array(size);
    this.signed = new Uint8Array(size);
    const { low, high } = bucketBounds(layout);
    this.low = low;
    this.high = high;
    this.rising = Int32Array.from(low.keys()).sort((a, b) => low[a] - low[b]);
  }

  /** Adds segments of a track; `seen` and `observed` are told per cell and per piece. */
  add(track: Track, segments: IncreaseSegments): void {
    const { layout, columns, flags } = track.set;
    const { counts, width } = this;
    const map = layout === this.layout || layout.kind !== "exponential" ? null : bucketMap(layout, this.layout);
    const buckets = bucketColumns(layout);
    const { cell, count, row, base } = segments;
    const observed = new Float64Array(count);
    for (let c = 0; c < buckets; c++) {
      const column = columns[c];
      const before = valueBefore(track, c);
      const target = map ? map[c] : c;
      for (let p = 0; p < count; p++) {
        const amount = amountOf(column, before, segments, p);
        if (amount === 0) continue;
        counts[cell[p] * width + target] += amount;
        observed[p] += amount;
      }
    }
    const min = columns[buckets];
    const max = columns[buckets + 1];
    const beforeMin = valueBefore(track, buckets);
    const beforeMax = valueBefore(track, buckets + 1);
    const beforeFlags = track.before ? track.before.set.flags[track.before.row] : 0;
    for (let p = 0; p < count; p++) {
      if (observed[p] <= 0) continue;
      const k = cell[p];
      const at = row[p];
      const from = base[p];
      const flag = flags[at] | (from >= 0 ? flags[from] : from === BEFORE ? beforeFlags : 0);
      // A running histogram's least and greatest are of its whole life: they are of these observations only where they
      // moved meanwhile.
      const least = from >= 0 ? min[from] : beforeMin;
      const greatest = from >= 0 ? max[from] : beforeMax;
      if (flag & FLAG.noMin || (from !== NOTHING && !(min[at] < least))) this.looseMin[k] = 1;
      else if (min[at] < this.min[k]) this.min[k] = min[at];
      if (flag & FLAG.noMax || (from !== NOTHING && !(max[at] > greatest))) this.looseMax[k] = 1;
      else if (max[at] > this.max[k]) this.max[k] = max[at];
      // The standard wants no sum of what may be below zero, so what has a sum is not.
      if (flag & FLAG.noSum || min[at] < 0) this.signed[k] = 1;
    }
  }

  private outermost(cell: number, ascending: boolean): number {
    const { counts, width, rising } = this;
    for (let i = 0; i < width; i++) {
      const column = rising[ascending ? i : width - 1 - i];
      if (counts[cell * width + column] > NO_COUNT) return column;
    }
    return -1;
  }

  /** Where the least observation of a cell lies; null without observations. */
  private least(cell: number): End | null {
    const column = this.outermost(cell, true);
    if (column < 0) return null;
    if (!this.looseMin[cell]) return { low: this.min[cell], high: this.min[cell] };
    const { low, high } = this;
    const isFirst = low[column] === Number.NEGATIVE_INFINITY;
    const floor = isFirst && !this.signed[cell] && high[column] >= 0 ? 0 : low[column];
    return { low: Math.min(floor, this.min[cell]), high: Math.min(high[column], this.min[cell]) };
  }

  /** Where the greatest observation of a cell lies; null without observations. */
  private greatest(cell: number): End | null {
    const column = this.outermost(cell, false);
    if (column < 0) return null;
    if (!this.looseMax[cell]) return { low: this.max[cell], high: this.max[cell] };
    return { low: Math.max(this.low[column], this.max[cell]), high: Math.max(this.high[column], this.max[cell]) };
  }

  /** Least and greatest over a run of cells. */
  ends(first: number, after: number): { least: End; greatest: End } | null {
    const least: End = { low: Number.POSITIVE_INFINITY, high: Number.POSITIVE_INFINITY };
    const greatest: End = { low: Number.NEGATIVE_INFINITY, high: Number.NEGATIVE_INFINITY };
    let any = false;
    for (let k = first; k < after; k++) {
      const lower = this.least(k);
      const upper = this.greatest(k);
      if (!lower || !upper) continue;
      any = true;
      least.low = Math.min(least.low, lower.low);
      least.high = Math.min(least.high, lower.high);
      greatest.low = Math.max(greatest.low, upper.low);
      greatest.high = Math.max(greatest.high, upper.high);
    }
    return any ? { least, greatest } : null;
  }

  /** The buckets of a run of cells, tightened by what is known of their ends. */
  intervals(first: number, after: number): Interval[] {
    const ends = this.ends(first, after);
    if (!ends) return [];
    const { counts, width, layout } = this;
    let sums: Float64Array;
    if (after - first === 1) sums = counts.subarray(first * width, after * width);
    else {
      sums = new Float64Array(width);
      for (let k = first; k < after; k++) for (let c = 0; c < width; c++) sums[c] += counts[k * width + c];
    }
    return toIntervals(layout, sums, ends.least.low, ends.greatest.high);
  }
}

/** Histograms of a group by cell: merged over its series, apart by layouts that cannot share buckets. */
export class Distribution {
  private readonly accumulators: Accumulator[];
  private readonly seen: Uint8Array;

  constructor(
    private readonly layouts: JoinedLayouts,
    private readonly cells: Cells,
    readonly noticed: Noticed,
  ) {
    const size = cells.bounds.length - 1;
    this.accumulators = layouts.joined.map((layout) => new Accumulator(layout, size));
    this.seen = new Uint8Array(size);
  }

  add(track: Track): void {
    const segments = cut(track, this.cells.bounds);
    if (segments.count === 0) return;
    this.accumulators[this.layouts.placeOf(track.set.layout)].add(track, segments);
    for (let p = 0; p < segments.count; p++) this.seen[segments.cell[p]] = 1;
  }

  private arrived(first: number, after: number): boolean {
    for (let k = first; k < after; k++) if (this.seen[k] === 1) return true;
    return false;
  }

  /** The merged intervals of a run of cells, or null where nothing arrived in them. */
  private intervals(first: number, after: number): Interval[] | null {
    if (!this.arrived(first, after)) return null;
    return this.accumulators.flatMap((accumulator) => accumulator.intervals(first, after));
  }

  /**
   * The bounds of all buckets, rising, none below 0, and which of them lie inside no other bucket. Where the layout changed,
   * what one of them leaves open is not told apart by the bounds of the other.
   */
  edges(): Edges {
    const layouts = this.accumulators.map(({ layout }) => {
      const { low, high } = bucketBounds(layout);
      const bounds = new Set([...low, ...high].map((bound) => Math.max(0, bound)));
      return { bounds, from: Math.min(...bounds), to: Math.max(...bounds) };
    });
    const bounds = Float64Array.from(new Set(layouts.flatMap((layout) => [...layout.bounds]))).sort();
    const splitsNone = (edge: number) =>
      layouts.every((layout) => layout.bounds.has(edge) || edge <= layout.from || edge >= layout.to);
    return { bounds, known: Uint8Array.from(bounds, (edge) => (splitsNone(edge) ? 1 : 0)) };
  }

  step(i: number): Interval[] | null {
    return this.intervals(this.cells.first[i], this.cells.after[i]);
  }

  window(): Interval[] | null {
    return this.intervals(this.cells.windowStart, this.cells.windowEnd);
  }

  /** The least or greatest observation of a step (null: of the window), with the interval in which it must lie. */
  extreme(end: "min" | "max", step: number | null): Bounded | null {
    const { first, after, windowStart, windowEnd } = this.cells;
    const [from, to] = step === null ? [windowStart, windowEnd] : [first[step], after[step]];
    const found = this.accumulators.flatMap((accumulator) => accumulator.ends(from, to) ?? []);
    if (found.length === 0) return null;
    if (end === "min") {
      const low = Math.min(...found.map(({ least }) => least.low));
      const high = Math.min(...found.map(({ least }) => least.high));
      return { value: Number.isFinite(low) ? low : high, low, high };
    }
    const low = Math.max(...found.map(({ greatest }) => greatest.low));
    const high = Math.max(...found.map(({ greatest }) => greatest.high));
    return { value: Number.isFinite(high) ? high : low, low, high };
  }
}

function bucketsKey(layout: Layout): string {
  return layout.kind === "exponential" ? `x${layout.zeroThreshold}` : layoutKey(layout);
}

/** The layouts that hold all tracks: one per set of bounds, one per zero threshold for exponential ones. */
class JoinedLayouts {
  readonly joined: Layout[] = [];
  private readonly places = new Map<string, number>();
  private readonly known = new Map<Layout, number>();
  private zeroBuckets = 0;

  take(layout: Layout): void {
    if (this.known.has(layout)) return;
    const key = bucketsKey(layout);
    let place = this.places.get(key);
    if (place === undefined && layout.kind === "exponential" && this.zeroBuckets >= MAX_ZERO_BUCKETS)
      place = this.joined.findIndex(({ kind }) => kind === "exponential");
    if (place === undefined) {
      place = this.joined.push(layout) - 1;
      if (layout.kind === "exponential") this.zeroBuckets++;
    } else {
      const other = this.joined[place];
      if (layout.kind === "exponential" && other.kind === "exponential")
        this.joined[place] = commonExponential(layout, other);
    }
    this.places.set(key, place);
    this.known.set(layout, place);
  }

  placeOf(layout: Layout): number {
    return this.known.get(layout)!;
  }
}

/** Merges the histograms of a group's series by cell. @throws TooMuchError */
export function distributionOf(group: SeriesGroup, cells: Cells, earliest: number): Distribution {
  const noticed = new Noticed();
  const tracks = group.members.flatMap(({ identity, series }) => {
    const found = tracksOf(identity, series.parts, earliest);
    noticed.add(series.attributes, found);
    return found.tracks;
  });
  const layouts = new JoinedLayouts();
  for (const { set } of tracks) layouts.take(set.layout);
  const numbers = layouts.joined.reduce((sum, layout) => sum + bucketColumns(layout), 0) * (cells.bounds.length - 1);
  if (numbers > MAX_NUMBERS) {
    throw new TooMuchError(
      `${numbers.toLocaleString("en-GB")} bucket counts are more than one reading may hold; take longer steps or fewer series`,
    );
  }
  const distribution = new Distribution(layouts, cells, noticed);
  for (const track of tracks) distribution.add(track);
  return distribution;
}
