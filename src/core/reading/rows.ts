import type { Band } from "../histogram/bands";
import type { Interval } from "../histogram/intervals";
import { type Bounded, hasSplitBuckets } from "../histogram/quantile";
import { isPart, type MetricIdentity } from "../metric/model";
import { NO_UNIT, type Unit } from "../unit/unit";
import type { Cells } from "./cells";
import { type Distribution, distributionOf } from "./distribution";
import { type LevelMeasure, levelsOf, overCells } from "./gauge";
import type { SeriesGroup } from "./grouping";
import type { Predicate } from "./language/conditions";
import type { MeasureNode } from "./language/tree";
import type { Warning } from "./result";
import { addUp, type Quantity } from "./scalars";
import { settledTogether } from "./settled";
import type { Source } from "./source";

/** The rows of a measure's answer, one per group of series, and the ways in which aggregations make them. */

/** One row of a measure's answer; NaN where nothing arrived, ±Infinity in bounds where a side is open. */
export interface Row {
  labels: Record<string, string | null>;
  /** The values that are counted in it, where a row is one of a spread. */
  band?: Band;
  values: Float64Array;
  low: Float64Array | null;
  high: Float64Array | null;
  total: number;
  totalLow: number;
  totalHigh: number;
  /** The moment after which values may still change as instances report, Unix ms; Infinity where none may. */
  settledTo: number;
}

export interface MeasureResult {
  unit: Unit;
  share: boolean;
  rows: Row[];
  warnings: Warning[];
  /** The unit of the bands of a spread. */
  bandUnit?: Unit;
}

/** What an aggregation has at hand. */
export interface Context {
  node: MeasureNode;
  source: Source;
  cells: Cells;
  /** Whether a series counts for the part of a share: all do where none is asked for. */
  inNumerator: Predicate;
  warnings: Warning[];
  unit: Unit;
  /** Whether all that is read are levels: gauges, and up-down counters. */
  levels: boolean;
}

function isHistogram({ kind }: MetricIdentity): boolean {
  return kind === "histogram" || kind === "exponential";
}

/** Up to when a group's values are settled, Unix ms. */
export function settledOf({ settled }: Source, { members }: SeriesGroup): number {
  return settledTogether(
    settled,
    members.map(({ series }) => series.attributes),
  );
}

/** The answer in the metric's own unit. */
export function finish({ source: { metrics }, unit, warnings }: Context, rows: Row[]): MeasureResult {
  const share = metrics.length > 0 && metrics.every(({ identity }) => isPart(identity));
  return { unit, share, rows, warnings };
}

/** Calls and observations have no unit of their own; a counter counts its unit. */
export function countUnit({ source, unit }: Context): Unit {
  return source.metrics.some(({ identity }) => isHistogram(identity) || identity.kind === "summary") ? NO_UNIT : unit;
}

function plainRow(labels: Row["labels"], values: Float64Array, total: number): Row {
  const none = { low: null, high: null, totalLow: Number.NaN, totalHigh: Number.NaN };
  return { labels, values, total, ...none, settledTo: Number.POSITIVE_INFINITY };
}

/** What increases add up to, step by step. */
export function counted({ node, cells, source, warnings }: Context, group: SeriesGroup, quantity: Quantity): Row {
  const { steps, total, withoutSum, odd, noticed } = addUp(group, quantity, cells, source.earliest);
  if (withoutSum && !warnings.some(({ code }) => code === "no-sum")) {
    warnings.push({ code: "no-sum", message: "some points came without a sum; they are left out of it" });
  }
  noticed.warn(node.metric, warnings);
  if (odd) warnOfOdd(node.metric, warnings);
  return plainRow(group.labels, steps, total);
}

function warnOfOdd(metric: string, warnings: Warning[]): void {
  if (warnings.some(({ code }) => code === "not-finite")) return;
  warnings.push({
    code: "not-finite",
    message: `some points of ${metric} are infinite or no number; they are left out`,
  });
}

/** NaN where nothing is divided by. */
export function divided(a: number, b: number): number {
  return b === 0 ? Number.NaN : a / b;
}

/** Brings levels of several series together: the mean of means, the sum of last values, the least, the greatest. */
export function levelRow({ node, cells, warnings }: Context, group: SeriesGroup, what: LevelMeasure | "sum"): Row {
  const steps = cells.first.length;
  const values = new Float64Array(steps).fill(Number.NaN);
  const counts = new Float64Array(steps);
  const join = joins[what];
  const measure = what === "sum" ? "last" : what;
  let total = Number.NaN;
  let totalCount = 0;
  for (const { series } of group.members) {
    const levels = levelsOf(series.parts, cells.bounds);
    if (levels.odd > 0) warnOfOdd(node.metric, warnings);
    for (let i = 0; i < steps; i++) {
      const own = overCells(levels, measure, cells.first[i], cells.after[i]);
      if (!Number.isNaN(own)) values[i] = counts[i]++ === 0 ? own : join(values[i], own);
    }
    const whole = overCells(levels, measure, cells.windowStart, cells.windowEnd);
    if (!Number.isNaN(whole)) total = totalCount++ === 0 ? whole : join(total, whole);
  }
  if (what === "mean") {
    for (let i = 0; i < steps; i++) values[i] /= counts[i] || 1;
    total /= totalCount || 1;
  }
  return plainRow(group.labels, values, total);
}

const add = (a: number, b: number) => a + b;
/** `last` over several series is their sum: queue depths of instances add up. */
const joins: Record<LevelMeasure | "sum", (a: number, b: number) => number> = {
  sum: add,
  mean: add,
  last: add,
  min: Math.min,
  max: Math.max,
};

/** Takes a value from the merged buckets of a step, or of the window. */
export function fromBuckets(take: (found: Interval[]) => Bounded | null) {
  return (distribution: Distribution, step: number | null) => {
    const found = step === null ? distribution.window() : distribution.step(step);
    return found && take(found);
  };
}

/** A row of values with bounds, each taken from the merged buckets of its step. */
export function boundedRow(
  { node, cells, source, warnings }: Context,
  group: SeriesGroup,
  take: (distribution: Distribution, step: number | null) => Bounded | null,
): Row {
  const distribution = distributionOf(group, cells, source.earliest);
  distribution.noticed.warn(node.metric, warnings);
  const steps = cells.first.length;
  const values = new Float64Array(steps).fill(Number.NaN);
  const low = values.slice();
  const high = values.slice();
  for (let i = 0; i < steps; i++) {
    const bounded = take(distribution, i);
    if (!bounded) continue;
    values[i] = bounded.value;
    low[i] = bounded.low;
    high[i] = bounded.high;
  }
  const all = distribution.window();
  const total = take(distribution, null);
  if (all && hasSplitBuckets(all) && !warnings.some(({ code }) => code === "split-buckets")) {
    warnings.push({
      code: "split-buckets",
      message:
        "histograms with different bounds were merged on the union of their bounds; the stated bounds hold all the same",
    });
  }
  return {
    labels: group.labels,
    values,
    low,
    high,
    total: total ? total.value : Number.NaN,
    totalLow: total ? total.low : Number.NaN,
    totalHigh: total ? total.high : Number.NaN,
    settledTo: Number.POSITIVE_INFINITY,
  };
}

/** The rows that a measure asks for: all, or the largest or smallest by the value of the window. */
export function limited(rows: Row[], { limit }: MeasureNode): Row[] {
  if (!limit) return rows;
  const sign = limit.end === "top" ? -1 : 1;
  const size = (row: Row) => (Number.isNaN(row.total) ? -sign * Number.POSITIVE_INFINITY : row.total);
  return [...rows].sort((a, b) => sign * (size(a) - size(b))).slice(0, limit.count);
}
