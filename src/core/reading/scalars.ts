import { FLAG, type PointSet } from "../metric/model";
import type { Cells } from "./cells";
import type { SeriesGroup } from "./grouping";
import { amountsOf, cut, levels, partInside, SKIP } from "./increase";
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
  const low = bounds[cells.windowStart];
  const high = bounds[size];
  let total = 0;
  let totalSeen = false;
  let withoutSum = false;
  for (const { identity, series } of group.members) {
    for (const { set, increases } of tracksOf(identity, series.parts, earliest)) {
      const column = quantityColumn(set, quantity);
      if (quantity === "sum" && set.layout.kind !== "number" && set.flags.some((flag) => flag & FLAG.noSum))
        withoutSum = true;
      const amounts = amountsOf(column, increases);
      const { from, to, rule } = increases;
      const { row, cell, weight, count } = cut(increases, bounds);
      for (let p = 0; p < count; p++) {
        sums[cell[p]] += amounts[row[p]] * weight[p];
        seen[cell[p]] = 1;
      }
      for (let i = 0; i < amounts.length; i++) {
        if (rule[i] === SKIP) continue;
        if (from[i] >= low && to[i] <= high && from[i] < to[i]) {
          total += amounts[i];
          totalSeen = true;
          continue;
        }
        const part = partInside(increases, i, low, high);
        if (part === null) continue;
        total += amounts[i] * part;
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
