import { isOriginAttribute } from "../metric/labels";
import { type Attributes, bucketColumns, FLAG, type MetricIdentity, type PointSet } from "../metric/model";
import { valueText } from "../metric/text";
import { wordOfUnit } from "./units";

/**
 * Points as OpenMetrics text 1.0. Names lose what the format does not allow: dots become underscores, and the unit
 * stands at the end in words (OpenTelemetry, "Compatibility with OpenMetrics").
 */

/** A series of a metric with the point to write. */
export interface WrittenPoint {
  resource: Attributes;
  attributes: Attributes;
  set: PointSet;
  row: number;
  /** The newest exemplar of the series. */
  exemplar?: { value: number; traceId: string; spanId: string; ms: number };
}

function plainName(name: string): string {
  const plain = name.replace(/[^a-zA-Z0-9_:]/g, "_");
  return /^[0-9]/.test(plain) ? `_${plain}` : plain;
}

/** The family's name in the text: its unit at the end, no suffix of its type. */
export function familyName({ name, unit }: Pick<MetricIdentity, "name" | "unit">): string {
  const plain = plainName(name).replace(/_total$/, "");
  const word = wordOfUnit(unit);
  return word === "" || plain.endsWith(`_${word}`) ? plain : `${plain}_${word}`;
}

function escaped(text: string): string {
  return text.replace(/\\/g, "\\\\").replace(/\n/g, "\\n").replace(/"/g, '\\"');
}

function number(value: number): string {
  if (Number.isNaN(value)) return "NaN";
  if (!Number.isFinite(value)) return value > 0 ? "+Inf" : "-Inf";
  return String(value);
}

function labels(pairs: readonly [string, string][]): string {
  if (pairs.length === 0) return "";
  return `{${pairs.map(([name, value]) => `${name}="${escaped(value)}"`).join(",")}}`;
}

const seconds = (ms: number, ns: number) => String((ms * 1000 + Math.round(ns / 1000)) / 1e6);

function typeOf({ kind, monotonic }: MetricIdentity): string {
  if (kind === "sum") return monotonic ? "counter" : "gauge";
  return kind === "exponential" ? "histogram" : kind;
}

/** Labels of a point: its attributes, and who sent it. */
function labelsOf({ resource, attributes }: WrittenPoint): [string, string][] {
  const all: Attributes = Object.fromEntries(Object.entries(attributes).filter(([key]) => !isOriginAttribute(key)));
  for (const key of ["service.name", "service.version", "service.instance.id"])
    if (resource[key] !== undefined) all[key] = resource[key];
  const named = new Map<string, string>();
  for (const [key, value] of Object.entries(all)) {
    let name = plainName(key).replace(/:/g, "_");
    while (named.has(name)) name += "_";
    named.set(name, valueText(value));
  }
  return [...named].sort(([a], [b]) => (a < b ? -1 : 1));
}

/** Upper bounds of the buckets of a histogram point with their cumulative counts; the last is +Inf. */
function cumulative({ layout, columns }: PointSet, row: number): { le: number; count: number }[] {
  const buckets: { le: number; count: number }[] = [];
  let sum = 0;
  const add = (le: number, column: number) => {
    sum += columns[column][row];
    buckets.push({ le, count: sum });
  };
  if (layout.kind === "explicit") layout.bounds.forEach(add);
  else if (layout.kind === "exponential") {
    const { negative, positive, scale, zeroThreshold } = layout;
    const bound = (index: number) => 2 ** (index * 2 ** -scale);
    // In order of value, negatives come first, the largest index before the smallest.
    for (let i = negative.width - 1; i >= 0; i--) add(-bound(negative.from + i), 1 + i);
    add(zeroThreshold, 0);
    for (let i = 0; i < positive.width; i++) add(bound(positive.from + i + 1), 1 + negative.width + i);
    return [...buckets, { le: Number.POSITIVE_INFINITY, count: sum }];
  }
  add(Number.POSITIVE_INFINITY, bucketColumns(layout) - 1);
  return buckets;
}

/** One metric as a family of the text, without the closing EOF. */
export function writeFamily(identity: MetricIdentity, description: string, points: readonly WrittenPoint[]): string {
  const name = familyName(identity);
  const type = typeOf(identity);
  const word = wordOfUnit(identity.unit);
  const lines = [`# TYPE ${name} ${type}`];
  if (word !== "") lines.push(`# UNIT ${name} ${word}`);
  if (description !== "") lines.push(`# HELP ${name} ${escaped(description)}`);
  for (const point of points) {
    const { set, row } = point;
    if (set.flags[row] & FLAG.noRecordedValue) continue;
    const own = labelsOf(point);
    const time = seconds(set.timeMs[row], set.timeNs[row]);
    const line = (suffix: string, pairs: readonly [string, string][], value: number, end = "") =>
      lines.push(`${name}${suffix}${labels(pairs)} ${number(value)} ${time}${end}`);
    const created = () => {
      if (set.startMs[row] > 0 && identity.temporality === "cumulative")
        lines.push(`${name}_created${labels(own)} ${seconds(set.startMs[row], set.startNs[row])} ${time}`);
    };
    const exemplar = point.exemplar ? exemplarText(point.exemplar) : "";
    if (set.layout.kind === "number") {
      line(type === "counter" ? "_total" : "", own, set.columns[0][row], type === "counter" ? exemplar : "");
      if (type === "counter") created();
    } else if (set.layout.kind === "summary") {
      const { quantiles } = set.layout;
      for (const [i, quantile] of quantiles.entries())
        line("", [...own, ["quantile", String(quantile)]], set.columns[i][row]);
      line("_count", own, set.columns[quantiles.length][row]);
      line("_sum", own, set.columns[quantiles.length + 1][row]);
    } else if (set.layout.kind !== "levels") {
      const buckets = cumulative(set, row);
      const at = point.exemplar?.value ?? 0;
      let marked = exemplar === "";
      for (const { le, count } of buckets) {
        const here = !marked && at <= le;
        marked ||= here;
        line("_bucket", [...own, ["le", number(le)]], count, here ? exemplar : "");
      }
      line("_count", own, buckets[buckets.length - 1].count);
      if (!(set.flags[row] & FLAG.noSum)) line("_sum", own, set.columns[bucketColumns(set.layout) + 2][row]);
      created();
    }
  }
  return `${lines.join("\n")}\n`;
}

function exemplarText({ value, traceId, spanId, ms }: NonNullable<WrittenPoint["exemplar"]>): string {
  const ids = [...(traceId === "" ? [] : [`trace_id="${traceId}"`]), ...(spanId === "" ? [] : [`span_id="${spanId}"`])];
  return ` # {${ids.join(",")}} ${number(value)} ${seconds(ms, 0)}`;
}
