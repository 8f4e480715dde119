import { FLAG, type PointSet, type Temporality } from "../metric/model";

/** A counter that went down although it did not start anew. */
export interface Fall {
  series: number;
  /** Unix ms. */
  time: number;
  by: number;
}

interface Point {
  time: number;
  start: number;
  value: number;
}

/**
 * Falls of a monotonic counter (OpenTelemetry metrics data model, "Sums": a monotonic sum only resets together with its
 * start). Where the start is not known, a fall counts as a reset. It remembers the last point of each series, so that
 * no point has to be looked at twice; one that arrives behind that is passed over.
 */
export class FallWatch {
  private readonly last = new Map<number, Point>();
  private found: Fall[] = [];

  constructor(private readonly temporality: Temporality) {}

  /** Looks at more points, in any order. */
  add(sets: readonly PointSet[]): void {
    const points = new Map<number, Point[]>();
    for (const { layout, count, series, timeMs, timeNs, startMs, startNs, flags, columns } of sets) {
      if (layout.kind !== "number") continue;
      for (let i = 0; i < count; i++) {
        if (flags[i] & FLAG.noRecordedValue) continue;
        const time = timeMs[i] + timeNs[i] / 1e6;
        if (time <= (this.last.get(series[i])?.time ?? Number.NEGATIVE_INFINITY)) continue;
        const list = points.get(series[i]) ?? [];
        list.push({ time, start: startMs[i] + startNs[i] / 1e6, value: columns[0][i] });
        points.set(series[i], list);
      }
    }
    for (const [series, list] of points) {
      list.sort((a, b) => a.time - b.time);
      for (const point of list) this.look(series, point);
    }
  }

  private look(series: number, point: Point): void {
    const before = this.last.get(series);
    this.last.set(series, point);
    const { time, start, value } = point;
    if (this.temporality === "delta") {
      if (value < 0) this.found.push({ series, time, by: -value });
    } else if (before && start > 0 && start === before.start && value < before.value && time > before.time)
      this.found.push({ series, time, by: before.value - value });
  }

  /** Falls from a moment on (Unix ms). Those before it, and series that were last heard before it, are forgotten. */
  since(moment: number): readonly Fall[] {
    this.found = this.found.filter(({ time }) => time >= moment);
    for (const [series, { time }] of this.last) if (time < moment) this.last.delete(series);
    return this.found;
  }
}
