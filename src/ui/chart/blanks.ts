import { HOUR } from "@/core/window/lengths";
import type { Times } from "../frame/times";
import type { Chart } from "./drawn";

/** A blank at a side of a chart is told from this part of its width on. */
const TOLD = 0.3;
/** Of longer windows a time of day does not say which day. */
const ONE_DAY = 12 * HOUR;

/** A part of a chart in which nothing stands, from one moment to another, and why in words. */
export interface Blank {
  from: number;
  to: number;
  words: string;
}

/** The first and the last step at which any of the lines has a value. */
function stepsWithValues({ times, drawn }: Chart): [first: number, last: number] | null {
  const has = (_: number, i: number) => drawn.some(({ series }) => series.values[i] != null);
  const first = times.findIndex(has);
  return first < 0 ? null : [first, times.findLastIndex(has)];
}

/**
 * Where a chart is blank for long before its first value or after its last: a line that is hardly to be seen at an edge
 * looks like none, and a chart like a broken one.
 */
export function blanksOf(chart: Chart, clocks: Times): Blank[] {
  const { times, from, to } = chart;
  const steps = stepsWithValues(chart);
  // Of series that are not drawn it is not known here when they had values.
  if (!steps || chart.more > 0) return [];
  const [first, last] = steps;
  const [begin, end] = [first === 0 ? from : times[first - 1], times[last]];
  const at = (moment: number) =>
    to - from > ONE_DAY ? `${clocks.dayWithYear(moment)} ${clocks.clock(moment)}` : clocks.tick(moment, to - from);
  return [
    { from, to: begin, words: `nothing before ${at(begin)}` },
    { from: end, to, words: `nothing after ${at(end)}` },
  ].filter((blank) => blank.to - blank.from >= TOLD * (to - from));
}
