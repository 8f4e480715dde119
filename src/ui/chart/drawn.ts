import { type ReadingSeries, settledSteps } from "@/core/reading/result";
import type { Writer } from "@/core/sheet/shown/writer";
import type { Stroke } from "./colours";

/** What of one or more readings is drawn over time, in the form in which the chart takes it. */

/** Lines that have a colour of their own: so many are drawn on a small chart. */
export const MAX_COLOURED = 6;
/** Lines that the largest chart draws. */
export const MAX_LINES = 60;
/** Bounds wider than this part of the value are drawn and told. */
const WIDE = 0.1;

/** The values of all lines at a moment. */
export type Row = { time: number } & Record<string, number | [number, number] | null>;

/** How a chart draws: lines, areas on top of each other, or bars on top of each other. */
export type Style = "lines" | "stacked" | "bars";

/** A series as it is drawn; its values stand under `key` in each row. */
export interface Drawn {
  /** Its values are at the times of the chart. */
  series: ReadingSeries;
  stroke: Stroke;
  key: string;
  name: string;
  side: "left" | "right";
  /** Writes one of its values, in the form that fits it. */
  write: (value: number) => Writer;
  /** Whether its values are parts of a whole. */
  share: boolean;
  /** Whether it is of an earlier window, laid under the later one. */
  earlier: boolean;
}

/** One side's axis: the form of its values and its marks. */
export interface Axis {
  writer: Writer;
  ticks: number[];
  log: boolean;
}

export interface Chart {
  /** What it reads, for those who do not see it. */
  label: string;
  from: number;
  to: number;
  /** Ends of the steps, Unix ms, rising. */
  times: number[];
  /** Width of a step, ms. */
  every: number;
  drawn: Drawn[];
  /** Series that are not drawn. */
  more: number;
  left: Axis;
  right: Axis | null;
  style: Style;
  /** Whether some of it may still change. */
  unsettled: boolean;
  /** What could not be drawn, in words. */
  notes: string[];
}

/** Whether a value's bounds are so wide that they are told. */
export function isWide(series: ReadingSeries, i: number): boolean {
  const value = series.values[i];
  const low = series.low?.[i];
  const high = series.high?.[i];
  if (value === null || low == null) return false;
  return high == null || high - low > WIDE * Math.abs(value);
}

type ToRows = Pick<Chart, "times" | "every" | "left" | "right" | "style"> & { drawn: readonly Drawn[] };

/** A value as its axis stands: times its factor; none where a logarithmic axis has no place for it. */
function heightOf(value: number | null | undefined, axis: Axis): number | null {
  if (value == null || (axis.log && value <= 0)) return null;
  return value * axis.writer.factor;
}

/** Rows of a chart. */
export function rowsOf(chart: ToRows): Row[] {
  if (chart.style === "lines") return lineRows(chart);
  return chart.style === "stacked" ? stackedRows(chart) : barRows(chart);
}

const axisOf = (chart: ToRows, { side }: Drawn): Axis => (side === "right" && chart.right ? chart.right : chart.left);

/**
 * Values as rows: beside each its bounds and whether it stands alone. Those that may still change stand apart, with the
 * last settled one, from which their line begins.
 */
function lineRows(chart: ToRows): Row[] {
  const { times, drawn } = chart;
  const settledOf = drawn.map(({ series }) => settledSteps(times, series));
  return times.map((time, i) => {
    const row: Row = { time };
    drawn.forEach((one, place) => {
      const { series, key } = one;
      const axis = axisOf(chart, one);
      const settled = settledOf[place];
      const height = heightOf(series.values[i], axis);
      row[key] = i < settled ? height : null;
      if (settled < times.length) row[`${key} fresh`] = i >= settled - 1 ? height : null;
      const low = heightOf(series.low?.[i], axis);
      const high = heightOf(series.high?.[i], axis);
      const lone = height !== null && series.values[i - 1] == null && series.values[i + 1] == null;
      row[`${key} dot`] = lone && i < settled ? height : null;
      row[`${key} bounds`] = low !== null && high !== null && isWide(series, i) ? [low, high] : null;
    });
    return row;
  });
}

/** From where to where each series reaches at a step, on top of those before it; null where it has no value. */
function onTop(chart: ToRows, i: number): ([number, number] | null)[] {
  let above = 0;
  let below = 0;
  return chart.drawn.map((one) => {
    const height = heightOf(one.series.values[i], axisOf(chart, one));
    if (height === null) return null;
    const from = height < 0 ? below : above;
    if (height < 0) below += height;
    else above += height;
    return [from, from + height];
  });
}

/** Steps at which all that stands on top of each other is settled: the first so many. */
function settledTogether({ times, drawn }: ToRows): number {
  return Math.min(times.length, ...drawn.map(({ series }) => settledSteps(times, series)));
}

/** Where series reach at a moment, under the keys of their settled values or of those that may still change. */
function standing(chart: ToRows, reach: readonly ([number, number] | null)[], fresh: boolean) {
  return chart.drawn.map(({ key }, place): [string, [number, number] | null] => [
    fresh ? `${key} fresh` : key,
    reach[place],
  ]);
}

function stackedRows(chart: ToRows): Row[] {
  const settled = settledTogether(chart);
  return chart.times.map((time, i) => {
    const reach = onTop(chart, i);
    // What may still change begins where the last settled step ends.
    const parts = [
      ...(i < settled ? standing(chart, reach, false) : []),
      ...(i >= settled - 1 && settled < chart.times.length ? standing(chart, reach, true) : []),
    ];
    return { time, ...Object.fromEntries(parts) } as Row;
  });
}

/** Room between two bars, as a part of a step. */
const BETWEEN = 0.08;

function barRows(chart: ToRows): Row[] {
  const settled = settledTogether(chart);
  const nothing = chart.drawn.map(() => null);
  return chart.times.flatMap((end, i) => {
    const start = i === 0 ? end - chart.every : chart.times[i - 1];
    const room = BETWEEN * (end - start);
    const reach = onTop(chart, i);
    const row = (time: number, all: readonly ([number, number] | null)[]) =>
      ({ time, ...Object.fromEntries(standing(chart, all, i >= settled)) }) as Row;
    // Nothing stands between two bars.
    return [row(start + room, reach), row(end - room, reach), row(end, nothing)];
  });
}

/** The least and the greatest height that a chart has to have room for on a side, in the unit of the values. */
export function reachOf(
  chart: Pick<Chart, "times" | "style"> & { drawn: readonly Drawn[] },
  side: Drawn["side"],
): [number, number] {
  let [low, high] = [0, 0];
  const own = chart.drawn.filter((one) => one.side === side);
  chart.times.forEach((_, i) => {
    let [above, below] = [0, 0];
    for (const { series } of own) {
      const value = series.values[i];
      if (value == null) continue;
      if (chart.style === "lines") [above, below] = [Math.max(above, value), Math.min(below, value)];
      else if (value < 0) below += value;
      else above += value;
    }
    low = Math.min(low, below);
    high = Math.max(high, above);
  });
  return [low, high];
}
