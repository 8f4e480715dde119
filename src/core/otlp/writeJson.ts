import { type Attributes, bucketColumns, FLAG, type MetricIdentity, type PointSet, type Scope } from "../metric/model";
import { exemplarsByPoint, type Naming, type OutgoingExemplar, type OutgoingMetric, pointKey } from "./outgoing";
import { doubleText, keyValues, nanosText, scopeMessage, scopeText } from "./values";

/**
 * Points as an OTLP/JSON metrics request (OTLP specification, "JSON Protobuf Encoding"): 64-bit integers as text,
 * doubles that JSON cannot hold as "NaN" and "Infinity", ids in hex.
 */

type Json = { [key: string]: unknown };

function exemplarJson({ ms, ns, value, traceId, spanId, attributes }: OutgoingExemplar): Json {
  return {
    timeUnixNano: nanosText(ms, ns),
    asDouble: doubleText(value),
    ...(traceId === "" ? {} : { traceId }),
    ...(spanId === "" ? {} : { spanId }),
    filteredAttributes: keyValues(attributes),
  };
}

/** Min, max and sum of a histogram point, as far as it has them. */
function measured({ layout, columns, flags }: PointSet, row: number): Json {
  const after = bucketColumns(layout);
  const has = (flag: number) => !(flags[row] & flag);
  return {
    ...(has(FLAG.noMin) ? { min: doubleText(columns[after][row]) } : {}),
    ...(has(FLAG.noMax) ? { max: doubleText(columns[after + 1][row]) } : {}),
    ...(has(FLAG.noSum) ? { sum: doubleText(columns[after + 2][row]) } : {}),
  };
}

function cells({ columns }: PointSet, row: number, from: number, to: number): string[] {
  return columns.slice(from, to).map((column) => String(column[row]));
}

/** What a point says besides its times and attributes. */
function content(set: PointSet, row: number): Json {
  const { layout, columns } = set;
  const total = (from: number, to: number) => {
    let sum = 0;
    for (let c = from; c < to; c++) sum += columns[c][row];
    return String(sum);
  };
  switch (layout.kind) {
    case "number": {
      const value = columns[0][row];
      if (set.flags[row] === FLAG.noRecordedValue && Object.is(value, 0)) return {};
      return set.flags[row] & FLAG.integer ? { asInt: String(value) } : { asDouble: doubleText(value) };
    }
    case "explicit":
      return {
        count: total(0, layout.bounds.length + 1),
        ...measured(set, row),
        explicitBounds: [...layout.bounds],
        bucketCounts: cells(set, row, 0, layout.bounds.length + 1),
      };
    case "exponential": {
      const { negative, positive, scale, zeroThreshold } = layout;
      const after = 1 + negative.width;
      return {
        count: total(0, after + positive.width),
        ...measured(set, row),
        scale,
        zeroCount: String(columns[0][row]),
        zeroThreshold,
        negative: { offset: negative.from, bucketCounts: cells(set, row, 1, after) },
        positive: { offset: positive.from, bucketCounts: cells(set, row, after, after + positive.width) },
      };
    }
    case "summary": {
      const { quantiles } = layout;
      return {
        count: String(columns[quantiles.length][row]),
        sum: doubleText(columns[quantiles.length + 1][row]),
        quantileValues: quantiles.map((quantile, i) => ({ quantile, value: doubleText(columns[i][row]) })),
      };
    }
    case "levels":
      return {};
  }
}

function metricJson(
  { name, kind, unit, temporality, monotonic }: MetricIdentity,
  description: string,
  dataPoints: Json[],
): Json {
  const common = { name, ...(unit === "" ? {} : { unit }), ...(description === "" ? {} : { description }) };
  const aggregationTemporality = temporality === "delta" ? 1 : 2;
  switch (kind) {
    case "gauge":
      return { ...common, gauge: { dataPoints } };
    case "sum":
      return { ...common, sum: { dataPoints, aggregationTemporality, isMonotonic: monotonic } };
    case "histogram":
      return { ...common, histogram: { dataPoints, aggregationTemporality } };
    case "exponential":
      return { ...common, exponentialHistogram: { dataPoints, aggregationTemporality } };
    case "summary":
      return { ...common, summary: { dataPoints } };
  }
}

/** Series of one origin: who sends them, through which scope. */
interface Origin {
  resource: Attributes;
  scope: Scope;
  metrics: Map<OutgoingMetric, Json[]>;
}

/** A metrics request as plain JSON data: one entry per resource and scope. */
export function metricsRequest(metrics: readonly OutgoingMetric[], naming: Naming): { resourceMetrics: Json[] } {
  const origins = new Map<string, Origin>();
  const known = new Map<number, { origin: Origin; attributes: Json[] }>();
  const find = (series: number) => {
    let found = known.get(series);
    if (!found) {
      const { resource, scope, attributes } = naming(series);
      const key = JSON.stringify([resource, scope.name, scope.version, scopeText(scope)]);
      let origin = origins.get(key);
      if (!origin) {
        origin = { resource, scope, metrics: new Map() };
        origins.set(key, origin);
      }
      found = { origin, attributes: keyValues(attributes) };
      known.set(series, found);
    }
    return found;
  };
  for (const metric of metrics) {
    const exemplars = exemplarsByPoint(metric);
    for (const set of metric.sets) {
      if (set.layout.kind === "levels") continue;
      for (let row = 0; row < set.count; row++) {
        const { origin, attributes } = find(set.series[row]);
        let points = origin.metrics.get(metric);
        if (!points) {
          points = [];
          origin.metrics.set(metric, points);
        }
        const ms = set.timeMs[row];
        const ns = set.timeNs[row];
        const started = set.startMs[row] > 0 || set.startNs[row] > 0;
        const own = exemplars.get(pointKey(set.series[row], ms, ns));
        points.push({
          attributes,
          ...(started ? { startTimeUnixNano: nanosText(set.startMs[row], set.startNs[row]) } : {}),
          timeUnixNano: nanosText(ms, ns),
          ...content(set, row),
          ...(set.flags[row] & FLAG.noRecordedValue ? { flags: 1 } : {}),
          ...(own ? { exemplars: own.map(exemplarJson) } : {}),
        });
      }
    }
  }
  const resourceMetrics = [...origins.values()].map(({ resource, scope, metrics: own }) => ({
    resource: { attributes: keyValues(resource) },
    scopeMetrics: [
      {
        scope: scopeMessage(scope),
        metrics: [...own].map(([{ identity, description }, points]) => metricJson(identity, description, points)),
      },
    ],
  }));
  return { resourceMetrics };
}
