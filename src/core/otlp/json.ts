import { type Attributes, FLAG, type Kind, type Temporality } from "../metric/model";
import { ADMIT_ALL, type Admission } from "./batch/admission";
import { Batch } from "./batch/batch";
import type { PointHead } from "./batch/group";
import type { IncomingBuckets } from "./batch/histograms";
import { histogramFlags } from "./batch/histograms";
import { messageFromJson } from "./checkJson";
import type { Dictionary, KnownMetric, KnownSeries } from "./dictionary";
import {
  attributesProblem,
  environmentProblem,
  LIMITS,
  nameProblem,
  resourceProblem,
  scopeProblem,
  unitProblem,
} from "./limits";
import type { PlainValue } from "./messages";
import { Numbers } from "./numbers";
import { attributesOf, instantOf, scopeFrom } from "./values";

/** Metrics in OTLP/JSON. The shapes below are those that {@link messageFromJson} has checked; whatever is not said is missing. */

interface Exemplar {
  timeUnixNano?: string;
  asDouble?: number;
  asInt?: string;
  traceId?: string;
  spanId?: string;
  filteredAttributes?: PlainValue;
}
interface Common {
  attributes?: PlainValue;
  startTimeUnixNano?: string;
  timeUnixNano?: string;
  flags?: number;
  exemplars?: Exemplar[];
}
interface NumberPoint extends Common {
  asDouble?: number;
  asInt?: string;
}
interface Measured extends Common {
  count?: string;
  sum?: number;
  min?: number;
  max?: number;
}
interface HistogramPoint extends Measured {
  bucketCounts?: string[];
  explicitBounds?: number[];
}
interface Buckets {
  offset?: number;
  bucketCounts?: string[];
}
interface ExponentialPoint extends Measured {
  scale?: number;
  zeroCount?: string;
  zeroThreshold?: number;
  positive?: Buckets;
  negative?: Buckets;
}
interface SummaryPoint extends Common {
  count?: string;
  sum?: number;
  quantileValues?: { quantile?: number; value?: number }[];
}
interface Data<Point> {
  dataPoints?: Point[];
  aggregationTemporality?: number;
}
interface Metric {
  name?: string;
  description?: string;
  unit?: string;
  gauge?: Data<NumberPoint>;
  sum?: Data<NumberPoint> & { isMonotonic?: boolean };
  histogram?: Data<HistogramPoint>;
  exponentialHistogram?: Data<ExponentialPoint>;
  summary?: Data<SummaryPoint>;
}
interface Request {
  resourceMetrics?: {
    resource?: { attributes?: PlainValue };
    scopeMetrics?: { scope?: { name?: string; version?: string; attributes?: PlainValue }; metrics?: Metric[] }[];
  }[];
}

/** By the numbers of the protocol. */
const TEMPORALITIES: Readonly<Record<number, Temporality>> = { 1: "delta", 2: "cumulative" };

function headOf(point: Common): PointHead {
  const time = instantOf(point.timeUnixNano);
  const start = instantOf(point.startTimeUnixNano);
  return { timeMs: time.ms, timeNs: time.ns, startMs: start.ms, startNs: start.ns, flags: point.flags ?? 0 };
}

function incoming(value: Buckets | undefined): IncomingBuckets {
  return { offset: value?.offset ?? 0, counts: Numbers.of((value?.bucketCounts ?? []).map(Number)) };
}

/** The kind and data of a metric, or null where it has none that is known. */
function dataOf(metric: Metric): { kind: Kind; data: Data<Common> } | null {
  if (metric.gauge) return { kind: "gauge", data: metric.gauge };
  if (metric.sum) return { kind: "sum", data: metric.sum };
  if (metric.histogram) return { kind: "histogram", data: metric.histogram };
  if (metric.exponentialHistogram) return { kind: "exponential", data: metric.exponentialHistogram };
  return metric.summary ? { kind: "summary", data: metric.summary } : null;
}

function hasTemporality(kind: Kind): boolean {
  return kind !== "gauge" && kind !== "summary";
}

/**
 * Reads an OTLP/JSON metrics request.
 *
 * @param allowed what the request may say
 * @throws JsonError with the place of the first field that does not fit
 */
export function decodeMetricsJson(text: string, dictionary: Dictionary, allowed: Admission = ADMIT_ALL): Batch {
  const request: Request = messageFromJson("ExportMetricsServiceRequest", text);
  const batch = new Batch(allowed);
  for (const { resource, scopeMetrics = [] } of request.resourceMetrics ?? []) {
    const resourceAttributes = attributesOf(resource?.attributes);
    const ofResource =
      resourceProblem(resourceAttributes) ?? environmentProblem(resourceAttributes, allowed.environment);
    for (const { scope, metrics = [] } of scopeMetrics) {
      const scopeOf = scopeFrom(scope);
      const ofSender = ofResource ?? scopeProblem(scopeOf);
      for (const metric of metrics) {
        const name = metric.name ?? "";
        const found = dataOf(metric);
        if (!found) {
          batch.reject(name, "a metric without data of a known kind", 0);
          continue;
        }
        const { kind, data } = found;
        const temporality = hasTemporality(kind) ? (TEMPORALITIES[data.aggregationTemporality ?? 0] ?? null) : "none";
        const refused =
          nameProblem(name) ??
          unitProblem(metric.unit ?? "") ??
          ofSender ??
          (temporality === null ? "the aggregation temporality is not given (1 delta or 2 cumulative)" : null);
        if (refused !== null || temporality === null) {
          batch.reject(name, refused ?? "", data.dataPoints?.length ?? 0);
          continue;
        }
        const monotonic = kind === "sum" ? (metric.sum?.isMonotonic ?? false) : hasTemporality(kind);
        const known = dictionary.metric(
          { name, kind, unit: metric.unit ?? "", temporality, monotonic },
          metric.description ?? "",
        );
        const seriesOf = (attributes: Attributes): KnownSeries | null => {
          const problem = attributesProblem(attributes);
          if (problem) {
            batch.reject(name, problem);
            return null;
          }
          return dictionary.series(known, { resource: resourceAttributes, scope: scopeOf, attributes });
        };
        addPoints(batch, known, metric, seriesOf);
      }
    }
  }
  return batch;
}

function addPoints(
  batch: Batch,
  known: KnownMetric,
  metric: Metric,
  seriesOf: (attributes: Attributes) => KnownSeries | null,
): void {
  const exemplars = (series: KnownSeries, found: readonly Exemplar[] = []) => {
    for (const one of found.slice(0, LIMITS.exemplarsPerPoint)) {
      batch.addExemplar({
        series,
        ...instantOf(one.timeUnixNano),
        value: one.asDouble ?? Number(one.asInt ?? 0),
        traceId: one.traceId ?? "",
        spanId: one.spanId ?? "",
        attributes: attributesOf(one.filteredAttributes),
      });
    }
  };
  const numbers = metric.gauge?.dataPoints ?? metric.sum?.dataPoints ?? [];
  for (const point of numbers) {
    const missing = (point.flags ?? 0) & FLAG.noRecordedValue;
    if (point.asDouble === undefined && point.asInt === undefined && !missing) {
      batch.reject(known.identity.name, "a point has no value");
      continue;
    }
    const series = seriesOf(attributesOf(point.attributes));
    if (!series) continue;
    const head = headOf(point);
    head.flags = missing | (point.asInt === undefined ? 0 : FLAG.integer);
    batch.number(series, head, point.asInt === undefined ? (point.asDouble ?? 0) : Number(point.asInt));
    exemplars(series, point.exemplars);
  }
  const measuredOf = (point: Measured) => ({
    count: Number(point.count ?? 0),
    sum: point.sum ?? 0,
    min: point.min ?? 0,
    max: point.max ?? 0,
  });
  const histogramHead = (point: Measured): PointHead => ({
    ...headOf(point),
    flags: histogramFlags(point.flags ?? 0, point.sum !== undefined, point.min !== undefined, point.max !== undefined),
  });
  for (const point of metric.histogram?.dataPoints ?? []) {
    const series = seriesOf(attributesOf(point.attributes));
    if (!series) continue;
    batch.explicit(
      series,
      histogramHead(point),
      measuredOf(point),
      Numbers.of(point.explicitBounds ?? []),
      Numbers.of((point.bucketCounts ?? []).map(Number)),
    );
    exemplars(series, point.exemplars);
  }
  for (const point of metric.exponentialHistogram?.dataPoints ?? []) {
    const series = seriesOf(attributesOf(point.attributes));
    if (!series) continue;
    const scale = point.scale ?? 0;
    const shape = { scale, zeroCount: Number(point.zeroCount ?? 0), zeroThreshold: point.zeroThreshold ?? 0 };
    batch.exponential(
      series,
      histogramHead(point),
      { ...measuredOf(point), ...shape },
      incoming(point.positive),
      incoming(point.negative),
    );
    exemplars(series, point.exemplars);
  }
  for (const point of metric.summary?.dataPoints ?? []) {
    const series = seriesOf(attributesOf(point.attributes));
    if (!series) continue;
    const head = headOf(point);
    head.flags &= FLAG.noRecordedValue;
    const quantiles = Numbers.of((point.quantileValues ?? []).map((pair) => pair.quantile ?? 0));
    const values = Numbers.of((point.quantileValues ?? []).map((pair) => pair.value ?? 0));
    batch.summary(series, head, Number(point.count ?? 0), point.sum ?? 0, quantiles, values);
  }
}
