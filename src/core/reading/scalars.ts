import { bucketColumns, FLAG, isZeroColumn, type PointSet } from "../metric/model";
import type { Cells } from "./cells";
import type { SeriesGroup } from "./grouping";
import type { Track } from "./increase";
import { amountOf, cut } from "./increaseSegments";
import { Noticed } from "./noticed";
import { tracksOf, valueBefore } from "./tracks";

/**
 * Which number of a point is added up: its count (a counter's value, a histogram's observations), its sum, or the count of
 * those points that have a sum.
 */
export type Quantity = "count" | "sum" | "count with sum";

/** Places of the columns that are added up. */
function placesOf({ layout, columns }: PointSet, quantity: Quantity): { first: number; after: number } {
  if (layout.kind === "number") return { first: 0, after: 1 };
  if (quantity === "sum") return { first: columns.length - 1, after: columns.length };
  if (layout.kind === "summary") return { first: layout.quantiles.length, after: layout.quantiles.length + 1 };
  return { first: 0, after: bucketColumns(layout) };
}

/** Adds a track's increases to cells. @returns whether some were infinite or no numbers, and were left out */
function addTrack(
  track: Track,
  quantity: Quantity,
  bounds: Float64Array,
  sums: Float64Array,
  seen: Uint8Array,
): boolean {
  const segments = cut(track, bounds);
  const { cell, count } = segments;
  const { columns } = track.set;
  const { first, after } = placesOf(track.set, quantity);
  let odd = false;
  // No sum is not a sum of zero: what has none is left out.
  const { flags } = track.set;
  const lacks = quantity === "count" || track.set.layout.kind === "number" || isZeroColumn(flags) ? null : segments.row;
  const isLacking = (p: number) => lacks !== null && (flags[lacks[p]] & FLAG.noSum) !== 0;
  for (let c = first; c < after; c++) {
    const column = columns[c];
    const before = valueBefore(track, c);
    for (let p = 0; p < count; p++) {
      if (isLacking(p)) continue;
      const amount = amountOf(column, before, segments, p);
      if (Number.isFinite(amount)) sums[cell[p]] += amount;
      else odd = true;
    }
  }
  for (let p = 0; p < count; p++) if (!isLacking(p)) seen[cell[p]] = 1;
  return odd;
}

/** When the first increase of a group's series inside (from, to] begins, Unix ms; `to` where none does. */
export function firstCovered(group: SeriesGroup, from: number, to: number, earliest: number): number {
  let first = to;
  for (const { identity, series } of group.members) {
    for (const track of tracksOf(identity, series.parts, earliest).tracks) {
      const { row, count, base } = cut(track, Float64Array.of(from, to));
      for (let p = 0; p < count; p++) {
        // A difference begins at the row that it is one to; a whole value where its interval begins.
        const begins = base[p] >= 0 ? track.increases.to[base[p]] : beginning(track, row[p]);
        first = Math.min(first, Math.max(from, begins));
      }
    }
  }
  return first;
}

/** Where the interval of a row begins that is not a difference to another row of its set. */
function beginning({ increases, opening }: Track, row: number): number {
  const place = increases.breaks.indexOf(row);
  return place === increases.opening ? opening.from : increases.from[place];
}

/** Increases of a group by step, and of the whole window. NaN where nothing arrived. */
export interface Totals {
  steps: Float64Array;
  total: number;
  /** Points without a sum were met where sums were asked for. */
  withoutSum: boolean;
  /** Amounts that are infinite or no numbers were met, and left out. */
  odd: boolean;
  /** What was noticed of how the series are written. */
  noticed: Noticed;
}

/** Adds up the increases of all series of a group. */
export function addUp(group: SeriesGroup, quantity: Quantity, cells: Cells, earliest: number): Totals {
  const { bounds } = cells;
  const size = bounds.length - 1;
  const sums = new Float64Array(size);
  const seen = new Uint8Array(size);
  const window = Float64Array.of(bounds[cells.windowStart], bounds[cells.windowEnd]);
  const whole = new Float64Array(1);
  const wholeSeen = new Uint8Array(1);
  let withoutSum = false;
  let odd = false;
  const noticed = new Noticed();
  for (const { identity, series } of group.members) {
    const found = tracksOf(identity, series.parts, earliest);
    noticed.add(series.attributes, found);
    for (const track of found.tracks) {
      const { layout, flags } = track.set;
      if (quantity !== "count" && layout.kind !== "number" && !isZeroColumn(flags))
        withoutSum ||= flags.some((flag) => flag & FLAG.noSum);
      odd = addTrack(track, quantity, bounds, sums, seen) || odd;
      addTrack(track, quantity, window, whole, wholeSeen);
    }
  }
  const steps = new Float64Array(cells.first.length);
  for (let i = 0; i < steps.length; i++) {
    let sum = 0;
    let any = false;
    for (let k = cells.first[i]; k < cells.after[i]; k++) {
      sum += sums[k];
      any ||= seen[k] === 1;
    }
    steps[i] = any ? sum : Number.NaN;
  }
  return { steps, total: wholeSeen[0] ? whole[0] : Number.NaN, withoutSum, odd, noticed };
}
