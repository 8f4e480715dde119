import { z } from "zod";
import { type Attributes, type AttributeValue, FLAG, type Kind, type Temporality } from "../metric/model";
import { ADMIT_ALL, type Admission, Batch, histogramFlags } from "./batch";
import type { Dictionary, KnownMetric, KnownSeries } from "./dictionary";
import type { PointHead } from "./group";
import type { IncomingBuckets } from "./histograms";
import { JsonError } from "./jsonError";
import { attributesProblem, environmentProblem, LIMITS, nameProblem } from "./limits";
import { Numbers } from "./numbers";

/**
 * OTLP/JSON (OTLP specification, "JSON Protobuf Encoding"; proto3 JSON mapping): 64-bit integers as text or number,
 * doubles also as "NaN" and "Infinity", enums as names or numbers, ids in hex, unknown fields passed over,
 * null the same as absent.
 */

const optional = <T extends z.ZodType>(type: T) => type.nullish().transform((value) => value ?? undefined);
const int64 = z.union([z.number().int(), z.string().regex(/^-?\d{1,20}$/, "a whole number is expected")]);
const double = z.union([
  z.number(),
  z.literal(["NaN", "Infinity", "-Infinity"]).transform(Number),
  z
    .string()
    .regex(/^-?\d+(\.\d+)?([eE][+-]?\d+)?$/)
    .transform(Number),
]);
const enumeration = z.union([z.number(), z.string()]);
const list = <T extends z.ZodType>(type: T) =>
  z
    .array(type)
    .nullish()
    .transform((value) => value ?? []);

interface AnyValue {
  stringValue?: string | null;
  boolValue?: boolean | null;
  intValue?: number | string | null;
  doubleValue?: number | null;
  bytesValue?: string | null;
  arrayValue?: { values?: AnyValue[] | null } | null;
  kvlistValue?: { values?: { key: string; value?: AnyValue | null }[] | null } | null;
}

const anyValue: z.ZodType<AnyValue> = z.lazy(() =>
  z.object({
    stringValue: z.string().nullish(),
    boolValue: z.boolean().nullish(),
    intValue: int64.nullish(),
    doubleValue: double.nullish(),
    bytesValue: z.string().nullish(),
    arrayValue: z.object({ values: z.array(anyValue).nullish() }).nullish(),
    kvlistValue: z.object({ values: z.array(keyValue).nullish() }).nullish(),
  }),
) as z.ZodType<AnyValue>;
const keyValue = z.object({ key: z.string(), value: z.lazy(() => anyValue).nullish() });

const exemplar = z.object({
  timeUnixNano: optional(int64),
  asDouble: optional(double),
  asInt: optional(int64),
  traceId: optional(z.string().regex(/^([0-9a-fA-F]{32})?$/, "32 hex digits are expected")),
  spanId: optional(z.string().regex(/^([0-9a-fA-F]{16})?$/, "16 hex digits are expected")),
  filteredAttributes: list(keyValue),
});
const common = {
  attributes: list(keyValue),
  startTimeUnixNano: optional(int64),
  timeUnixNano: optional(int64),
  flags: optional(z.number()),
};
const numberPoint = z.object({
  ...common,
  asDouble: optional(double),
  asInt: optional(int64),
  exemplars: list(exemplar),
});
const measured = { count: optional(int64), sum: optional(double), min: optional(double), max: optional(double) };
const histogramPoint = z.object({
  ...common,
  ...measured,
  bucketCounts: list(int64),
  explicitBounds: list(double),
  exemplars: list(exemplar),
});
const buckets = z.object({ offset: optional(z.number().int()), bucketCounts: list(int64) });
const exponentialPoint = z.object({
  ...common,
  ...measured,
  scale: optional(z.number().int()),
  zeroCount: optional(int64),
  zeroThreshold: optional(double),
  positive: optional(buckets),
  negative: optional(buckets),
  exemplars: list(exemplar),
});
const summaryPoint = z.object({
  ...common,
  count: optional(int64),
  sum: optional(double),
  quantileValues: list(z.object({ quantile: optional(double), value: optional(double) })),
});
const aggregated = { aggregationTemporality: optional(enumeration) };
const metricShape = z.object({
  name: optional(z.string()),
  description: optional(z.string()),
  unit: optional(z.string()),
  gauge: optional(z.object({ dataPoints: list(numberPoint) })),
  sum: optional(z.object({ dataPoints: list(numberPoint), ...aggregated, isMonotonic: optional(z.boolean()) })),
  histogram: optional(z.object({ dataPoints: list(histogramPoint), ...aggregated })),
  exponentialHistogram: optional(z.object({ dataPoints: list(exponentialPoint), ...aggregated })),
  summary: optional(z.object({ dataPoints: list(summaryPoint) })),
});
const request = z.object({
  resourceMetrics: list(
    z.object({
      resource: optional(z.object({ attributes: list(keyValue) })),
      scopeMetrics: list(
        z.object({
          scope: optional(z.object({ name: optional(z.string()), version: optional(z.string()) })),
          metrics: list(metricShape),
        }),
      ),
    }),
  ),
});

function plainValue(value: AnyValue | null | undefined): AttributeValue {
  if (!value) return "";
  if (value.stringValue != null) return value.stringValue;
  if (value.boolValue != null) return value.boolValue;
  if (value.intValue != null) return Number(value.intValue);
  if (value.doubleValue != null) return value.doubleValue;
  if (value.bytesValue != null) return value.bytesValue;
  if (value.arrayValue) return (value.arrayValue.values ?? []).map(plainValue);
  if (value.kvlistValue) return plainAttributes(value.kvlistValue.values ?? []);
  return "";
}

function plainAttributes(pairs: readonly { key: string; value?: AnyValue | null }[]): Attributes {
  return Object.fromEntries(pairs.map(({ key, value }) => [key, plainValue(value)]));
}

/** Nanoseconds as text or number, split into milliseconds and the rest without loss. */
function instant(nanos: string | number | undefined): { ms: number; ns: number } {
  if (nanos === undefined) return { ms: 0, ns: 0 };
  const whole = BigInt(nanos);
  if (whole < 0n) return { ms: 0, ns: 0 };
  return { ms: Number(whole / 1_000_000n), ns: Number(whole % 1_000_000n) };
}

function temporalityOf(value: number | string | undefined): Temporality | null {
  if (value === 1 || value === "AGGREGATION_TEMPORALITY_DELTA") return "delta";
  if (value === 2 || value === "AGGREGATION_TEMPORALITY_CUMULATIVE") return "cumulative";
  return null;
}

type Metric = z.infer<typeof metricShape>;
type Common = { startTimeUnixNano?: string | number; timeUnixNano?: string | number; flags?: number };

function headOf(point: Common): PointHead {
  const time = instant(point.timeUnixNano);
  const start = instant(point.startTimeUnixNano);
  return { timeMs: time.ms, timeNs: time.ns, startMs: start.ms, startNs: start.ns, flags: point.flags ?? 0 };
}

function incoming(value: z.infer<typeof buckets> | undefined): IncomingBuckets {
  return { offset: value?.offset ?? 0, counts: Numbers.of((value?.bucketCounts ?? []).map(Number)) };
}

/** The kind and data of a metric, or null where it has none that is known. */
function dataOf(metric: Metric) {
  if (metric.gauge) return { kind: "gauge" as const, data: { ...metric.gauge, aggregationTemporality: undefined } };
  if (metric.sum) return { kind: "sum" as const, data: metric.sum };
  if (metric.histogram) return { kind: "histogram" as const, data: metric.histogram };
  if (metric.exponentialHistogram) return { kind: "exponential" as const, data: metric.exponentialHistogram };
  if (metric.summary)
    return { kind: "summary" as const, data: { ...metric.summary, aggregationTemporality: undefined } };
  return null;
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
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch (error) {
    throw new JsonError(`the body is not JSON: ${(error as Error).message}`);
  }
  const parsed = request.safeParse(body);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new JsonError(`${issue.path.join(".") || "the body"}: ${issue.message}`);
  }
  const batch = new Batch(allowed);
  for (const { resource, scopeMetrics } of parsed.data.resourceMetrics) {
    const resourceAttributes = plainAttributes(resource?.attributes ?? []);
    const resourceProblem =
      attributesProblem(resourceAttributes) ?? environmentProblem(resourceAttributes, allowed.environment);
    for (const { scope, metrics } of scopeMetrics) {
      const scopeOf = { name: scope?.name ?? "", version: scope?.version ?? "" };
      for (const metric of metrics) {
        const name = metric.name ?? "";
        const found = dataOf(metric);
        if (!found) {
          batch.reject(name, "a metric without data of a known kind", 0);
          continue;
        }
        const { kind, data } = found;
        const temporality = hasTemporality(kind) ? temporalityOf(data.aggregationTemporality) : "none";
        const refused =
          nameProblem(name) ??
          resourceProblem ??
          (temporality === null ? "the aggregation temporality is not given (1 delta or 2 cumulative)" : null);
        if (refused !== null || temporality === null) {
          batch.reject(name, refused ?? "", data.dataPoints.length);
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
  const exemplars = (series: KnownSeries, found: z.infer<typeof exemplar>[]) => {
    for (const one of found.slice(0, LIMITS.exemplarsPerPoint)) {
      batch.exemplars.push({
        series,
        ...instant(one.timeUnixNano),
        value: one.asDouble ?? Number(one.asInt ?? 0),
        traceId: (one.traceId ?? "").toLowerCase(),
        spanId: (one.spanId ?? "").toLowerCase(),
        attributes: plainAttributes(one.filteredAttributes),
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
    const series = seriesOf(plainAttributes(point.attributes));
    if (!series) continue;
    const head = headOf(point);
    head.flags = missing | (point.asInt === undefined ? 0 : FLAG.integer);
    batch.number(series, head, point.asInt === undefined ? (point.asDouble ?? 0) : Number(point.asInt));
    exemplars(series, point.exemplars);
  }
  const measuredOf = (point: { count?: string | number; sum?: number; min?: number; max?: number }) => ({
    count: Number(point.count ?? 0),
    sum: point.sum ?? 0,
    min: point.min ?? 0,
    max: point.max ?? 0,
  });
  const histogramHead = (point: Common & { sum?: number; min?: number; max?: number }): PointHead => ({
    ...headOf(point),
    flags: histogramFlags(point.flags ?? 0, point.sum !== undefined, point.min !== undefined, point.max !== undefined),
  });
  for (const point of metric.histogram?.dataPoints ?? []) {
    const series = seriesOf(plainAttributes(point.attributes));
    if (!series) continue;
    batch.explicit(
      series,
      histogramHead(point),
      measuredOf(point),
      Numbers.of(point.explicitBounds),
      Numbers.of(point.bucketCounts.map(Number)),
    );
    exemplars(series, point.exemplars);
  }
  for (const point of metric.exponentialHistogram?.dataPoints ?? []) {
    const series = seriesOf(plainAttributes(point.attributes));
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
    const series = seriesOf(plainAttributes(point.attributes));
    if (!series) continue;
    const head = headOf(point);
    head.flags &= FLAG.noRecordedValue;
    const quantiles = Numbers.of(point.quantileValues.map((pair) => pair.quantile ?? 0));
    const values = Numbers.of(point.quantileValues.map((pair) => pair.value ?? 0));
    batch.summary(series, head, Number(point.count ?? 0), point.sum ?? 0, quantiles, values);
  }
}
