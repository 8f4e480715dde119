import { columnCount, isLevel, type Layout, type PointSet } from "../../metric/model";
import { countProblem } from "../../metric/pointLimits";
import type { KnownMetric, KnownSeries } from "../dictionary";
import type { Numbers } from "../numbers";
import { ADMIT_ALL, type Admission, refusedHead } from "./admission";
import { type Exemplar, exemplarProblem } from "./exemplar";
import type { Group, PointHead } from "./group";
import { Groups } from "./groups";
import {
  explicitProblem,
  exponentialProblem,
  filled,
  type IncomingBuckets,
  type IncomingHistogram,
} from "./histograms";
import { exactLayoutKey, numberLayout } from "./layoutKeys";
import { Refusals } from "./refusals";
import type { OutgoingOf, SideOutputsOf } from "./sideOutputs";

/** A point of a series past the limit: a row of a set. */
export interface OverflowedPoint {
  batch: Batch;
  series: KnownSeries;
  set: PointSet;
  row: number;
}

/** What of one signal goes to an exporter. */
export type Outgoing = OutgoingOf<Batch>;

/** What has to be kept together with the points of a batch, or not at all. */
export type SideOutputs = SideOutputsOf<Batch>;

/** A series in a batch to which points are taken. */
export interface Destination {
  batch: Batch;
  series: KnownSeries;
}

/** Whether points of a metric tell what was counted since a start. */
function isTotal({ identity }: KnownMetric): boolean {
  return identity.temporality === "cumulative" && identity.kind !== "summary" && !isLevel(identity);
}

/** A series whose point was refused was reported all the same: it is not new when the next one comes. */
function noteRefused(series: KnownSeries, { startMs, startNs }: PointHead): void {
  series.lifeMs = startMs;
  series.lifeNs = startNs;
}

/** The points of one or more requests on their way to the store, with what was refused and why. */
export class Batch {
  private readonly groups = new Groups(this);
  /** The group of the last explicit histogram of each metric: the next one most often has the same bounds. */
  private readonly lastExplicit = new Map<KnownMetric, Group>();
  readonly exemplars: Exemplar[] = [];
  /** What the pipeline took aside, and has to be kept together with these points. */
  sideOutputs: SideOutputs | null = null;
  /** Whether its points say nothing of their resources being there: written about them rather than by them. */
  silent = false;
  /** The id of the request that it is, where one that is sent again must not be stored again. */
  request: string | null = null;
  points = 0;
  private readonly refusals = new Refusals();

  /** @param allowed what the request may say; anything where left out */
  constructor(private readonly allowed: Admission = ADMIT_ALL) {}

  /** Points that were refused. */
  get rejected(): number {
    return this.refusals.points;
  }

  /** Tells the sender of something that did not make points be refused. */
  warn(text: string): void {
    this.refusals.warn(text);
  }

  reject(metric: string, reason: string, points = 1): void {
    this.refusals.add(metric, reason, points);
  }

  /** What was refused and what the sender is warned of, in words; "" where there is nothing. */
  message(): string {
    return this.refusals.message();
  }

  private headIsFine(series: KnownSeries, head: PointHead): boolean {
    const problem = refusedHead(this.allowed, series.metric, head);
    if (problem !== null) this.refuse(series, head, problem);
    return problem === null;
  }

  /** Refuses a point of a series. */
  private refuse(series: KnownSeries, head: PointHead, reason: string): void {
    noteRefused(series, head);
    this.reject(series.metric.identity.name, reason);
  }

  /** Takes all points out. */
  private takeGroups(): Group[] {
    this.lastExplicit.clear();
    this.points = 0;
    return this.groups.take();
  }

  /** The group of a metric for a layout, found by a text that is equal for equal ones; null where the layout is refused. */
  private group(metric: KnownMetric, key: string, layout: () => Layout): Group | null {
    const group = this.groups.admit(metric, key, layout);
    if (typeof group !== "string") return group;
    this.reject(metric.identity.name, group);
    return null;
  }

  number(series: KnownSeries, head: PointHead, value: number): void {
    if (!this.headIsFine(series, head)) return;
    const group = this.group(series.metric, "n", numberLayout)!;
    group.head(series, head);
    group.values.push(value);
    this.points++;
  }

  explicit(series: KnownSeries, head: PointHead, point: IncomingHistogram, bounds: Numbers, counts: Numbers): void {
    if (!this.headIsFine(series, head)) return;
    const problem = countProblem(point.count) ?? explicitProblem(point, bounds, counts);
    if (problem) return this.refuse(series, head, problem);
    const last = this.lastExplicit.get(series.metric);
    const same = last?.layout.kind === "explicit" && bounds.equals(last.layout.bounds);
    const group = same ? last : this.groupFor(series.metric, { kind: "explicit", bounds: bounds.toArray() });
    if (!group) return noteRefused(series, head);
    if (!same) this.lastExplicit.set(series.metric, group);
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
    const problem = countProblem(point.count) ?? exponentialProblem(point, positive, negative);
    if (problem) return this.refuse(series, head, problem);
    const { scale, zeroThreshold } = point;
    const p = filled(positive);
    const n = filled(negative);
    const pFrom = p.to > p.from ? positive.offset + p.from : 0;
    const nFrom = n.to > n.from ? negative.offset + n.from : 0;
    const group = this.groupFor(series.metric, {
      kind: "exponential",
      scale,
      zeroThreshold,
      negative: { from: nFrom, width: n.to - n.from },
      positive: { from: pFrom, width: p.to - p.from },
    });
    if (!group) return noteRefused(series, head);
    group.head(series, head);
    group.values.push(point.zeroCount);
    group.values.append(negative.counts, n.from, n.to);
    group.values.append(positive.counts, p.from, p.to);
    this.measured(group, point);
  }

  summary(series: KnownSeries, head: PointHead, count: number, sum: number, quantiles: Numbers, values: Numbers): void {
    if (!this.headIsFine(series, head)) return;
    const problem = countProblem(count);
    if (problem) return this.refuse(series, head, problem);
    const group = this.groupFor(series.metric, { kind: "summary", quantiles: quantiles.toArray() });
    if (!group) return noteRefused(series, head);
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
    const before = this.takeGroups();
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
            into = batch.groups.of(other.metric, layout);
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
  private groupFor(metric: KnownMetric, layout: Layout): Group | null {
    return this.group(metric, exactLayoutKey(layout), () => layout);
  }

  /** Takes the points that are later than a moment (Unix ms) out, into a batch of their own. */
  takeLater(moment: number): Batch {
    const later = new Batch();
    later.silent = this.silent;
    const before = this.takeGroups();
    for (const group of before) {
      const { series, heads } = group;
      for (let row = 0; row < series.length; row++) {
        const time = heads.data[row * 5] + heads.data[row * 5 + 1] / 1e6;
        const owner = time > moment ? later : this;
        owner.groups.of(group.metric, group.layout).copy(group, row, series[row]);
        owner.points++;
      }
    }
    const exemplars = this.exemplars.splice(0);
    for (const exemplar of exemplars) (exemplar.ms > moment ? later : this).exemplars.push(exemplar);
    return later;
  }

  /** Adds a point whose columns are known to fit its layout. */
  addPoint(metric: KnownMetric, layout: Layout, series: KnownSeries, head: PointHead, values: readonly number[]): void {
    const group = this.groups.of(metric, layout);
    group.head(series, head);
    for (const value of values) group.values.push(value);
    this.points++;
  }

  /** Keeps an exemplar; one that cannot be stored is left out, and the sender told. */
  addExemplar(exemplar: Exemplar): void {
    const problem = exemplarProblem(exemplar);
    if (problem === null) this.exemplars.push(exemplar);
    else this.warn(`${exemplar.series.metric.identity.name}: an exemplar is left out: ${problem}`);
  }

  /** Takes over all points and exemplars of another batch, with what was refused there. */
  append(other: Batch): void {
    for (const group of other.groups.all()) {
      const into = this.groups.of(group.metric, group.layout);
      for (let row = 0; row < group.series.length; row++) into.copy(group, row, group.series[row]);
    }
    for (const exemplar of other.exemplars) this.exemplars.push(exemplar);
    this.points += other.points;
    this.refusals.append(other.refusals);
  }

  /** Takes all points and exemplars out, into a batch of their own. */
  takeAll(): Batch {
    const all = new Batch();
    all.silent = this.silent;
    all.append(this);
    all.refusals.points = 0;
    this.takeGroups();
    this.exemplars.length = 0;
    return all;
  }

  /** Adds points of one metric that are in columns. @param seriesOf the series of a number of the column */
  addSet(metric: KnownMetric, set: PointSet, seriesOf: (id: number) => KnownSeries): void {
    this.groups.of(metric, set.layout).addColumns(set, seriesOf);
    this.points += set.count;
  }

  /** All points as columns, with numbers of the caller's for the series. */
  *numbered(idOf: (series: KnownSeries) => number): Iterable<{ metric: KnownMetric; set: PointSet }> {
    for (const group of this.groups.all())
      if (group.series.length > 0) yield { metric: group.metric, set: group.columns(idOf) };
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
    for (const group of this.groups.all()) yield* group.series;
  }

  /** Calls `visit` with the series and time (Unix ms) of every point. */
  eachTime(visit: (series: KnownSeries, time: number) => void): void {
    for (const { series, heads } of this.groups.all())
      for (let i = 0; i < series.length; i++) visit(series[i], heads.data[i * 5]);
  }

  /** Calls `visit` with each run of points whose series share a resource. */
  eachRun(visit: (series: KnownSeries, points: number) => void): void {
    for (const { series } of this.groups.all()) {
      let from = 0;
      for (let i = 1; i <= series.length; i++) {
        if (i < series.length && series[i].identity.resource === series[from].identity.resource) continue;
        visit(series[from], i - from);
        from = i;
      }
    }
  }

  /** The points of running totals, by metric and layout. */
  *totals(): Iterable<{ metric: KnownMetric; groups: Iterable<Group> }> {
    for (const [metric, groups] of this.groups.byMetrics()) if (isTotal(metric)) yield { metric, groups };
  }

  /** Adds that the series of a row of a group stood at nothing at an earlier moment, which nobody sent: see {@link Group.absent}. */
  addAbsence(group: Group, row: number, timeMs: number, timeNs: number, again: boolean): void {
    group.absent(row, timeMs, timeNs, again);
    this.points++;
  }

  /** What was sent of it: without what {@link addAbsence} added. Itself where that is all. */
  sent(): Batch {
    if (!this.groups.all().some((group) => group.hasAbsent())) return this;
    const sent = new Batch();
    sent.silent = this.silent;
    for (const group of this.groups.all())
      for (let row = 0; row < group.series.length; row++) {
        if (group.isAbsent(row)) continue;
        sent.groups.of(group.metric, group.layout).copy(group, row, group.series[row]);
        sent.points++;
      }
    for (const exemplar of this.exemplars) sent.exemplars.push(exemplar);
    return sent;
  }

  /**
   * The point sets per metric, without the points of series past the limit; all others need their ids by now.
   *
   * @param isNew whether a series had no point before, to the store's knowledge: see {@link Group.pointSet}
   */
  pointSets(isNew: (series: KnownSeries) => boolean = () => true): { metric: KnownMetric; sets: PointSet[] }[] {
    return [...this.groups.byMetrics()].map(([metric, groups]) => ({
      metric,
      sets: groups.map((group) => group.pointSet(isNew)).filter(({ count }) => count > 0),
    }));
  }

  /** The points of series past the limit. */
  *overflowed(): Iterable<OverflowedPoint> {
    for (const group of this.groups.all()) for (const point of group.overflowed()) yield { batch: this, ...point };
  }
}
