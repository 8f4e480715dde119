import { levelOf } from "../metric/labels";
import type { Attributes, Layout, MetricIdentity } from "../metric/model";
import { FLAG } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { canonicalAttribute } from "../reading/language/tree";
import { momentOf, type Passing, type TelemetryRecord } from "./records";

/**
 * Metrics from spans and log records. Each request's records are counted at once, by series and second; these counts
 * wait at the step until its window closes, where those of all requests and intakes are added up. What comes out are
 * counts of the window (temporality delta), and goes into the lane for metrics from its beginning.
 */

/** How counts are told apart. */
export interface CountingStep {
  attributes: readonly string[];
  bounds: readonly number[];
}

/** What a step may do with a record that it counts. */
export interface CountRecord {
  /** Counts one. */
  one(passing: Passing<TelemetryRecord>, name: string, unit: string, description: string): void;
  /** Adds a number up. */
  sum(passing: Passing<TelemetryRecord>, name: string, unit: string, description: string, value: number): void;
  /** Tells a number apart from others. */
  measure(passing: Passing<TelemetryRecord>, name: string, unit: string, description: string, value: number): void;
}

/** Counts are told apart by this long, ms: any window is made of whole ones. */
const GRAIN = 1000;

interface Cell {
  series: KnownSeries;
  end: number;
  value: number;
  integer: boolean;
  counts: number[] | null;
  min: number;
  max: number;
}

/** The bucket of a value: bounds are included above (OpenTelemetry metrics data model, "Histogram"). */
function bucketOf(bounds: readonly number[], value: number): number {
  let low = 0;
  let high = bounds.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (value <= bounds[middle]) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** Counts records of one request for one step. */
export class Counting implements CountRecord {
  private readonly cells = new Map<string, Cell>();

  /** @param now Unix ms: records that lie ahead of it are counted now */
  constructor(
    private readonly step: CountingStep,
    private readonly dictionary: Dictionary,
    private readonly now: number,
  ) {}

  one(passing: Passing<TelemetryRecord>, name: string, unit: string, description: string): void {
    this.add(passing, name, unit, description, 1, true);
  }

  sum(passing: Passing<TelemetryRecord>, name: string, unit: string, description: string, value: number): void {
    this.add(passing, name, unit, description, value, false);
  }

  private add(
    passing: Passing<TelemetryRecord>,
    name: string,
    unit: string,
    description: string,
    value: number,
    monotonic: boolean,
  ): void {
    const identity: MetricIdentity = { name, kind: "sum", unit, temporality: "delta", monotonic };
    const cell = this.cell(passing, identity, description, null);
    cell.value += value;
    cell.integer &&= Number.isInteger(value);
  }

  measure(passing: Passing<TelemetryRecord>, name: string, unit: string, description: string, value: number): void {
    const { bounds } = this.step;
    const identity: MetricIdentity = { name, kind: "histogram", unit, temporality: "delta", monotonic: true };
    const cell = this.cell(passing, identity, description, new Array<number>(bounds.length + 1).fill(0));
    cell.counts![bucketOf(bounds, value)]++;
    cell.value += value;
    cell.min = Math.min(cell.min, value);
    cell.max = Math.max(cell.max, value);
  }

  private cell(
    { record, now }: Passing<TelemetryRecord>,
    identity: MetricIdentity,
    description: string,
    counts: number[] | null,
  ): Cell {
    const attributes: Attributes = {};
    for (const name of this.step.attributes.map(canonicalAttribute)) {
      if (levelOf(now, name) === "attributes" && !Object.hasOwn(now.resource, name))
        attributes[name] = now.attributes[name];
    }
    const metric = this.dictionary.metric(identity, description);
    const series = this.dictionary.series(metric, { resource: now.resource, scope: now.scope, attributes });
    const end = Math.ceil(Math.min(momentOf(record), this.now) / GRAIN) * GRAIN;
    const key = `${identity.name} ${end} ${series.key}`;
    let cell = this.cells.get(key);
    if (!cell) {
      const [min, max] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
      cell = { series, end, value: 0, integer: true, counts, min, max };
      this.cells.set(key, cell);
    }
    return cell;
  }

  /** What was counted. */
  batch(): Batch {
    const batch = new Batch();
    batch.silent = true;
    const layout: Layout = { kind: "explicit", bounds: [...this.step.bounds] };
    for (const { series, end, value, integer, counts, min, max } of this.cells.values()) {
      const head = { timeMs: end, timeNs: 0, startMs: end - GRAIN, startNs: 0, flags: 0 };
      if (counts) batch.addPoint(series.metric, layout, series, head, [...counts, min, max, value]);
      else batch.number(series, { ...head, flags: integer ? FLAG.integer : 0 }, value);
    }
    return batch;
  }
}
