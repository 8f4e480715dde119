import { unitCode } from "../unit/unit";
import { defaultStep, stepBounds } from "../window/steps";
import { combine, numberOperand, type Operand } from "./arithmetic";
import type { Picks } from "./conditions";
import { usualInterval } from "./gauge";
import { timesOf } from "./increase";
import { evaluateMeasure, type Row } from "./measure";
import { printDuration, printReading } from "./print";
import type { ReadingResult, ReadingSeries } from "./result";
import type { Source } from "./source";
import { type Expression, type MeasureNode, measuresOf, ReadingError, type ReadingTree } from "./tree";

/** What is asked of a reading besides its text. Times in Unix ms; the window is (from, to]. */
export interface Asked {
  from: number;
  to: number;
  /** Width of a step, ms; null lets the window and the data decide. */
  every: number | null;
  zone: string;
  picks: Picks;
}

const MOST_STEPS = 11_000;
const INTERVAL_SAMPLE = 50;

/** How much before and after a window is read, ms: the reach within which successive points are joined. */
export const REACH = 3600_000;

/** The span of data that a measure needs for a window. */
export function spanOf(node: MeasureNode, from: number, to: number): { from: number; to: number } {
  const back = node.shifted ?? 0;
  return { from: from - (node.over ?? 0) - back - REACH, to: to - back + REACH };
}

/** The usual distance between points of a source, ms; 0 where it is not known. */
function intervalOf(source: Source): number {
  const found: number[] = [];
  for (const { series } of source.metrics) {
    for (const { parts } of series) {
      const last = parts[parts.length - 1];
      const interval = last ? usualInterval(timesOf(last)) : null;
      if (interval !== null) found.push(interval);
      if (found.length >= INTERVAL_SAMPLE) break;
    }
  }
  return found.length === 0 ? 0 : found.sort((a, b) => a - b)[found.length >> 1];
}

function stepFor(tree: ReadingTree, asked: Asked, sources: ReadonlyMap<MeasureNode, Source>): number {
  const measures = measuresOf(tree.expression);
  const widths = [...new Set(measures.flatMap(({ every }) => (every === null ? [] : [every])))];
  if (widths.length > 1) {
    throw new ReadingError(
      "the parts of a reading have different steps",
      0,
      `say "every ${printDuration(widths[0])}" once`,
    );
  }
  const wanted = widths[0] ?? asked.every;
  if (wanted) return wanted;
  // The jitter of a sender's clock must not push the step up.
  const interval = Math.max(0, ...measures.map((node) => intervalOf(sources.get(node)!)));
  return defaultStep(asked.from, asked.to, Math.round(interval * 0.9));
}

function limited(rows: Row[], { limit }: MeasureNode): Row[] {
  if (!limit) return rows;
  const sign = limit.end === "top" ? -1 : 1;
  const size = (row: Row) => (Number.isNaN(row.total) ? -sign * Number.POSITIVE_INFINITY : row.total);
  return [...rows].sort((a, b) => sign * (size(a) - size(b))).slice(0, limit.count);
}

/** Answers a reading from sources that were fetched for its measures. @throws ReadingError, TooMuchError */
export function evaluate(tree: ReadingTree, asked: Asked, sources: ReadonlyMap<MeasureNode, Source>): ReadingResult {
  const { from, to, zone, picks } = asked;
  const every = stepFor(tree, asked, sources);
  if ((to - from) / every > MOST_STEPS) {
    throw new ReadingError(
      `${Math.ceil((to - from) / every)} steps are too many`,
      0,
      `take longer steps; at most ${MOST_STEPS}`,
    );
  }
  const bounds = stepBounds(from, to, every, zone);
  const operand = (node: Expression): Operand => {
    switch (node.type) {
      case "number":
        return numberOperand(node);
      case "binary":
        return combine(node, operand(node.left), operand(node.right));
      case "measure": {
        const { shifted } = node;
        const own = shifted === null ? bounds : bounds.map((bound) => bound - shifted);
        const result = evaluateMeasure(node, sources.get(node)!, own, picks);
        return { type: "rows", ...result, rows: limited(result.rows, node) };
      }
    }
  };
  const answer = operand(tree.expression);
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
          },
        ];
  return {
    reading: printReading(tree),
    unit: unitCode(answer.unit),
    share: answer.type === "rows" && answer.share,
    from,
    to,
    every,
    times,
    series: rows.map(seriesOf),
    warnings: answer.type === "rows" ? answer.warnings : [],
    resolution: "raw",
  };
}

function plain(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

function seriesOf(row: Row): ReadingSeries {
  const series: ReadingSeries = {
    labels: row.labels,
    values: Array.from(row.values, plain),
    total: plain(row.total),
  };
  if (row.low && row.high) {
    series.low = Array.from(row.low, plain);
    series.high = Array.from(row.high, plain);
    series.totalLow = plain(row.totalLow);
    series.totalHigh = plain(row.totalHigh);
  }
  return series;
}
