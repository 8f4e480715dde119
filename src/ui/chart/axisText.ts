import { digits } from "@/core/unit/format";
import type { Axis } from "./drawn";

/** Room for the values at a side: no less than this, and so much for each figure. */
const LEAST_AXIS = 62;
const FIGURE = 6.7;
/** Between the plot and what is written beside it, px. */
export const BESIDE = 8;
/** Room for the times below the plot, px. */
export const TIMES_HEIGHT = 30;

/** A value beside an axis; the topmost says its unit. */
export function tickText({ ticks, writer }: Axis, value: number): string {
  return value === ticks[ticks.length - 1] ? `${digits(value)} ${writer.suffix}`.trim() : digits(value);
}

/** The room that an axis takes, px. */
export function axisWidth(axis: Axis): number {
  return Math.max(LEAST_AXIS, 14 + FIGURE * Math.max(...axis.ticks.map((value) => tickText(axis, value).length)));
}
