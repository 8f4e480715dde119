import type { Interval } from "../histogram/intervals";
import { type Bounded, hasSplitBuckets, quantile, shareUnder } from "../histogram/quantile";
import type { MetricIdentity } from "../metric/model";
import { isLevel } from "../metric/model";
import { comparable, divideUnits, isDimensionless, lenientUnit, NO_UNIT, parseUnit, type Unit } from "../unit/unit";
import { type Cells, endedAt, makeCells } from "./cells";
import { type Picks, predicate } from "./conditions";
import { type Distribution, distributionOf } from "./distribution";
import { type LevelMeasure, levelsOf, overCells } from "./gauge";
import { groupSeries, type SeriesGroup } from "./grouping";
import { askedOf, canAnswer, kindInWords } from "./kinds";
import { printHow } from "./print";
import type { Warning } from "./result";
import { addUp, type Quantity } from "./scalars";
import { settledTogether } from "./settled";
import type { Source } from "./source";
import { type MeasureNode, ReadingError } from "./tree";

/** One row of a measure's answer; NaN where nothing arrived, ±Infinity in bounds where a side is open. */
export interface Row {
  labels: Record<string, string | null>;
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
}

const SECOND = parseUnit("s");

function isHistogram({ kind }: MetricIdentity): boolean {
  return kind === "histogram" || kind === "exponential";
}

function checkKinds(node: MeasureNode, source: Source): void {
  for (const { identity } of source.metrics) {
    if (canAnswer(node.how, identity)) continue;
    throw new ReadingError(
      `${node.metric} is a ${identity.temporality === "delta" ? "delta " : ""}${kindInWords(identity)} and has no ${printHow(node.how)}`,
      node.from,
      `ask it for ${askedOf(identity)}`,
      node.metricPlace.to - node.from,
    );
  }
}

/** The unit of a source, whose metrics are of one. */
function unitOf(source: Source): Unit {
  return source.metrics.length === 0 ? NO_UNIT : lenientUnit(source.metrics[0].identity.unit);
}

/**
 * Answers one measure.
 *
 * @param steps bounds of the steps, ascending: step k is (steps[k], steps[k+1]]
 * @throws ReadingError where the metric cannot be asked this
 */
export function evaluateMeasure(node: MeasureNode, source: Source, steps: Float64Array, picks: Picks): MeasureResult {
  checkKinds(node, source);
  const groups = groupSeries(source, predicate(node.where, picks), node.by);
  const context: Context = {
    node,
    source,
    cells: makeCells(steps, node.over),
    picks,
    warnings: [...source.warnings],
    unit: unitOf(source),
  };
  const result = answer(context, groups);
  result.rows.forEach((row, i) => {
    row.settledTo = settledOf(source, groups[i]);
  });
  result.rows = result.rows.filter(
    (row) => row.values.some((value) => !Number.isNaN(value)) || !Number.isNaN(row.total),
  );
  return result;
}

function settledOf({ settled }: Source, { members }: SeriesGroup): number {
  return settledTogether(
    settled,
    members.map(({ series }) => series.attributes),
  );
}

interface Context {
  node: MeasureNode;
  source: Source;
  cells: Cells;
  picks: Picks;
  warnings: Warning[];
  unit: Unit;
}

function answer(context: Context, groups: SeriesGroup[]): MeasureResult {
  const { how } = context.node;
  const levels = context.source.metrics.length > 0 && context.source.metrics.every(({ identity }) => isLevel(identity));
  switch (how.type) {
    case "rate":
      return rate(context, groups);
    case "count":
      return {
        ...finish(
          context,
          groups.map((group) => counted(context, group, "count")),
        ),
        unit: countUnit(context),
      };
    case "sum":
      return finish(
        context,
        groups.map((group) => (levels ? levelRow(context, group, "sum") : counted(context, group, "sum"))),
      );
    case "mean":
      return finish(
        context,
        groups.map((group) => (levels ? levelRow(context, group, "mean") : meanRow(context, group))),
      );
    case "min":
    case "max": {
      const end = how.type;
      if (levels)
        return finish(
          context,
          groups.map((group) => levelRow(context, group, end)),
        );
      return extremes(context, groups, end);
    }
    case "last":
      return finish(
        context,
        groups.map((group) => levelRow(context, group, "last")),
      );
    case "percentile": {
      const rows = groups.map((group) =>
        boundedRow(
          context,
          group,
          fromBuckets((found) => quantile(found, how.percent / 100)),
        ),
      );
      if (
        rows.some((row) => row.totalHigh === Number.POSITIVE_INFINITY || row.high?.includes(Number.POSITIVE_INFINITY))
      ) {
        context.warnings.push({
          code: "open-bucket",
          message: `some p${how.percent} lie in the last bucket, which has no upper bound: they are at least what is shown`,
        });
      }
      return finish(context, rows);
    }
    case "share under":
    case "share over":
      return shareOfBound(context, groups, how);
    case "share that":
      return shareThat(context, groups);
  }
}

function finish({ unit, warnings }: Context, rows: Row[]): MeasureResult {
  return { unit, share: false, rows, warnings };
}

/** Calls and observations have no unit of their own; a counter counts its unit. */
function countUnit({ source, unit }: Context): Unit {
  return source.metrics.some(({ identity }) => isHistogram(identity) || identity.kind === "summary") ? NO_UNIT : unit;
}

function plainRow(labels: Row["labels"], values: Float64Array, total: number): Row {
  const none = { low: null, high: null, totalLow: Number.NaN, totalHigh: Number.NaN };
  return { labels, values, total, ...none, settledTo: Number.POSITIVE_INFINITY };
}

function counted({ node, cells, source, warnings }: Context, group: SeriesGroup, quantity: Quantity): Row {
  const { steps, total, withoutSum, odd, noticed } = addUp(group, quantity, cells, source.earliest);
  if (withoutSum && !warnings.some(({ code }) => code === "no-sum")) {
    warnings.push({ code: "no-sum", message: "some points came without a sum; they are left out of it" });
  }
  noticed.warn(node.metric, warnings);
  if (odd) warnOfOdd(node.metric, warnings);
  return plainRow(group.labels, steps, total);
}

function rate(context: Context, groups: SeriesGroup[]): MeasureResult {
  // What is covered of the step that is not over yet is the time that its calls are divided by.
  const rows = groups.map((group) => {
    const cells = endedAt(context.cells, settledOf(context.source, group));
    const { bounds, windowStart, windowEnd } = cells;
    const windowSeconds = (bounds[windowEnd] - bounds[windowStart]) / 1000;
    const row = counted({ ...context, cells }, group, "count");
    for (let i = 0; i < row.values.length; i++) row.values[i] /= cells.seconds[i];
    row.total /= windowSeconds;
    return row;
  });
  return { ...finish(context, rows), unit: divideUnits(countUnit(context), SECOND) };
}

function meanRow(context: Context, group: SeriesGroup): Row {
  const sums = counted(context, group, "sum");
  const counts = counted(context, group, "count with sum");
  for (let i = 0; i < sums.values.length; i++) sums.values[i] = divided(sums.values[i], counts.values[i]);
  sums.total = divided(sums.total, counts.total);
  return sums;
}

function warnOfOdd(metric: string, warnings: Warning[]): void {
  if (warnings.some(({ code }) => code === "not-finite")) return;
  warnings.push({
    code: "not-finite",
    message: `some points of ${metric} are infinite or no number; they are left out`,
  });
}

function divided(a: number, b: number): number {
  return b === 0 ? Number.NaN : a / b;
}

/** Brings levels of several series together: the mean of means, the sum of last values, the least, the greatest. */
function levelRow({ node, cells, warnings }: Context, group: SeriesGroup, what: LevelMeasure | "sum"): Row {
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
function fromBuckets(take: (found: Interval[]) => Bounded | null) {
  return (distribution: Distribution, step: number | null) => {
    const found = step === null ? distribution.window() : distribution.step(step);
    return found && take(found);
  };
}

/** Least or greatest observations; where only their bucket is known, its outer bound. */
function extremes(context: Context, groups: SeriesGroup[], end: "min" | "max"): MeasureResult {
  const rows = groups.map((group) => boundedRow(context, group, (found, step) => found.extreme(end, step)));
  const open = (low: number, high: number) => !Number.isNaN(low) && low !== high;
  if (
    rows.some((row) => open(row.totalLow, row.totalHigh) || row.values.some((_, i) => open(row.low![i], row.high![i])))
  )
    context.warnings.push({
      code: "bucket-only",
      message:
        end === "max"
          ? "of some of these the bucket is all that is known: the true value is at most what is shown"
          : "of some of these the bucket is all that is known: the true value is at least what is shown",
    });
  return finish(context, rows);
}

/** A row of values with bounds, each taken from the merged buckets of its step. */
function boundedRow(
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

function shareOfBound(
  context: Context,
  groups: SeriesGroup[],
  how: { type: "share under" | "share over"; bound: number; unit: string },
): MeasureResult {
  const { node, unit } = context;
  const given = how.unit === "" ? null : parseUnit(how.unit);
  if (given && !comparable(given, unit) && !(isDimensionless(given) && isDimensionless(unit))) {
    throw new ReadingError(
      `${how.unit} does not compare with ${node.metric}, which is in ${context.source.metrics[0]?.identity.unit || "no unit"}`,
      node.from,
      "give the bound in the metric's kind of unit",
      node.metricPlace.to - node.from,
    );
  }
  const bound = given ? (how.bound * given.scale) / unit.scale : how.bound;
  const over = how.type === "share over";
  const take = (found: Interval[]): Bounded | null => {
    const under = shareUnder(found, bound);
    if (!under || !over) return under;
    return { value: 1 - under.value, low: 1 - under.high, high: 1 - under.low };
  };
  const rows = groups.map((group) => boundedRow(context, group, fromBuckets(take)));
  return { ...finish(context, rows), unit: NO_UNIT, share: true };
}

function shareThat(context: Context, groups: SeriesGroup[]): MeasureResult {
  const passes = predicate(context.node.that, context.picks);
  const rows = groups.map((group) => {
    const all = counted(context, group, "count");
    const members = group.members.filter(({ series }) => passes(series.attributes));
    const part = counted(context, { ...group, members }, "count");
    for (let i = 0; i < all.values.length; i++)
      all.values[i] = divided(partOf(part.values[i], all.values[i]), all.values[i]);
    all.total = divided(partOf(part.total, all.total), all.total);
    return all;
  });
  return { ...finish(context, rows), unit: NO_UNIT, share: true };
}

/** No part where there is a whole is a part of 0. */
function partOf(part: number, whole: number): number {
  return Number.isNaN(part) && !Number.isNaN(whole) ? 0 : part;
}
