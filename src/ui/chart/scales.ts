import type { Span } from "@/core/window/window";
import type { Axis } from "./drawn";

/** The plot inside its chart, px. */
export interface Plot {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Where a moment lies across the plot, px. */
export function acrossOf({ from, to }: Span, { x, width }: Plot): (moment: number) => number {
  return (moment) => x + ((moment - from) / (to - from)) * width;
}

/** Where a height lies in the plot, px; heights are in the unit of the axis, whose outermost ticks are the plot's edges. */
export function downOf({ ticks, log }: Axis, { y, height }: Plot): (value: number) => number {
  const bottom = ticks[0];
  const top = ticks[ticks.length - 1];
  const part = log
    ? (value: number) => Math.log(value / bottom) / Math.log(top / bottom)
    : (value: number) => (value - bottom) / (top - bottom);
  return (value) => y + (1 - part(value)) * height;
}
