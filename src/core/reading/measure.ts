import { isLevel } from "../metric/model";
import { lenientUnit, NO_UNIT, type Unit } from "../unit/unit";
import { aggregationKind, askedOf, canAnswer, kindInWords, printAggregation } from "./aggregations";
import { makeCells } from "./cells";
import { TooMuchError } from "./distribution";
import { groupSeries, type SeriesGroup } from "./grouping";
import { type Picks, predicate } from "./language/conditions";
import { type MeasureNode, ReadingError } from "./language/tree";
import { type Context, limited, type MeasureResult, settledOf } from "./rows";
import type { Source } from "./source";

/** Series of one answer. */
const MAX_SERIES = 10_000;
/** Series of which some are the largest are worked out so many at a time, so that never all are held. */
const PORTION = 1000;

function checkKinds(node: MeasureNode, source: Source): void {
  for (const { identity } of source.metrics) {
    if (canAnswer(node.aggregation, identity)) continue;
    throw new ReadingError(
      `${node.metric} is a ${identity.temporality === "delta" ? "delta " : ""}${kindInWords(identity)} and has no ${printAggregation(node.aggregation)}`,
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

/** What a measure answers for groups of series; where it asks for the largest, only as many as those are kept. */
function answerOf(context: Context, groups: readonly SeriesGroup[]): MeasureResult {
  const { node } = context;
  const { answer } = aggregationKind(node.aggregation);
  if (!node.limit || groups.length <= PORTION) return answer(context, [...groups], node.aggregation);
  let best = answer(context, groups.slice(0, PORTION), node.aggregation);
  for (let first = PORTION; first < groups.length; first += PORTION) {
    const some = answer(context, groups.slice(first, first + PORTION), node.aggregation);
    best = { ...some, rows: limited([...best.rows, ...some.rows], node) };
  }
  return best;
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
  if (groups.length > MAX_SERIES && !node.limit)
    throw new TooMuchError(
      `${groups.length.toLocaleString("en-GB")} series, at most ${MAX_SERIES.toLocaleString("en-GB")} are answered: add "top 20", a condition, or fewer attributes after "by"`,
    );
  const context: Context = {
    node,
    source,
    cells: makeCells(steps, node.over),
    inNumerator: predicate(node.numerator, picks),
    warnings: [...source.warnings],
    unit: unitOf(source),
    levels: source.metrics.length > 0 && source.metrics.every(({ identity }) => isLevel(identity)),
  };
  const result = answerOf(context, groups);
  const settled = new Map(groups.map((group) => [group.labels, settledOf(source, group)]));
  for (const row of result.rows) row.settledTo = settled.get(row.labels) ?? row.settledTo;
  result.rows = result.rows.filter(
    (row) => row.values.some((value) => !Number.isNaN(value)) || !Number.isNaN(row.total),
  );
  return result;
}
