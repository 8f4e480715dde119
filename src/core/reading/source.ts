import type { Attributes, MetricIdentity, PointSet } from "../metric/model";
import type { Warning } from "./result";
import type { SettledReleases } from "./settled";

/** One series with its points in time order: a set per layout, as `assemble` gives them. */
export interface SourceSeries {
  /** Resource and point attributes in one; a point's own attribute wins over its resource's. */
  readonly attributes: Attributes;
  readonly parts: PointSet[];
}

/** The series of one metric. */
export interface MetricSource {
  identity: MetricIdentity;
  series: SourceSeries[];
  /** How many points of these series lie in what was read. */
  points: number;
}

/** All that a measure reads: the metrics of its name (several where kind, unit or temporality changed). */
export interface Source {
  metrics: MetricSource[];
  /** The start of what was read, Unix ms. */
  earliest: number;
  /** The resolutions that it was read from: 0 for points as they arrived, else seconds; finest first. */
  resolutions: number[];
  /** Up to when each release is settled, Unix ms; left out where all is. */
  settled?: SettledReleases;
  /** What the reader should know about how this was read. */
  warnings: Warning[];
}
