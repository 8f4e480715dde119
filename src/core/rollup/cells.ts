import type { PointSet } from "../metric/model";

/** Widths of the cells that points are rolled up to, ms. */
export const MINUTE = 60_000;
export const HOUR = 3600_000;

/** The end of the cell (end − width, end] that holds a row's time, ms. */
export function cellEnd({ timeMs, timeNs }: PointSet, row: number, width: number): number {
  const ms = timeMs[row];
  const end = Math.ceil(ms / width) * width;
  return end === ms && timeNs[row] > 0 ? end + width : end;
}
