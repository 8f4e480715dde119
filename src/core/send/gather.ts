import type { Attributes, MetricIdentity } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import type { PointHead } from "../otlp/batch/group";
import { histogramFlags } from "../otlp/batch/histograms";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { Numbers } from "../otlp/numbers";
import type { HandPoint } from "./handPoint";

/**
 * Puts points by hand together so that no two share series and time, for of those only one is kept: counters add up,
 * histograms fill one set of buckets, of gauges the last stays. Counters and histograms go out as deltas, so that a
 * command that ran once says exactly what it added (OpenTelemetry metrics data model, "Temporality").
 */

/** Default bounds of an explicit histogram (OpenTelemetry metrics SDK, "Explicit Bucket Histogram Aggregation"). */
export const DEFAULT_BOUNDS: readonly number[] = [
  0, 5, 10, 25, 50, 75, 100, 250, 500, 750, 1000, 2500, 5000, 7500, 10000,
];

/** What is gathered of one series at one time. */
interface Gathered {
  series: KnownSeries;
  time: number;
  values: number[];
}

const KINDS: Record<HandPoint["kind"], Omit<MetricIdentity, "name" | "unit">> = {
  counter: { kind: "sum", temporality: "delta", monotonic: true },
  gauge: { kind: "gauge", temporality: "none", monotonic: false },
  histogram: { kind: "histogram", temporality: "delta", monotonic: true },
};

export class Gathering {
  private readonly dictionary = new Dictionary();
  private points = new Map<string, Gathered>();
  /** The time of the last delta of a series: the next begins there. */
  private readonly before = new Map<KnownSeries, number>();

  /** @param bounds of histograms, rising */
  constructor(
    private readonly resource: Attributes,
    private readonly bounds: readonly number[] = DEFAULT_BOUNDS,
  ) {}

  get size(): number {
    return this.points.size;
  }

  /** @param now Unix ms; the time of a point that names none */
  add({ name, kind, unit, attributes, value, ...at }: HandPoint, now: number): void {
    const time = at.time ?? now;
    const metric = this.dictionary.metric({ name, unit, ...KINDS[kind] }, "");
    const identity = { resource: this.resource, scope: { name: "", version: "" }, attributes };
    const series = this.dictionary.series(metric, identity);
    const key = `${kind} ${unit} ${name} ${series.key} ${time}`;
    let found = this.points.get(key);
    if (!found) {
      found = { series, time, values: [] };
      this.points.set(key, found);
    }
    if (Array.isArray(value)) found.values.push(...value);
    else found.values.push(value);
  }

  /** What was gathered since the last time. */
  take(): Batch {
    const batch = new Batch();
    for (const one of this.points.values()) this.write(one, batch);
    this.points = new Map();
    return batch;
  }

  private write({ series, time, values }: Gathered, batch: Batch): void {
    const { kind, temporality } = series.metric.identity;
    const head = headAt(time, temporality === "delta" ? (this.before.get(series) ?? 0) : 0);
    if (temporality === "delta") this.before.set(series, time);
    if (kind === "gauge") batch.number(series, head, values[values.length - 1]);
    else if (kind === "sum")
      batch.number(
        series,
        head,
        values.reduce((sum, value) => sum + value, 0),
      );
    else this.histogram(series, head, values, batch);
  }

  private histogram(series: KnownSeries, head: PointHead, values: readonly number[], batch: Batch): void {
    const { bounds } = this;
    const counts = new Array<number>(bounds.length + 1).fill(0);
    for (const value of values) {
      // Bounds are inclusive at the top (OpenTelemetry metrics data model, "Histogram").
      const place = bounds.findIndex((bound) => value <= bound);
      counts[place < 0 ? bounds.length : place]++;
    }
    batch.explicit(
      series,
      { ...head, flags: histogramFlags(0, true, true, true) },
      {
        count: values.length,
        sum: values.reduce((sum, value) => sum + value, 0),
        min: values.reduce((least, value) => Math.min(least, value), Number.POSITIVE_INFINITY),
        max: values.reduce((most, value) => Math.max(most, value), Number.NEGATIVE_INFINITY),
      },
      Numbers.of(bounds),
      Numbers.of(counts),
    );
  }
}

function headAt(time: number, start: number): PointHead {
  const timeMs = Math.floor(time);
  const startMs = start < time ? Math.floor(start) : 0;
  return {
    timeMs,
    timeNs: Math.round((time - timeMs) * 1e6),
    startMs,
    startNs: startMs > 0 ? Math.round((start - startMs) * 1e6) : 0,
    flags: 0,
  };
}
