import { columnCount, emptyPointSet, FLAG, type Layout, type PointSet } from "../../metric/model";
import { takeRows } from "../../strip/strip";
import type { KnownMetric, KnownSeries } from "../dictionary";
import { Numbers } from "../numbers";

/** What every point has. */
export interface PointHead {
  timeMs: number;
  timeNs: number;
  startMs: number;
  startNs: number;
  flags: number;
}

/** What is not known of nothing: its least and greatest observation. */
const MEASURED = {
  number: 0,
  explicit: FLAG.noMin | FLAG.noMax,
  exponential: FLAG.noMin | FLAG.noMax,
  summary: 0,
  levels: 0,
} as const;

/** Points of one metric and one layout in the making: heads by column, values row by row. */
export class Group {
  readonly series: KnownSeries[] = [];
  /** Time, its nanoseconds, start, its nanoseconds, flags of each point. */
  readonly heads = new Numbers(5 * 64);
  readonly values = new Numbers(256);

  constructor(
    readonly metric: KnownMetric,
    readonly layout: Layout,
    readonly owner: object,
  ) {}

  head(series: KnownSeries, head: PointHead): void {
    this.series.push(series);
    const { heads } = this;
    heads.reserve(5);
    const { data, size } = heads;
    data[size] = head.timeMs;
    data[size + 1] = head.timeNs;
    data[size + 2] = head.startMs;
    data[size + 3] = head.startNs;
    data[size + 4] = head.flags;
    heads.size = size + 5;
  }

  /**
   * Notes that the series of a row stood at nothing at an earlier moment.
   *
   * @param again whether it was heard before, of an earlier start
   */
  absent(row: number, timeMs: number, timeNs: number, again: boolean): void {
    const at = row * 5;
    const { data } = this.heads;
    const known = FLAG.absent | (again ? FLAG.again : 0) | MEASURED[this.layout.kind];
    const flags = known | (data[at + 4] & FLAG.integer);
    this.head(this.series[row], { timeMs, timeNs, startMs: data[at + 2], startNs: data[at + 3], flags });
    for (let left = columnCount(this.layout); left > 0; left--) this.values.push(0);
  }

  isAbsent(row: number): boolean {
    return (this.heads.data[row * 5 + 4] & FLAG.absent) !== 0;
  }

  private isAgain(row: number): boolean {
    return (this.heads.data[row * 5 + 4] & FLAG.again) !== 0;
  }

  /** Whether any of its points was not sent. */
  hasAbsent(): boolean {
    for (let row = 0; row < this.series.length; row++) if (this.isAbsent(row)) return true;
    return false;
  }

  /**
   * Columns with the series' ids of now, without the points of series past the limit.
   *
   * @param isNew whether a series had no point before: only of those, and of those that were heard of an earlier start, it
   *   counts that they stood at nothing
   */
  pointSet(isNew: (series: KnownSeries) => boolean): PointSet {
    const all = this.columns(({ id }) => id);
    const absent = this.hasAbsent();
    if (!absent && !this.series.some(({ overflowed, resumes }) => overflowed || resumes)) return all;
    const stays = this.series
      .map((_, i) => i)
      .filter((i) => !this.series[i].overflowed && (!this.isAbsent(i) || this.isAgain(i) || isNew(this.series[i])))
      .filter((i) => !this.series[i].resumes || !this.isAbsent(i));
    for (let i = 0; i < all.count; i++) if (this.series[i].resumes) all.flags[i] |= FLAG.resumed;
    if (absent) for (let i = 0; i < all.count; i++) all.flags[i] &= ~(FLAG.absent | FLAG.again);
    return takeRows(all, Int32Array.from(stays));
  }

  /** Takes points in that are in columns of the same layout. */
  addColumns(set: PointSet, seriesOf: (id: number) => KnownSeries): void {
    const { heads, values } = this;
    const width = set.columns.length;
    heads.reserve(5 * set.count);
    values.reserve(width * set.count);
    for (let row = 0; row < set.count; row++) {
      this.series.push(seriesOf(set.series[row]));
      const at = heads.size + 5 * row;
      heads.data[at] = set.timeMs[row];
      heads.data[at + 1] = set.timeNs[row];
      heads.data[at + 2] = set.startMs[row];
      heads.data[at + 3] = set.startNs[row];
      heads.data[at + 4] = set.flags[row];
    }
    set.columns.forEach((column, c) => {
      for (let row = 0; row < set.count; row++) values.data[values.size + row * width + c] = column[row];
    });
    heads.size += 5 * set.count;
    values.size += width * set.count;
  }

  /** Copies a point of a group of the same layout. */
  copy({ heads, values }: Group, row: number, series: KnownSeries): void {
    this.series.push(series);
    this.heads.append(heads, row * 5, row * 5 + 5);
    const width = columnCount(this.layout);
    this.values.append(values, row * width, row * width + width);
  }

  /** Columns with numbers of the series. */
  columns(idOf: (series: KnownSeries) => number): PointSet {
    const { series } = this;
    const heads = this.heads.data;
    const values = this.values.data;
    const set = emptyPointSet(this.layout, series.length);
    const width = set.columns.length;
    for (let i = 0; i < series.length; i++) {
      set.series[i] = idOf(series[i]);
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

  /** The points of series past the limit, and of those that begin to stand for themselves: what they rose until now is told by the overflow series. */
  *overflowed(): Iterable<{ series: KnownSeries; set: PointSet; row: number }> {
    if (!this.series.some(({ overflowed, resumes }) => overflowed || resumes)) return;
    const set = this.columns(({ id }) => id);
    for (let row = 0; row < set.count; row++) {
      const { overflowed, resumes } = this.series[row];
      if ((overflowed || resumes) && !this.isAbsent(row)) yield { series: this.series[row], set, row };
    }
  }
}
