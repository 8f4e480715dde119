import { comparable, lenientUnit } from "../unit/unit";
import type { ReadingResult, ReadingSeries } from "./result";

/**
 * An answer in another unit (UCUM).
 *
 * @returns null where the one does not measure what the other does
 */
export function inUnit(result: ReadingResult, unit: string): ReadingResult | null {
  if (result.unit === unit) return result;
  // An answer without values measures nothing else.
  if (result.series.length === 0) return { ...result, unit };
  const [from, to] = [lenientUnit(result.unit), lenientUnit(unit)];
  if (!comparable(from, to)) return null;
  const factor = from.scale / to.scale;
  const one = <T extends number | null | undefined>(value: T) =>
    (typeof value === "number" ? value * factor : value) as T;
  const series = result.series.map(
    ({ values, low, high, total, totalLow, totalHigh, ...rest }): ReadingSeries => ({
      ...rest,
      values: values.map(one),
      ...(low && { low: low.map(one) }),
      ...(high && { high: high.map(one) }),
      total: one(total),
      ...(totalLow !== undefined && { totalLow: one(totalLow) }),
      ...(totalHigh !== undefined && { totalHigh: one(totalHigh) }),
    }),
  );
  return { ...result, unit, series };
}
