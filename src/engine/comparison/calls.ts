import type { HeldValue } from "@/core/api/held";
import { parseReading } from "@/core/reading/language/parse";
import { metricText, serviceTests, valueTest } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { evaluateMeasure } from "@/core/reading/measure";
import type { ServicePlace } from "@/core/reading/result";
import { settledTogether } from "@/core/reading/settled";
import type { Source } from "@/core/reading/source";
import type { Loader } from "../load";

/** Reads the calls of services for comparisons. */

/** The calls of a service over a span, cut at bounds. */
export function callsOf(
  loader: Loader,
  metric: string,
  { service, environment }: ServicePlace,
  hold: readonly HeldValue[],
  bounds: Float64Array,
): Promise<Source> {
  const tests = [
    serviceTests(service, environment),
    ...hold.map(({ attribute, value }) => valueTest(attribute, value)),
  ].join(" and ");
  const node = parseReading(`p50 of ${metricText(metric)} where ${tests}`).expression as MeasureNode;
  return loader.source(node, bounds[0], bounds[bounds.length - 1], bounds);
}

/** What of it one release did. */
export function ofRelease(source: Source, release: string): Source {
  const metrics = source.metrics.map(({ identity, series, points }) => ({
    identity,
    series: series.filter(({ attributes }) => String(attributes["service.version"] ?? "") === release),
    points,
  }));
  return { ...source, metrics };
}

/** Calls by step of a source as one; NaN where nothing is known. */
export function countsOf(source: Source, metric: string, bounds: Float64Array): Float64Array {
  const node = parseReading(`count of ${metricText(metric)}`).expression as MeasureNode;
  const { rows } = evaluateMeasure(node, source, bounds, {});
  return rows[0]?.values ?? new Float64Array(bounds.length - 1).fill(Number.NaN);
}

/** Up to when the calls of a source are settled, Unix ms; Infinity where nobody is awaited. */
export function settledOf({ settled, metrics }: Source): number {
  return settledTogether(
    settled,
    metrics.flatMap(({ series }) => series.map(({ attributes }) => attributes)),
  );
}
