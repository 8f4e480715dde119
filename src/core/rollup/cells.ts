import type { PointSet } from "../metric/model";
import { HOUR } from "../window/lengths";

/** Widths of the cells that points are rolled up to, ms. */

/** Spans in which rolled-up points are complete or not: of minutes and of hours, ms. The store merges by them. */
export const MINUTES_SPAN = 2 * HOUR;
export const HOURS_SPAN = 24 * HOUR;

/** The end of the cell (end − width, end] that holds a row's time, ms. */
export function cellEnd({ timeMs, timeNs }: PointSet, row: number, width: number): number {
  const ms = timeMs[row];
  const end = Math.ceil(ms / width) * width;
  return end === ms && timeNs[row] > 0 ? end + width : end;
}
