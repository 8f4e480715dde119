import { originOf } from "../metric/origin";
import { unitCode } from "../unit/unit";
import { printDuration } from "../window/durationText";
import { HOUR } from "../window/lengths";
import { defaultStep, stepBounds } from "../window/steps";
import { combine, normalised, numberOperand, type Operand } from "./arithmetic";
import { makeCells } from "./cells";
import { TooMuchError } from "./distribution";
import { type Picks, predicate } from "./language/conditions";
import { printReading } from "./language/print";
import { type Expression, type MeasureNode, measuresOf, ReadingError, type ReadingTree } from "./language/tree";
import { evaluateMeasure } from "./measure";
import type { ReadingResult, ReadingSeries, Resolution, ServicePlace } from "./result";
import { limited, type Row } from "./rows";
import type { Source } from "./source";

/** What is asked of a reading besides its text. Times in Unix ms; the window is (from, to]. */
export interface Asked {
  from: number;
  to: number;
  /** Width of a step, ms; null lets the window and the data decide. */
  every: number | null;
  zone: string;
  picks: Picks;
}

const MAX_STEPS = 11_000;
/** Values of one answer. */
const MAX_VALUES = 1_500_000;

/** How much before and after a window is read, ms: the reach within which successive points are joined. */
export const REACH = HOUR;

/** The longest reach, ms. */
const LONGEST_REACH = 25 * HOUR;

/** How far around a window gauges are read that report every so often, ms: far enough to know it, and for how long they hold. */
export function reachFor(interval: number): number {
  return Math.min(LONGEST_REACH, Math.max(REACH, 4 * interval));
}

/** The span of data that a measure needs for a window. */
export function spanOf(node: MeasureNode, from: number, to: number, reach = REACH): { from: number; to: number } {
  const back = node.shifted ?? 0;
  return { from: from - (node.over ?? 0) - back - reach, to: to - back + reach };
}

/**
 * The step of a reading, ms: what its text says, else what is asked, else what suits the window and the data.
 *
 * @param interval the usual distance between points, ms; 0 where it is not known
 * @throws ReadingError where its parts disagree, or the steps are too many
 */
export function stepOf(tree: ReadingTree, { from, to, every }: Asked, interval: number): number {
  const widths = [...new Set(measuresOf(tree.expression).flatMap((node) => (node.every === null ? [] : [node.every])))];
  if (widths.length > 1) {
    throw new ReadingError(
      "the parts of a reading have different steps",
      0,
      `say "every ${printDuration(widths[0])}" once`,
    );
  }
  // The jitter of a sender's clock must not push the step up.
  const step = widths[0] ?? every ?? defaultStep(from, to, Math.round(interval * 0.9));
  if ((to - from) / step > MAX_STEPS) {
    throw new ReadingError(
      `${Math.ceil((to - from) / step)} steps are too many`,
      0,
      `take longer steps; at most ${MAX_STEPS}`,
    );
  }
  return step;
}

/** The bounds of a measure's steps: those of the window, shifted where the measure is. */
function ownSteps({ shifted }: MeasureNode, steps: Float64Array): Float64Array {
  return shifted === null ? steps : steps.map((bound) => bound - shifted);
}

/** Every moment at which a measure is cut, ascending. */
export function boundsOf(node: MeasureNode, steps: Float64Array): Float64Array {
  return makeCells(ownSteps(node, steps), node.over).bounds;
}

/**
 * Answers a reading from sources that were fetched for its measures.
 *
 * @param every the width of a step, ms
 * @throws ReadingError, TooMuchError
 */
export function evaluate(
  tree: ReadingTree,
  { from, to, zone, picks }: Asked,
  every: number,
  sources: ReadonlyMap<MeasureNode, Source>,
): ReadingResult {
  const bounds = stepBounds(from, to, every, zone);
  const operand = (node: Expression): Operand => {
    switch (node.type) {
      case "number":
        return numberOperand(node);
      case "binary":
        if (measuresOf(node).some(({ aggregation }) => aggregation.type === "spread"))
          throw new ReadingError("a spread stands by itself", node.from, "read its counts with count or rate");
        return combine(node, operand(node.left), operand(node.right));
      case "measure": {
        const result = evaluateMeasure(node, sources.get(node)!, ownSteps(node, bounds), picks);
        for (const row of result.rows) row.settledTo += node.shifted ?? 0;
        return { type: "rows", ...result, rows: limited(result.rows, node) };
      }
    }
  };
  const answer = normalised(operand(tree.expression));
  const times = Array.from(bounds.subarray(1));
  const rows: Row[] =
    answer.type === "rows"
      ? answer.rows
      : [
          {
            labels: {},
            values: new Float64Array(times.length).fill(answer.value),
            low: null,
            high: null,
            total: answer.value,
            totalLow: Number.NaN,
            totalHigh: Number.NaN,
            settledTo: Number.POSITIVE_INFINITY,
          },
        ];
  if (rows.length * times.length > MAX_VALUES)
    throw new TooMuchError(
      `${rows.length.toLocaleString("en-GB")} series of ${times.length.toLocaleString("en-GB")} steps are more values than one answer may hold: add "top 20", a condition or longer steps`,
    );
  return {
    reading: printReading(tree),
    unit: unitCode(answer.unit),
    ...(answer.type === "rows" && answer.bandUnit ? { bandUnit: unitCode(answer.bandUnit) } : {}),
    share: answer.type === "rows" && answer.share,
    from,
    to,
    every,
    times,
    settledTo: within(
      rows.reduce((least, { settledTo }) => Math.min(least, settledTo), Number.POSITIVE_INFINITY),
      to,
    ),
    series: rows.map((row) => seriesOf(row, to)),
    warnings: answer.type === "rows" ? answer.warnings : [],
    services: servicesOf(sources, picks),
    ...resolutionsOf([...sources.values()]),
  };
}

const MAX_SERVICES = 4;

/** Whose series the measures of a reading read. */
function servicesOf(sources: ReadonlyMap<MeasureNode, Source>, picks: Picks): ServicePlace[] {
  const found = new Map<string, ServicePlace>();
  for (const [node, { metrics }] of sources) {
    const passes = predicate(node.where, picks);
    for (const { series } of metrics)
      for (const { attributes } of series) {
        if (found.size >= MAX_SERVICES) return [...found.values()];
        if (!passes(attributes)) continue;
        const { service, environment } = originOf(attributes);
        found.set(JSON.stringify([service, environment]), { service, environment });
      }
  }
  return [...found.values()];
}

const RESOLUTION_NAMES: Record<number, Resolution> = { 0: "raw", 60: "minute", 3600: "hour" };

/** What was read, the coarsest by itself. */
function resolutionsOf(sources: readonly Source[]): Pick<ReadingResult, "resolution" | "resolutions"> {
  const all = [...new Set(sources.flatMap(({ resolutions }) => resolutions))].sort((a, b) => a - b);
  const resolutions = all.map((one) => RESOLUTION_NAMES[one]);
  return { resolution: resolutions[resolutions.length - 1] ?? "raw", resolutions };
}

function plain(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

/** A moment if it lies before the end of the window; else null. */
function within(moment: number, to: number): number | null {
  return moment < to ? moment : null;
}

function seriesOf(row: Row, to: number): ReadingSeries {
  const series: ReadingSeries = {
    labels: row.labels,
    values: Array.from(row.values, plain),
    total: plain(row.total),
  };
  if (row.band) series.band = { low: plain(row.band.low), high: plain(row.band.high) };
  if (row.settledTo < to) series.settledTo = row.settledTo;
  if (row.low && row.high) {
    series.low = Array.from(row.low, plain);
    series.high = Array.from(row.high, plain);
    series.totalLow = plain(row.totalLow);
    series.totalHigh = plain(row.totalHigh);
  }
  return series;
}
