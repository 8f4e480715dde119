import { inUnit } from "@/core/reading/convert";
import type { ReadingResult } from "@/core/reading/result";
import type { ReadingsPlate } from "@/core/sheet/sheet";
import type { ShownReading } from "./looks/props";

/** What a plate has of its readings, each in the same place. */
interface Answers {
  readings: ReadingsPlate["readings"];
  /** As they were asked. */
  held: readonly string[];
  results: readonly (ReadingResult | undefined)[];
  /** Answers of a window that lies `back` ms before; none where there is no such window. */
  olds: readonly (ReadingResult | undefined)[];
  back: number;
}

/** An answer of an earlier window as if it were of this one. */
function movedOn(result: ReadingResult, by: number): ReadingResult {
  return {
    ...result,
    from: result.from + by,
    to: result.to + by,
    times: result.times.map((time) => time + by),
    settledTo: null,
  };
}

/**
 * The readings of a plate that are answered, with their earlier window. What is held against it has to be as long before as
 * is said: while of a window that moved on only one of both has come, the pair before stays, and without one there is nothing
 * to hold it against.
 *
 * @param before what was shown until now, and of how long before
 */
export function shownReadings(
  { readings, held, results, olds, back }: Answers,
  before: { back: number; shown: readonly ShownReading[] },
): ShownReading[] {
  return readings.flatMap((reading, i) => {
    const result = results[i];
    if (!result) return [];
    const old = olds[i];
    const asked = held[i];
    if (!old) return [{ ...reading, asked, result, earlier: null }];
    if (old.from + back === result.from && old.to + back === result.to)
      return [{ ...reading, asked, result, earlier: inUnit(movedOn(old, back), result.unit) }];
    const pair = before.back === back ? before.shown.find((one) => one.asked === asked && one.earlier) : undefined;
    return [pair ? { ...pair, ...reading } : { ...reading, asked, result, earlier: null }];
  });
}
