import { type Attributes, emptyPointSet, FLAG, type Layout, type PointSet } from "../metric/model";
import type { KnownMetric, KnownSeries } from "./dictionary";
import { LIMITS } from "./limits";

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

/** What every point has. */
export interface PointHead {
  timeMs: number;
  timeNs: number;
  startMs: number;
  startNs: number;
  flags: number;
}

/** The buckets of one sign as they come in. */
export interface IncomingBuckets {
  offset: number;
  counts: number[];
}

export interface IncomingHistogram {
  count: number;
  sum: number;
  min: number;
  max: number;
}

/** Points of one metric and one layout in the making: heads by column, values row by row. */
class Group {
  readonly series: KnownSeries[] = [];
  readonly heads: number[] = [];
  readonly values: number[] = [];

  constructor(
    readonly metric: KnownMetric,
    readonly layout: Layout,
  ) {}

  head(series: KnownSeries, head: PointHead): void {
    this.series.push(series);
    this.heads.push(head.timeMs, head.timeNs, head.startMs, head.startNs, head.flags);
  }

  /** Columns with the series' ids of now. */
  pointSet(): PointSet {
    const { series, heads, values } = this;
    const set = emptyPointSet(this.layout, series.length);
    const width = set.columns.length;
    for (let i = 0; i < series.length; i++) {
      set.series[i] = series[i].id;
      set.timeMs[i] = heads[i * 5];
      set.timeNs[i] = heads[i * 5 + 1];
      set.startMs[i] = heads[i * 5 + 2];
      set.startNs[i] = heads[i * 5 + 3];
      set.flags[i] = heads[i * 5 + 4];
    }
    set.columns.forEach((column, c) => {
      for (let i = 0; i < column.length; i++) column[i] = values[i * width + c];
    });
    return set;
  }
}

function sameNumbers(a: readonly number[], b: readonly number[]): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

function push(values: number[], more: readonly number[]): void {
  for (let i = 0; i < more.length; i++) values.push(more[i]);
}

/** Without the empty buckets at both ends: the same histogram, in one form. */
function trimmed({ offset, counts }: IncomingBuckets): IncomingBuckets {
  let from = 0;
  let to = counts.length;
  while (from < to && counts[from] === 0) from++;
  while (to > from && counts[to - 1] === 0) to--;
  if (from === to) return { offset: 0, counts: [] };
  return from === 0 && to === counts.length
    ? { offset, counts }
    : { offset: offset + from, counts: counts.slice(from, to) };
}

/** The points of one or more requests on their way to the store, with what was refused and why. */
export class Batch {
  private readonly groups = new Map<KnownMetric, Group[]>();
  readonly exemplars: Exemplar[] = [];
  points = 0;
  rejected = 0;
  private readonly reasons = new Map<string, number>();

  /** Latest moment that a point may name, Unix ms. */
  constructor(private readonly latest: number) {}

  reject(metric: string, reason: string, points = 1): void {
    this.rejected += points;
    const text = `${metric || "(no name)"}: ${reason}`;
    if (this.reasons.has(text) || this.reasons.size < LIMITS.reasons) {
      this.reasons.set(text, (this.reasons.get(text) ?? 0) + points);
    }
  }

  /** What was refused, in words; "" where nothing was. */
  message(): string {
    return [...this.reasons]
      .map(([text, points]) => `${text} (${points} ${points === 1 ? "point" : "points"})`)
      .join("; ");
  }

  private headIsFine(series: KnownSeries, head: PointHead): boolean {
    const name = series.metric.identity.name;
    if (head.timeMs === 0 && head.timeNs === 0) this.reject(name, "a point has no time");
    else if (head.timeMs > this.latest)
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
    const group = new Group(metric, layout());
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

  explicit(series: KnownSeries, head: PointHead, point: IncomingHistogram, bounds: number[], counts: number[]): void {
    if (!this.headIsFine(series, head)) return;
    const problem = explicitProblem(point, bounds, counts);
    if (problem) return this.reject(series.metric.identity.name, problem);
    const group = this.group(
      series.metric,
      (layout) => layout.kind === "explicit" && sameNumbers(layout.bounds, bounds),
      () => ({ kind: "explicit", bounds: bounds.slice() }),
    );
    group.head(series, head);
    if (counts.length === 0) group.values.push(point.count);
    else push(group.values, counts);
    group.values.push(point.min, point.max, point.sum);
    this.points++;
  }

  exponential(
    series: KnownSeries,
    head: PointHead,
    point: IncomingHistogram & { scale: number; zeroCount: number; zeroThreshold: number },
    positiveBuckets: IncomingBuckets,
    negativeBuckets: IncomingBuckets,
  ): void {
    if (!this.headIsFine(series, head)) return;
    const problem = exponentialProblem(point, positiveBuckets, negativeBuckets);
    if (problem) return this.reject(series.metric.identity.name, problem);
    const positive = trimmed(positiveBuckets);
    const negative = trimmed(negativeBuckets);
    const { scale, zeroThreshold } = point;
    const group = this.group(
      series.metric,
      (layout) =>
        layout.kind === "exponential" &&
        layout.scale === scale &&
        layout.zeroThreshold === zeroThreshold &&
        layout.positive.from === positive.offset &&
        layout.positive.width === positive.counts.length &&
        layout.negative.from === negative.offset &&
        layout.negative.width === negative.counts.length,
      () => ({
        kind: "exponential",
        scale,
        zeroThreshold,
        negative: { from: negative.offset, width: negative.counts.length },
        positive: { from: positive.offset, width: positive.counts.length },
      }),
    );
    group.head(series, head);
    group.values.push(point.zeroCount);
    push(group.values, negative.counts);
    push(group.values, positive.counts);
    group.values.push(point.min, point.max, point.sum);
    this.points++;
  }

  summary(
    series: KnownSeries,
    head: PointHead,
    count: number,
    sum: number,
    quantiles: number[],
    values: number[],
  ): void {
    if (!this.headIsFine(series, head)) return;
    const group = this.group(
      series.metric,
      (layout) => layout.kind === "summary" && sameNumbers(layout.quantiles, quantiles),
      () => ({ kind: "summary", quantiles: quantiles.slice() }),
    );
    group.head(series, head);
    push(group.values, values);
    group.values.push(count, sum);
    this.points++;
  }

  /** Every series that has a point here. */
  *series(): Iterable<KnownSeries> {
    for (const groups of this.groups.values()) for (const group of groups) yield* group.series;
  }

  /** Calls `visit` with the series and time (Unix ms) of every point. */
  eachTime(visit: (series: KnownSeries, time: number) => void): void {
    for (const groups of this.groups.values()) {
      for (const { series, heads } of groups) for (let i = 0; i < series.length; i++) visit(series[i], heads[i * 5]);
    }
  }

  /** The point sets per metric; series need their ids by now. */
  pointSets(): { metric: KnownMetric; sets: PointSet[] }[] {
    return [...this.groups].map(([metric, groups]) => ({ metric, sets: groups.map((group) => group.pointSet()) }));
  }
}

const isNumber = (layout: Layout) => layout.kind === "number";
const numberLayout = (): Layout => ({ kind: "number" });

function total(counts: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < counts.length; i++) sum += counts[i];
  return sum;
}

/** OpenTelemetry metrics data model, "Histogram": counts are one longer than bounds and add up to the count. */
function explicitProblem(point: IncomingHistogram, bounds: number[], counts: number[]): string | null {
  if (bounds.length > LIMITS.buckets) return `${bounds.length} bucket bounds, at most ${LIMITS.buckets} are taken`;
  if (counts.length === 0 && bounds.length === 0) return null;
  if (counts.length !== bounds.length + 1)
    return `${counts.length} bucket counts for ${bounds.length} bounds; there must be one more count than bounds`;
  for (let i = 0; i < bounds.length; i++) {
    if (!Number.isFinite(bounds[i]) || (i > 0 && bounds[i] <= bounds[i - 1])) return "bucket bounds do not rise";
  }
  const sum = total(counts);
  return sum === point.count ? null : `bucket counts add up to ${sum}, the count says ${point.count}`;
}

/** OpenTelemetry metrics data model, "ExponentialHistogram"; scales beyond ±20 do not occur in SDKs. */
function exponentialProblem(
  point: IncomingHistogram & { scale: number; zeroCount: number },
  positive: IncomingBuckets,
  negative: IncomingBuckets,
): string | null {
  if (point.scale < -10 || point.scale > 20) return `scale ${point.scale} lies outside -10 to 20`;
  const width = positive.counts.length + negative.counts.length;
  if (width > LIMITS.buckets) return `${width} buckets, at most ${LIMITS.buckets} are taken`;
  const sum = total(positive.counts) + total(negative.counts) + point.zeroCount;
  return sum === point.count ? null : `bucket counts add up to ${sum}, the count says ${point.count}`;
}

/** Flags of a histogram point from what was present. */
export function histogramFlags(flags: number, hasSum: boolean, hasMin: boolean, hasMax: boolean): number {
  return (
    (flags & FLAG.noRecordedValue) | (hasSum ? 0 : FLAG.noSum) | (hasMin ? 0 : FLAG.noMin) | (hasMax ? 0 : FLAG.noMax)
  );
}
