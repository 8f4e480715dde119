import { FLAG, type PointSet } from "../metric/model";
import type { Cells } from "./cells";
import type { SeriesGroup } from "./grouping";
import { amountOf, cut, levels } from "./increase";
import { tracksOf } from "./tracks";

/** Which number of a point is added up: its count (a counter's value, a histogram's observations) or its sum. */
export type Quantity = "count" | "sum";

function quantityColumn(set: PointSet, quantity: Quantity): Float64Array {
  if (set.layout.kind === "number" || quantity === "count") return levels(set);
  return set.columns[set.columns.length - 1];
}

/** Increases of a group by step, and of the whole window. NaN where nothing arrived. */
export interface Totals {
  steps: Float64Array;
  total: number;
  /** Points without a sum were met where sums were asked for. */
  withoutSum: boolean;
}

/** Adds up the increases of all series of a group. */
export function addUp(group: SeriesGroup, quantity: Quantity, cells: Cells, earliest: number): Totals {
  const { bounds } = cells;
  const size = bounds.length - 1;
  const sums = new Float64Array(size);
  const seen = new Uint8Array(size);
  const window = Float64Array.of(bounds[cells.windowStart], bounds[size]);
  let total = 0;
  let totalSeen = false;
  let withoutSum = false;
  for (const { identity, series } of group.members) {
    for (const { set, increases } of tracksOf(identity, series.parts, earliest)) {
      const column = quantityColumn(set, quantity);
      if (quantity === "sum" && set.layout.kind !== "number" && set.flags.some((flag) => flag & FLAG.noSum))
        withoutSum = true;
      const pieces = cut(increases, bounds);
      for (let p = 0; p < pieces.count; p++) {
        sums[pieces.cell[p]] += amountOf(column, pieces, p);
        seen[pieces.cell[p]] = 1;
      }
      const whole = cut(increases, window);
      for (let p = 0; p < whole.count; p++) {
        total += amountOf(column, whole, p);
        totalSeen = true;
      }
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
  return { steps, total: totalSeen ? total : Number.NaN, withoutSum };
}
