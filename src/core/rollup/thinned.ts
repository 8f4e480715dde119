import type { PointSet } from "../metric/model";
import { increasesOf } from "../reading/increase";
import { takeRows } from "../strip/strip";
import { cellEnd } from "./cells";

/**
 * Rolls cumulative points up by leaving points out: what lies between the first and the last point of a cell adds
 * nothing that their difference does not say, as long as no reset lies between. So a reading whose bounds are bounds
 * of cells gives the same numbers, to the bit, as from all points.
 *
 * A row is left out only where neither it nor the row after it is a break (a reset, a changed start, a changed flag),
 * it is not the last of its cell, and the row before it lies in the same cell or exactly where the cell begins.
 */
export function thinned(set: PointSet, width: number, unbounded: boolean): PointSet {
  const { breaks } = increasesOf(set, "cumulative", unbounded);
  const isBreak = new Uint8Array(set.count + 1);
  for (const row of breaks) isBreak[row] = 1;
  const rows: number[] = [];
  let end = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < set.count; i++) {
    const own = cellEnd(set, i, width);
    const opens = own !== end && !(i > 0 && set.timeMs[i - 1] === own - width && set.timeNs[i - 1] === 0);
    const closes = i === set.count - 1 || cellEnd(set, i + 1, width) !== own;
    if (opens || closes || isBreak[i] || isBreak[i + 1]) rows.push(i);
    end = own;
  }
  return rows.length === set.count ? set : takeRows(set, Int32Array.from(rows));
}
