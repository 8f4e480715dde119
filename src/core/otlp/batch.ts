import type { LogRecord } from "../log/model";
import { type Attributes, columnCount, FLAG, type Layout, layoutKey, type PointSet } from "../metric/model";
import type { Span } from "../span/model";
import type { KnownMetric, KnownSeries } from "./dictionary";
import { Group, type PointHead } from "./group";
import { explicitProblem, exponentialProblem, type IncomingBuckets, type IncomingHistogram } from "./histograms";
import { LIMITS } from "./limits";
import type { Numbers } from "./numbers";

/** A measurement kept beside a point (OpenTelemetry metrics data model, "Exemplars"). */
export interface Exemplar {
  series: KnownSeries;
  ms: number;
  ns: number;
  value: number;
  traceId: string;
  spanId: string;
  attributes: Attributes;
}

/** A point of a series past the limit: a row of a set. */
export interface OverflowedPoint {
  batch: Batch;
  series: KnownSeries;
  set: PointSet;
  row: number;
}

/** What of one signal goes to an exporter. */
export type Outgoing =
  | { signal: "metrics"; batch: Batch }
  | { signal: "traces"; spans: readonly Span[] }
  | { signal: "logs"; records: readonly LogRecord[] };

/** How many points, spans or records there are. */
export function itemsOf(content: Outgoing): number {
  if (content.signal === "metrics") return content.batch.points;
  return content.signal === "traces" ? content.spans.length : content.records.length;
}

/** What has to be kept together with the points of a batch, or not at all. */
export interface Aside {
  /** Of the pipeline. */
  version: number;
  /** Points that wait at steps. */
  waiting: { step: string; batch: Batch }[];
  /** Spans that wait to be decided on with their traces. */
  undecided: { step: string; spans: readonly Span[] }[];
  /** What is stored besides points. */
  spans: readonly Span[];
  records: readonly LogRecord[];
  /** What goes to exporters with a queue, by their ids. */
  exports: { exporter: string; content: Outgoing }[];
}

export function emptyAside(version: number): Aside {
  return { version, waiting: [], undecided: [], spans: [], records: [], exports: [] };
}

/** A series in a batch to which points are taken. */
export interface Destination {
  batch: Batch;
  series: KnownSeries;
}

/** Where the buckets begin and end that are not empty: the same histogram, in one form. */
function filled({ counts: { data, size } }: IncomingBuckets): { from: number; to: number } {
  let from = 0;
  let to = size;
  while (from < to && data[from] === 0) from++;
  while (to > from && data[to - 1] === 0) to--;
  return { from, to };
}

/** What a request may say. Times in Unix ms. */
export interface Admission {
  /** From when on points of any metric are taken. */
  surelyFrom: number;
  /** From when on those of one metric are. */
  from: (metric: KnownMetric) => number;
  to: number;
  /** The environment that its sender's token is for: stands in where a resource names none. null: any. */
  environment: string | null;
}

export const ADMIT_ALL: Admission = {
  environment: null,
  surelyFrom: Number.NEGATIVE_INFINITY,
  from: () => Number.NEGATIVE_INFINITY,
  to: Number.POSITIVE_INFINITY,
};

/** The points of one or more requests on their way to the store, with what was refused and why. */
export class Batch {
  private readonly groups = new Map<KnownMetric, Group[]>();
  readonly exemplars: Exemplar[] = [];
  /** What the pipeline took aside, and has to be kept together with these points. */
  aside: Aside | null = null;
  /** Whether its points say nothing of their resources being there: written about them rather than by them. */
  silent = false;
  points = 0;
  rejected = 0;
  private readonly reasons = new Map<string, number>();
  private readonly warnings = new Set<string>();

  /** @param allowed what the request may say; anything where left out */
  constructor(private readonly allowed: Admission = ADMIT_ALL) {}

  /** Tells the sender of something that did not make points be refused. */
  warn(text: string): void {
    if (this.warnings.size < LIMITS.reasons) this.warnings.add(text);
  }

  reject(metric: string, reason: string, points = 1): void {
    this.rejected += points;
    const text = `${metric || "(no name)"}: ${reason}`;
    if (this.reasons.has(text) || this.reasons.size < LIMITS.reasons) {
      this.reasons.set(text, (this.reasons.get(text) ?? 0) + points);
    }
  }

  /** What was refused and what the sender is warned of, in words; "" where there is nothing. */
  message(): string {
    const refused = [...this.reasons].map(
      ([text, points]) => `${text} (${points} ${points === 1 ? "point" : "points"})`,
    );
    return [...refused, ...this.warnings].join("; ");
  }

  private headIsFine(series: KnownSeries, head: PointHead): boolean {
    const name = series.metric.identity.name;
    if (head.timeMs === 0 && head.timeNs === 0) this.reject(name, "a point has no time");
    else if (head.timeMs < this.allowed.surelyFrom && head.timeMs < this.allowed.from(series.metric))
      this.reject(
        name,
        `a point lies before what is still kept as it arrives (${new Date(Math.max(head.timeMs, -8.64e15)).toISOString()})`,
      );
    else if (head.timeMs > this.allowed.to)
      this.reject(
        name,
        `a point lies in the future (${new Date(Math.min(head.timeMs, 8.64e15)).toISOString()}); check the sender's clock`,
      );
    else return true;
    return false;
  }

  private group(metric: KnownMetric, fits: (layout: Layout) => boolean, layout: () => Layout): Group {
    let groups = this.groups.get(metric);
    if (!groups) {
      groups = [];
      this.groups.set(metric, groups);
    }
    for (let i = groups.length - 1; i >= 0; i--) if (fits(groups[i].layout)) return groups[i];
    const group = new Group(metric, layout(), this);
    groups.push(group);
    return group;
  }

  number(series: KnownSeries, head: PointHead, value: number): void {
    if (!this.headIsFine(series, head)) return;
    const group = this.group(series.metric, isNumber, numberLayout);
    group.head(series, head);
    group.values.push(value);
    this.points++;
  }

  explicit(series: KnownSeries, head: PointHead, point: IncomingHistogram, bounds: Numbers, counts: Numbers): void {
    if (!this.headIsFine(series, head)) return;
    const problem = explicitProblem(point, bounds, counts);
    if (problem) return this.reject(series.metric.identity.name, problem);
    const group = this.group(
      series.metric,
      (layout) => layout.kind === "explicit" && bounds.equals(layout.bounds),
      () => ({ kind: "explicit", bounds: bounds.toArray() }),
    );
    group.head(series, head);
    if (counts.size === 0) group.values.push(point.count);
    else group.values.append(counts, 0, counts.size);
    this.measured(group, point);
  }

  private measured({ values }: Group, point: IncomingHistogram): void {
    values.push(point.min);
    values.push(point.max);
    values.push(point.sum);
    this.points++;
  }

  exponential(
    series: KnownSeries,
    head: PointHead,
    point: IncomingHistogram & { scale: number; zeroCount: number; zeroThreshold: number },
    positive: IncomingBuckets,
    negative: IncomingBuckets,
  ): void {
    if (!this.headIsFine(series, head)) return;
    const problem = exponentialProblem(point, positive, negative);
    if (problem) return this.reject(series.metric.identity.name, problem);
    const { scale, zeroThreshold } = point;
    const p = filled(positive);
    const n = filled(negative);
    const pFrom = p.to > p.from ? positive.offset + p.from : 0;
    const nFrom = n.to > n.from ? negative.offset + n.from : 0;
    const group = this.group(
      series.metric,
      (layout) =>
        layout.kind === "exponential" &&
        layout.scale === scale &&
        layout.zeroThreshold === zeroThreshold &&
        layout.positive.from === pFrom &&
        layout.positive.width === p.to - p.from &&
        layout.negative.from === nFrom &&
        layout.negative.width === n.to - n.from,
      () => ({
        kind: "exponential",
        scale,
        zeroThreshold,
        negative: { from: nFrom, width: n.to - n.from },
        positive: { from: pFrom, width: p.to - p.from },
      }),
    );
    group.head(series, head);
    group.values.push(point.zeroCount);
    group.values.append(negative.counts, n.from, n.to);
    group.values.append(positive.counts, p.from, p.to);
    this.measured(group, point);
  }

  summary(series: KnownSeries, head: PointHead, count: number, sum: number, quantiles: Numbers, values: Numbers): void {
    if (!this.headIsFine(series, head)) return;
    const group = this.group(
      series.metric,
      (layout) => layout.kind === "summary" && quantiles.equals(layout.quantiles),
      () => ({ kind: "summary", quantiles: quantiles.toArray() }),
    );
    group.head(series, head);
    group.values.append(values, 0, values.size);
    group.values.push(count);
    group.values.push(sum);
    this.points++;
  }

  /**
   * Takes every point to other series, in other batches or this one; values stay as they are.
   *
   * @param to where points of a series go that have so many columns each; nowhere leaves them out. What it gives is read
   *   before it is asked again
   */
  reroute(to: (series: KnownSeries, points: number, columns: number) => readonly Destination[]): void {
    const before = [...this.groups.values()].flat();
    this.groups.clear();
    this.points = 0;
    for (const group of before) {
      const { series, layout } = group;
      const open: (Group | null)[] = [];
      const columns = columnCount(layout);
      for (let row = 0; row < series.length; row++) {
        const found = to(series[row], 1, columns);
        for (let i = 0; i < found.length; i++) {
          const { batch, series: other } = found[i];
          let into = open[i];
          if (!into || into.metric !== other.metric || into.owner !== batch) {
            into = batch.groupOf(other.metric, layout);
            open[i] = into;
          }
          into.copy(group, row, other);
          batch.points++;
        }
      }
    }
    const exemplars = this.exemplars.splice(0);
    for (const exemplar of exemplars)
      for (const { batch, series } of to(exemplar.series, 0, 0)) batch.exemplars.push({ ...exemplar, series });
  }

  /** The group of a metric for exactly this layout. */
  private groupOf(metric: KnownMetric, layout: Layout): Group {
    const key = JSON.stringify(layout);
    return this.group(
      metric,
      (other) => other === layout || (layoutKey(other) === layoutKey(layout) && JSON.stringify(other) === key),
      () => layout,
    );
  }

  /** Takes the points that are later than a moment (Unix ms) out, into a batch of their own. */
  takeLater(moment: number): Batch {
    const later = new Batch();
    later.silent = this.silent;
    const before = [...this.groups.values()].flat();
    this.groups.clear();
    this.points = 0;
    for (const group of before) {
      const { series, heads } = group;
      for (let row = 0; row < series.length; row++) {
        const time = heads.data[row * 5] + heads.data[row * 5 + 1] / 1e6;
        const owner = time > moment ? later : this;
        owner.groupOf(group.metric, group.layout).copy(group, row, series[row]);
        owner.points++;
      }
    }
    const exemplars = this.exemplars.splice(0);
    for (const exemplar of exemplars) (exemplar.ms > moment ? later : this).exemplars.push(exemplar);
    return later;
  }

  /** Adds a point whose columns are known to fit its layout. */
  addPoint(metric: KnownMetric, layout: Layout, series: KnownSeries, head: PointHead, values: readonly number[]): void {
    const group = this.groupOf(metric, layout);
    group.head(series, head);
    for (const value of values) group.values.push(value);
    this.points++;
  }

  /** Takes over all points and exemplars of another batch, with what was refused there. */
  append(other: Batch): void {
    for (const [metric, groups] of other.groups)
      for (const group of groups) {
        const into = this.groupOf(metric, group.layout);
        for (let row = 0; row < group.series.length; row++) into.copy(group, row, group.series[row]);
      }
    this.exemplars.push(...other.exemplars);
    this.points += other.points;
    this.rejected += other.rejected;
    for (const [text, points] of other.reasons) this.reasons.set(text, (this.reasons.get(text) ?? 0) + points);
    for (const text of other.warnings) this.warn(text);
  }

  /** Takes all points and exemplars out, into a batch of their own. */
  takeAll(): Batch {
    const all = new Batch();
    all.silent = this.silent;
    all.append(this);
    all.rejected = 0;
    this.groups.clear();
    this.exemplars.length = 0;
    this.points = 0;
    return all;
  }

  /** Adds points of one metric that are in columns. @param seriesOf the series of a number of the column */
  addSet(metric: KnownMetric, set: PointSet, seriesOf: (id: number) => KnownSeries): void {
    this.groupOf(metric, set.layout).addColumns(set, seriesOf);
    this.points += set.count;
  }

  /** All points as columns, with numbers of the caller's for the series. */
  *numbered(idOf: (series: KnownSeries) => number): Iterable<{ metric: KnownMetric; set: PointSet }> {
    for (const [metric, groups] of this.groups)
      for (const group of groups) if (group.series.length > 0) yield { metric, set: group.columns(idOf) };
  }

  /** All points as columns that name series by their place in a list. */
  inColumns(): { all: KnownSeries[]; sets: { metric: KnownMetric; set: PointSet }[] } {
    const all: KnownSeries[] = [];
    const places = new Map<KnownSeries, number>();
    const placeOf = (series: KnownSeries) => {
      let place = places.get(series);
      if (place === undefined) {
        place = all.push(series) - 1;
        places.set(series, place);
      }
      return place;
    };
    return { sets: [...this.numbered(placeOf)], all };
  }

  /** Every series that has a point here. */
  *series(): Iterable<KnownSeries> {
    for (const groups of this.groups.values()) for (const group of groups) yield* group.series;
  }

  /** Calls `visit` with the series and time (Unix ms) of every point. */
  eachTime(visit: (series: KnownSeries, time: number) => void): void {
    for (const groups of this.groups.values()) {
      for (const { series, heads } of groups)
        for (let i = 0; i < series.length; i++) visit(series[i], heads.data[i * 5]);
    }
  }

  /** Calls `visit` with each run of points whose series share a resource. */
  eachRun(visit: (series: KnownSeries, points: number) => void): void {
    for (const groups of this.groups.values()) {
      for (const { series } of groups) {
        let from = 0;
        for (let i = 1; i <= series.length; i++) {
          if (i < series.length && series[i].identity.resource === series[from].identity.resource) continue;
          visit(series[from], i - from);
          from = i;
        }
      }
    }
  }

  /** The point sets per metric, without the points of series past the limit; all others need their ids by now. */
  pointSets(): { metric: KnownMetric; sets: PointSet[] }[] {
    return [...this.groups].map(([metric, groups]) => ({
      metric,
      sets: groups.map((group) => group.pointSet()).filter(({ count }) => count > 0),
    }));
  }

  /** The points of series past the limit. */
  *overflowed(): Iterable<OverflowedPoint> {
    for (const groups of this.groups.values())
      for (const group of groups) for (const point of group.overflowed()) yield { batch: this, ...point };
  }
}

const isNumber = (layout: Layout) => layout.kind === "number";
const numberLayout = (): Layout => ({ kind: "number" });

/** Flags of a histogram point from what was present. */
export function histogramFlags(flags: number, hasSum: boolean, hasMin: boolean, hasMax: boolean): number {
  return (
    (flags & FLAG.noRecordedValue) | (hasSum ? 0 : FLAG.noSum) | (hasMin ? 0 : FLAG.noMin) | (hasMax ? 0 : FLAG.noMax)
  );
}
