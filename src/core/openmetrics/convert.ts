import { type Attributes, FLAG, type Kind, type MetricIdentity, type Scope } from "../metric/model";
import { ownText } from "../metric/text";
import type { Batch } from "../otlp/batch/batch";
import type { PointHead } from "../otlp/batch/group";
import { histogramFlags } from "../otlp/batch/histograms";
import type { Dictionary, KnownMetric, KnownSeries } from "../otlp/dictionary";
import { attributesProblem, LIMITS, nameProblem } from "../otlp/limits";
import { Numbers } from "../otlp/numbers";
import { type Family, type Labels, msOfSeconds, type Sample } from "./model";
import { unitFromText } from "./units";

/**
 * From families of the text format to points (OpenTelemetry metrics data model; "Compatibility with OpenMetrics"):
 * counters become cumulative sums, histograms cumulative histograms, summaries stay, all else becomes gauges. A family's
 * name stays as it is, without `_total`; `_created` becomes the start; `target_info` describes the resource.
 */

const NO_SCOPE: Scope = { name: "", version: "" };
const SCOPE_NAME = "otel_scope_name";
const SCOPE_VERSION = "otel_scope_version";

/** The attributes that `target_info` gives to the resource. */
export function targetInfo(families: readonly Family[]): Attributes {
  const found: Attributes = {};
  for (const family of families) {
    if (!isTargetInfo(family)) continue;
    for (const { labels } of family.samples) Object.assign(found, attributesOf(labels));
  }
  return found;
}

export function isTargetInfo({ name, type }: Family): boolean {
  return name === "target_info" || (name === "target" && type === "info");
}

/** Labels as attributes; an empty value is the same as none. */
export function attributesOf(labels: Labels, without?: string): Attributes {
  const attributes: Attributes = {};
  for (let i = 0; i < labels.length; i += 2) {
    const name = labels[i];
    if (labels[i + 1] === "" || name === without || name === SCOPE_NAME || name === SCOPE_VERSION) continue;
    attributes[name] = labels[i + 1];
  }
  return attributes;
}

function scopeOf(labels: Labels): Scope {
  let scope = NO_SCOPE;
  for (let i = 0; i < labels.length; i += 2) {
    if (labels[i] === SCOPE_NAME) scope = { ...scope, name: labels[i + 1] };
    else if (labels[i] === SCOPE_VERSION) scope = { ...scope, version: labels[i + 1] };
  }
  return scope;
}

/** A text that is equal for samples that differ in nothing but one label. */
function keyOf(labels: Labels, without: string): string {
  let key = "";
  for (let i = 0; i < labels.length; i += 2)
    if (labels[i] !== without) key += `${labels[i]}\u0000${labels[i + 1]}\u0000`;
  return key;
}

/** A text that is equal for samples of one point; those of a history have times. */
function pointOf(key: string, { timeMs }: Sample): string {
  return Number.isNaN(timeMs) ? key : `${key}${timeMs}`;
}

function labelOf(labels: Labels, name: string): string | undefined {
  for (let i = 0; i < labels.length; i += 2) if (labels[i] === name) return labels[i + 1];
  return undefined;
}

function repeated(labels: Labels): string | null {
  for (let i = 2; i < labels.length; i += 2)
    for (let j = 0; j < i; j += 2) if (labels[i] === labels[j]) return labels[i];
  return null;
}

/** When the series of a family began, by their labels and, where it says so, the time of the point. */
function startsOf(family: Family, without: string): (key: string, sample: Sample) => number {
  const found = new Map<string, number>();
  for (const sample of family.samples) {
    if (!sample.name.endsWith("_created")) continue;
    const key = keyOf(sample.labels, without);
    found.set(key, msOfSeconds(sample.value));
    found.set(pointOf(key, sample), msOfSeconds(sample.value));
  }
  return (key, sample) => found.get(pointOf(key, sample)) ?? found.get(key) ?? 0;
}

/** Samples of one family that make up one point. */
interface Group {
  /** Its labels, as text. */
  key: string;
  first: Sample;
  start: number;
  sum: Sample | null;
  count: Sample | null;
  /** Buckets of a histogram, quantiles of a summary. */
  parts: { at: number; sample: Sample }[];
}

/** Turns the families of one source into points; it remembers series by how their labels were written. */
export class Converter {
  private known = new Map<string, KnownSeries>();
  private resourceKey = "";

  constructor(private readonly dictionary: Dictionary) {}

  /** Adds the points of families to a batch. What cannot be a point is refused in the batch, with the reason. */
  add(families: readonly Family[], batch: Batch, resource: Attributes, timeMs: number): void {
    const key = JSON.stringify(resource);
    if (key !== this.resourceKey || this.known.size > MAX_KNOWN) this.known = new Map();
    this.resourceKey = key;
    const into = new Adding(this.dictionary, this.known, batch, resource, timeMs);
    for (const family of families) if (!isTargetInfo(family)) into.family(family);
  }
}

const MAX_KNOWN = 200_000;

class Adding {
  private readonly resourceProblem: string | null;

  constructor(
    private readonly dictionary: Dictionary,
    private readonly known: Map<string, KnownSeries>,
    private readonly batch: Batch,
    private readonly resource: Attributes,
    private readonly timeMs: number,
  ) {
    this.resourceProblem = attributesProblem(resource);
  }

  family(family: Family): void {
    const problem = this.resourceProblem ?? nameProblem(family.name);
    if (problem) return this.batch.reject(family.name, problem, family.samples.length);
    switch (family.type) {
      case "counter":
        return this.counter(family);
      case "histogram":
        return this.histogram(family);
      case "summary":
        return this.summary(family);
      case "gaugehistogram":
        return this.gauges(family, true);
      default:
        return this.gauges(family, false);
    }
  }

  private metric(family: Family, kind: Kind, name = family.name): KnownMetric {
    const counts = kind === "sum" || kind === "histogram";
    const identity: MetricIdentity = {
      name: ownText(name),
      kind,
      unit: ownText(unitFromText(family.unit, family.name)),
      temporality: counts ? "cumulative" : "none",
      monotonic: counts,
    };
    return this.dictionary.metric(identity, ownText(family.help));
  }

  /** The series with these labels, by how they are written; null where they are refused. */
  private series(metric: KnownMetric, written: string, labels: Labels, without?: string): KnownSeries | null {
    const key = `${metric.identity.kind}\u0001${metric.identity.name}\u0001${metric.identity.unit}\u0001${written}`;
    const known = this.known.get(key);
    if (known && known.metric === metric) return known;
    const twice = repeated(labels);
    // A series outlives its page, of which its texts are parts.
    const owned = labels.map(ownText);
    const attributes = attributesOf(owned, without);
    const problem = twice !== null ? `label ${twice} stands twice` : attributesProblem(attributes);
    if (problem) {
      this.batch.reject(metric.identity.name, problem);
      return null;
    }
    const series = this.dictionary.series(metric, { resource: this.resource, scope: scopeOf(owned), attributes });
    this.known.set(ownText(key), series);
    return series;
  }

  private head(sample: Sample, start: number, flags: number): PointHead {
    const time = Number.isNaN(sample.timeMs) ? this.timeMs : sample.timeMs;
    const ms = Math.floor(time);
    const startMs = Math.floor(start);
    return {
      timeMs: ms,
      timeNs: Math.min(999_999, Math.round((time - ms) * 1e6)),
      startMs,
      startNs: Math.min(999_999, Math.round((start - startMs) * 1e6)),
      flags,
    };
  }

  private gauges(family: Family, byName: boolean): void {
    const metric = this.metric(family, "gauge");
    for (const sample of family.samples) {
      const own = byName ? this.metric(family, "gauge", sample.name) : metric;
      const series = this.series(own, sample.written, sample.labels);
      if (series) this.batch.number(series, this.head(sample, 0, 0), sample.value);
    }
  }

  private counter(family: Family): void {
    const metric = this.metric(family, "sum");
    const startOf = startsOf(family, "");
    for (const sample of family.samples) {
      if (sample.name.endsWith("_created")) continue;
      if (!(sample.value >= 0)) {
        this.batch.reject(family.name, `a counter cannot be ${sample.value} (line ${sample.line})`);
        continue;
      }
      const series = this.series(metric, sample.written, sample.labels);
      if (!series) continue;
      const start = startOf(keyOf(sample.labels, ""), sample);
      this.batch.number(series, this.head(sample, start, 0), sample.value);
      this.exemplar(series, sample);
    }
  }

  /** Samples by their labels without `part`, which is a number. */
  private groups(family: Family, part: "le" | "quantile"): Map<string, Group> {
    const groups = new Map<string, Group>();
    const startOf = startsOf(family, part);
    for (const sample of family.samples) {
      if (sample.name.endsWith("_created")) continue;
      const key = keyOf(sample.labels, part);
      const point = pointOf(key, sample);
      let group = groups.get(point);
      if (!group) {
        group = { key, first: sample, start: startOf(key, sample), sum: null, count: null, parts: [] };
        groups.set(point, group);
      }
      if (sample.name.endsWith("_sum")) group.sum = sample;
      else if (sample.name.endsWith("_count")) group.count = sample;
      else {
        const text = labelOf(sample.labels, part) ?? "";
        const at = text === "+Inf" ? Number.POSITIVE_INFINITY : text === "" ? Number.NaN : Number(text);
        if (Number.isNaN(at))
          this.batch.reject(family.name, `label ${part} is "${text}", no number (line ${sample.line})`);
        else group.parts.push({ at, sample });
      }
    }
    return groups;
  }

  private histogram(family: Family): void {
    const metric = this.metric(family, "histogram");
    for (const { key, first, start, sum, count, parts } of this.groups(family, "le").values()) {
      parts.sort((a, b) => a.at - b.at);
      const last = parts[parts.length - 1];
      const total = last && last.at === Number.POSITIVE_INFINITY ? last.sample.value : (count?.value ?? Number.NaN);
      if (!(total >= 0)) {
        this.batch.reject(family.name, `a histogram has neither a bucket le="+Inf" nor a count (line ${first.line})`);
        continue;
      }
      const finite = parts.filter(({ at }) => Number.isFinite(at));
      const cumulative = [...finite.map(({ sample }) => sample.value), total];
      const counts = cumulative.map((value, i) => value - (i === 0 ? 0 : cumulative[i - 1]));
      if (counts.some((value) => !(value >= 0))) {
        this.batch.reject(family.name, `the buckets of a histogram do not rise (line ${first.line})`);
        continue;
      }
      const series = this.series(metric, key, first.labels, "le");
      if (!series) continue;
      this.batch.explicit(
        series,
        this.head(first, start, histogramFlags(0, sum !== null, false, false)),
        { count: total, sum: sum?.value ?? 0, min: 0, max: 0 },
        Numbers.of(finite.map(({ at }) => at)),
        Numbers.of(counts),
      );
      for (const { sample } of parts) this.exemplar(series, sample);
    }
  }

  private summary(family: Family): void {
    const metric = this.metric(family, "summary");
    for (const { key, first, start, sum, count, parts } of this.groups(family, "quantile").values()) {
      parts.sort((a, b) => a.at - b.at);
      const series = this.series(metric, key, first.labels, "quantile");
      if (!series) continue;
      const known = parts.filter(({ sample }) => !Number.isNaN(sample.value));
      this.batch.summary(
        series,
        this.head(first, start, 0),
        count?.value ?? 0,
        sum?.value ?? 0,
        Numbers.of(known.map(({ at }) => at)),
        Numbers.of(known.map(({ sample }) => sample.value)),
      );
    }
  }

  private exemplar(series: KnownSeries, { exemplar, timeMs }: Sample): void {
    if (!exemplar) return;
    const attributes = attributesOf(exemplar.labels);
    const { trace_id: trace = "", span_id: span = "", ...others } = attributes;
    const at = Number.isNaN(exemplar.time) ? (Number.isNaN(timeMs) ? this.timeMs : timeMs) : msOfSeconds(exemplar.time);
    const time = this.head({ timeMs: at } as Sample, 0, 0);
    if (!Number.isFinite(exemplar.value) || !(time.timeMs > 0) || attributesProblem(attributes)) return;
    this.batch.addExemplar({
      series,
      ms: time.timeMs,
      ns: Math.min(time.timeNs, 999_999),
      value: exemplar.value,
      traceId: hex(trace, 32),
      spanId: hex(span, 16),
      attributes: others,
    });
  }
}

/** An id in hex where it is one; other senders write what they like. */
function hex(id: unknown, length: number): string {
  const text = String(id).toLowerCase();
  return text.length <= Math.max(length, LIMITS.keyLength) && /^[0-9a-f]+$/.test(text) ? text.slice(0, length) : "";
}

/** A point that says a gauge has no value any more. */
export function noteGone(batch: Batch, series: KnownSeries, timeMs: number): void {
  batch.number(series, { timeMs, timeNs: 0, startMs: 0, startNs: 0, flags: FLAG.noRecordedValue }, 0);
}
