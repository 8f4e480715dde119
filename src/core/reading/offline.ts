import { labelsOf } from "../metric/labels";
import type { Attributes, MetricIdentity, PointSet } from "../metric/model";
import type { Batch } from "../otlp/batch/batch";
import type { KnownMetric } from "../otlp/dictionary";
import { assemble } from "../strip/assemble";
import { type Asked, evaluate, stepOf } from "./evaluate";
import { chooseMetrics } from "./kinds";
import { predicate } from "./language/conditions";
import { parseReading } from "./language/parse";
import { type MeasureNode, measuresOf, type ReadingTree } from "./language/tree";
import type { ReadingResult } from "./result";
import type { Source } from "./source";

/** Readings of points that are at hand rather than stored. */

/** A series at hand, its points in the order of time. */
export interface HeldSeries {
  metric: MetricIdentity;
  /** Of resource and points together. */
  attributes: Attributes;
  parts: PointSet[];
}

/** The series of batches; of two points of one series and time the later arrival stays. */
export function heldSeries(batches: readonly Batch[]): HeldSeries[] {
  const found = new Map<KnownMetric, { set: PointSet; arrived: number }[]>();
  const places = new Map<string, number>();
  const attributes: Attributes[] = [];
  batches.forEach((batch, arrived) => {
    const { all, sets } = batch.inColumns();
    for (const { metric, set } of sets) {
      const ids = set.series.map((place) => {
        const { key, identity } = all[place];
        let id = places.get(key);
        if (id === undefined) {
          id = attributes.push(labelsOf(identity)) - 1;
          places.set(key, id);
        }
        return id;
      });
      const own = found.get(metric);
      const entry = { set: { ...set, series: ids }, arrived };
      if (own) own.push(entry);
      else found.set(metric, [entry]);
    }
  });
  return [...found].flatMap(([{ identity }, sets]) =>
    [...assemble(sets)].map(([id, parts]) => ({ metric: identity, attributes: attributes[id], parts })),
  );
}

function identityKey({ kind, unit, temporality, monotonic }: MetricIdentity): string {
  return JSON.stringify([kind, unit, temporality, monotonic]);
}

function sourceOf(
  { aggregation: how, metric, where }: MeasureNode,
  held: readonly HeldSeries[],
  earliest: number,
): Source {
  const passes = predicate(where);
  const metrics = new Map<string, Source["metrics"][number]>();
  for (const one of held) {
    if (one.metric.name !== metric || !passes(one.attributes)) continue;
    const key = identityKey(one.metric);
    const known = metrics.get(key) ?? { identity: one.metric, series: [], points: 0 };
    known.series.push(one);
    known.points += one.parts.reduce((sum, { count }) => sum + count, 0);
    metrics.set(key, known);
  }
  return { ...chooseMetrics(how, [...metrics.values()]), earliest, resolutions: [0] };
}

/**
 * Answers a reading from points at hand.
 *
 * @param earliest since when all there was is at hand, Unix ms
 * @throws ReadingError, TooMuchError
 */
export function readHeld(
  reading: string | ReadingTree,
  held: readonly HeldSeries[],
  asked: Asked,
  earliest: number,
): ReadingResult {
  const tree = typeof reading === "string" ? parseReading(reading) : reading;
  const sources = new Map(measuresOf(tree.expression).map((node) => [node, sourceOf(node, held, earliest)]));
  return evaluate(tree, asked, stepOf(tree, asked, 0), sources);
}
