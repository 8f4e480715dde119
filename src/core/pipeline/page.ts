import { FLAG, type MetricIdentity, type PointSet } from "../metric/model";
import { familyName, type WrittenPoint, writeFamily } from "../openmetrics/write";
import { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownMetric } from "../otlp/dictionary";
import { takeRows } from "../strip/strip";
import { MINUTE } from "../window/lengths";
import { seriesText } from "./increases";
import { TemporalityChange, type TemporalityState } from "./temporality";

/**
 * A page of OpenMetrics text to be scraped: the newest point of every series, counters and histograms as running totals.
 * A series that was not heard for {@link STALE} goes from the page.
 */

/** How long a series stays on the page that is not heard, ms. */
const STALE = 5 * MINUTE;

interface Newest {
  metric: KnownMetric;
  point: WrittenPoint;
  time: number;
}

export class Page {
  private readonly change: TemporalityChange;
  private readonly newest = new Map<string, Newest>();

  /** @param points what was on the page when its memory was saved */
  constructor(
    private readonly dictionary: Dictionary,
    since: number,
    saved?: TemporalityState,
    points?: Batch,
  ) {
    this.change = new TemporalityChange("cumulative", since, saved);
    if (points) this.note(points);
  }

  /** Takes points in; the batch is used up. */
  take(batch: Batch): void {
    this.note(this.change.change(batch, this.dictionary));
  }

  private note(batch: Batch): void {
    const { all, sets } = batch.inColumns();
    for (const { metric, set } of sets)
      for (let row = 0; row < set.count; row++) {
        const series = all[set.series[row]];
        const key = seriesText(series);
        const time = set.timeMs[row] + set.timeNs[row] / 1e6;
        const known = this.newest.get(key);
        if (known && known.time > time) continue;
        if (set.flags[row] & FLAG.noRecordedValue) {
          this.newest.delete(key);
          continue;
        }
        const own: PointSet = takeRows(set, Int32Array.of(row));
        const { resource, attributes } = series.identity;
        this.newest.set(key, { metric, point: { resource, attributes, set: own, row: 0 }, time });
      }
  }

  /** @param now Unix ms: what is too old by then goes */
  text(now: number): string {
    const families = new Map<string, { identity: MetricIdentity; description: string; points: WrittenPoint[] }>();
    for (const [key, { metric, point, time }] of this.newest) {
      if (time < now - STALE) {
        this.newest.delete(key);
        continue;
      }
      // One name can stand for one family only: of metrics that differ in kind or unit, the first.
      const name = familyName(metric.identity);
      const family = families.get(name) ?? { identity: metric.identity, description: metric.description, points: [] };
      families.set(name, family);
      const { kind, unit, monotonic } = family.identity;
      if (kind === metric.identity.kind && unit === metric.identity.unit && monotonic === metric.identity.monotonic)
        family.points.push(point);
    }
    const written = [...families.keys()].sort().map((name) => {
      const { identity, description, points } = families.get(name)!;
      return writeFamily(identity, description, points);
    });
    return `${written.join("")}# EOF\n`;
  }

  save(): TemporalityState {
    return this.change.save();
  }

  /** What is on the page, to be saved with its memory. */
  points(): Batch {
    const batch = new Batch();
    for (const { metric, point } of this.newest.values()) {
      const { resource, attributes, set } = point;
      const series = this.dictionary.series(metric, { resource, scope: { name: "", version: "" }, attributes });
      batch.addSet(metric, set, () => series);
    }
    return batch;
  }
}
