import { bucketColumns, type PointSet } from "@/core/metric/model";
import { MINUTES_SPAN } from "@/core/rollup/cells";
import { DAY, MINUTE } from "@/core/window/lengths";
import type { Resolution } from "../database/partitions";
import { type FreshStrip, makeStrip } from "./strips";

/** Spans that strips are merged to, and how the series of a span are cut into strips. */

export const MERGE_WINDOW = 30 * MINUTE;
export const LONG_MERGE_WINDOW = MINUTES_SPAN;
/** The longest strips of hours. */
export const HOUR_SPAN = 16 * DAY;

const SERIES_PER_STRIP = 1000;
const BUCKET_SERIES_PER_STRIP = 120;
/** Points of one strip above which its series are spread over more, so that payloads stay near a megabyte. */
const POINTS_PER_STRIP = 600_000;
const BUCKET_POINTS_PER_STRIP = 80_000;

/** Cuts per-series sets into strips of bearable size, sorted by series. */
export function pack(
  metricId: number,
  sets: readonly PointSet[],
  { level, arrived, resolution }: { level: number; arrived: number | null; resolution: Resolution },
): FreshStrip[] {
  const sorted = [...sets].sort((a, b) => a.series[0] - b.series[0] || a.timeMs[0] - b.timeMs[0]);
  const strips: FreshStrip[] = [];
  let from = 0;
  let series = 0;
  let points = 0;
  const close = (to: number) => {
    if (to > from) strips.push(makeStrip(metricId, sorted.slice(from, to), level, arrived, resolution));
    from = to;
    series = 1;
    points = 0;
  };
  sorted.forEach((set, i) => {
    const another = i === 0 || set.series[0] !== sorted[i - 1].series[0];
    if (another) {
      series++;
      const buckets = bucketColumns(set.layout) > 0;
      const mostSeries = buckets ? BUCKET_SERIES_PER_STRIP : SERIES_PER_STRIP;
      if (series > mostSeries || points > (buckets ? BUCKET_POINTS_PER_STRIP : POINTS_PER_STRIP)) close(i);
    }
    points += set.count;
  });
  close(sorted.length);
  return strips;
}
