import { DAY, HOUR } from "@/core/window/lengths";
import { seriesWith } from "./jobs/reading";
import { loaderOf, type Surroundings } from "./surroundings";
import { unlessUnreadable } from "./unreadable";

/** Readings of weeks by the hour, a few days at a time: what was decoded of some days is let go before the next. */

/** Days that are read together. */
const TOGETHER = 2 * DAY;

/** What a reading answers hour by hour. */
export interface Hours {
  /** Where each hour begins, Unix ms. */
  times: number[];
  /** Null where nothing arrived, or the reading cannot be answered. */
  values: (number | null)[];
}

/**
 * Reads the first series of each of some readings, such as those without `by` have, over whole hours.
 *
 * @param from where the first hour begins, Unix ms; a whole hour, as is `to`
 */
export async function readByHour(
  around: Surroundings,
  texts: readonly string[],
  { from, to }: { from: number; to: number },
): Promise<Hours[]> {
  const found = texts.map((): Hours => ({ times: [], values: [] }));
  for (let at = from; at < to; at += TOGETHER) {
    const span = { from: at, to: Math.min(at + TOGETHER, to) };
    const loader = loaderOf(around);
    for (const [i, text] of texts.entries()) {
      const asked = { text, ...span, every: HOUR, zone: "UTC", picks: {} };
      const series = (await unlessUnreadable(seriesWith(loader, asked)))?.at(0);
      for (let hour = span.from; hour < span.to; hour += HOUR) {
        found[i].times.push(hour);
        found[i].values.push(series?.values[(hour - span.from) / HOUR] ?? null);
      }
    }
  }
  return found;
}
