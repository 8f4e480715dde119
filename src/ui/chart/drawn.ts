import { type ReadingResult, type ReadingSeries, settledSteps } from "@/core/reading/result";
import type { Stroke } from "./colours";

/** What of a reading is drawn as lines, in the form in which the chart takes it. */

/** Lines that have a colour of their own: so many are drawn on a small chart. */
export const MAX_COLOURED = 6;
/** Lines that the largest chart draws. */
export const MAX_LINES = 60;
/** Bounds wider than this part of the value are drawn and told. */
const WIDE = 0.1;

/** The values of all lines at the end of a step. */
export type Row = { time: number } & Record<string, number | [number, number] | null>;

/** A series as it is drawn; its values stand under `key` in each row. */
export interface Drawn {
  series: ReadingSeries;
  stroke: Stroke;
  key: string;
  name: string;
}

/** The series that are drawn: the greatest by total where there are too many. */
export function chosenSeries(result: ReadingResult, most: number): ReadingSeries[] {
  if (result.series.length <= MAX_COLOURED) return result.series;
  return [...result.series]
    .sort((a, b) => (b.total ?? Number.NEGATIVE_INFINITY) - (a.total ?? Number.NEGATIVE_INFINITY))
    .slice(0, most);
}

/** Whether a value's bounds are so wide that they are told. */
export function isWide(series: ReadingSeries, i: number): boolean {
  const value = series.values[i];
  const low = series.low?.[i];
  const high = series.high?.[i];
  if (value === null || low == null) return false;
  return high == null || high - low > WIDE * Math.abs(value);
}

/**
 * Values of a reading, times `factor`, as rows: beside each its bounds and whether it stands alone. Those that may still
 * change stand apart, with the last settled one, from which their line begins.
 */
export function rowsOf(result: ReadingResult, drawn: readonly Drawn[], factor: number): Row[] {
  const { times } = result;
  const settledOf = drawn.map(({ series }) => settledSteps(times, series));
  return times.map((time, i) => {
    const row: Row = { time };
    drawn.forEach(({ series, key }, place) => {
      const settled = settledOf[place];
      const value = series.values[i];
      const height = value === null ? null : value * factor;
      row[key] = i < settled ? height : null;
      if (settled < times.length) row[`${key} fresh`] = i >= settled - 1 ? height : null;
      const low = series.low?.[i];
      const high = series.high?.[i];
      const lone = value !== null && series.values[i - 1] == null && series.values[i + 1] == null;
      row[`${key} dot`] = lone && i < settled ? height : null;
      row[`${key} bounds`] = low != null && high != null && isWide(series, i) ? [low * factor, high * factor] : null;
    });
    return row;
  });
}
