import { FLAG, type PointSet, type Temporality } from "../metric/model";

/** A counter that went down although it did not start anew. */
export interface Fall {
  series: number;
  /** Unix ms. */
  time: number;
  by: number;
}

/**
 * Falls of monotonic counters (OpenTelemetry metrics data model, "Sums": a monotonic sum only resets together with its
 * start). Where the start is not known, a fall counts as a reset.
 */
export function fallsOf(sets: readonly PointSet[], temporality: Temporality): Fall[] {
  const points = new Map<number, { time: number; start: number; value: number }[]>();
  for (const { layout, count, series, timeMs, timeNs, startMs, startNs, flags, columns } of sets) {
    if (layout.kind !== "number") continue;
    for (let i = 0; i < count; i++) {
      if (flags[i] & FLAG.noRecordedValue) continue;
      const list = points.get(series[i]) ?? [];
      list.push({ time: timeMs[i] + timeNs[i] / 1e6, start: startMs[i] + startNs[i] / 1e6, value: columns[0][i] });
      points.set(series[i], list);
    }
  }
  const falls: Fall[] = [];
  for (const [series, list] of points) {
    list.sort((a, b) => a.time - b.time);
    list.forEach(({ time, start, value }, i) => {
      const before = list[i - 1];
      if (temporality === "delta") {
        if (value < 0) falls.push({ series, time, by: -value });
      } else if (before && start > 0 && start === before.start && value < before.value && time > before.time)
        falls.push({ series, time, by: before.value - value });
    });
  }
  return falls;
}
