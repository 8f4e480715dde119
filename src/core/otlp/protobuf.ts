import type { Attributes, Kind, Scope, Temporality } from "../metric/model";
import { readKeyValue } from "./attributes";
import { ADMIT_ALL, type Admission } from "./batch/admission";
import type { Batch } from "./batch/batch";
import type { Dictionary } from "./dictionary";
import { environmentProblem, nameProblem, resourceProblem, scopeProblem, unitProblem } from "./limits";
import { PointReader } from "./points";
import type { Span } from "./seriesReader";
import { scopeText } from "./values";

/**
 * Reads an OTLP ExportMetricsServiceRequest by its field numbers (opentelemetry-proto, metrics v1), straight into
 * columns. Unknown fields are passed over. A point of a known series costs one comparison of its attribute bytes
 * with those of the series that followed last time.
 *
 * @param allowed what the request may say
 * @throws WireError where the bytes are no such message
 */
export function decodeMetrics(bytes: Uint8Array, dictionary: Dictionary, allowed: Admission = ADMIT_ALL): Batch {
  const reader = new MetricsReader(bytes, dictionary, allowed);
  reader.request();
  return reader.batch;
}

/** By the field number of Metric.data. */
const KINDS: Record<number, Kind> = { 5: "gauge", 7: "sum", 9: "histogram", 10: "exponential", 11: "summary" };
const TEMPORALITIES: Record<number, Temporality> = { 1: "delta", 2: "cumulative" };

class MetricsReader extends PointReader {
  request(): void {
    const end = this.bytes.length;
    while (this.at < end) {
      const tag = this.uint32();
      if (tag === 10) {
        const to = this.end(end);
        this.resourceMetrics(this.at, to);
        this.at = to;
      } else this.skip(tag, end);
    }
  }

  /** Where the length-delimited fields of one tag lie, whatever their order on the wire. */
  private fields(from: number, end: number, wanted: number): Span[] {
    const found: Span[] = [];
    this.at = from;
    while (this.at < end) {
      const tag = this.uint32();
      if (tag === wanted) {
        const to = this.end(end);
        found.push({ from: this.at, to });
        this.at = to;
      } else this.skip(tag, end);
    }
    return found;
  }

  /** The bytes of a span as text of one character each: a key for maps. */
  private bytesKey({ from, to }: Span): string {
    let text = "";
    for (let i = from; i < to; i++) text += String.fromCharCode(this.bytes[i]);
    return text;
  }

  private resourceMetrics(from: number, end: number): void {
    const resources = this.fields(from, end, 10);
    const key = resources.map((span) => this.bytesKey(span)).join("\u0002");
    const attributes: Attributes = {};
    for (const span of resources) Object.assign(attributes, this.attributes(this.fields(span.from, span.to, 10)));
    const { environment } = this.allowed;
    const problem = resourceProblem(attributes) ?? environmentProblem(attributes, environment);
    const context = environment === null ? key : `${key}\u0003${environment}`;
    for (const span of this.fields(from, end, 18)) this.scopeMetrics(span, attributes, context, problem);
  }

  private scopeMetrics({ from, to }: Span, resource: Attributes, resourceKey: string, problem: string | null): void {
    const scope: Scope = { name: "", version: "" };
    const own: Attributes = {};
    for (const span of this.fields(from, to, 10)) {
      this.at = span.from;
      while (this.at < span.to) {
        const tag = this.uint32();
        if (tag === 10) scope.name = this.text(this.end(span.to));
        else if (tag === 18) scope.version = this.text(this.end(span.to));
        else if (tag === 26) readKeyValue(this, this.end(span.to), own);
        else this.skip(tag, span.to);
      }
    }
    if (Object.keys(own).length > 0) scope.attributes = own;
    const context = `${resourceKey}\u0001${scope.name}\u0001${scope.version}\u0001${scopeText(scope)}`;
    const refused = problem ?? scopeProblem(scope);
    for (const span of this.fields(from, to, 18)) this.metric(span, resource, scope, context, refused);
  }

  private metric(span: Span, resource: Attributes, scope: Scope, context: string, problem: string | null): void {
    let name = "";
    let description = "";
    let unit = "";
    let dataField = 0;
    let data: Span | null = null;
    this.at = span.from;
    while (this.at < span.to) {
      const tag = this.uint32();
      const field = tag >>> 3;
      if (tag === 10) name = this.text(this.end(span.to));
      else if (tag === 18) description = this.text(this.end(span.to));
      else if (tag === 26) unit = this.text(this.end(span.to));
      else if (KINDS[field] && (tag & 7) === 2) {
        const to = this.end(span.to);
        data = { from: this.at, to };
        dataField = field;
        this.at = to;
      } else this.skip(tag, span.to);
    }
    if (!data) return this.batch.reject(name, "a metric without data of a known kind", 0);
    const kind = KINDS[dataField];
    const { temporality, monotonic, points } = this.aggregation(data, kind);
    const refused =
      nameProblem(name) ??
      unitProblem(unit) ??
      problem ??
      (temporality === null ? "the aggregation temporality is not given (1 delta or 2 cumulative)" : null);
    if (refused !== null || temporality === null) return this.batch.reject(name, refused ?? "", points);
    const metric = this.dictionary.metric({ name, kind, unit, temporality, monotonic }, description);
    const table = this.dictionary.table(metric, context, resource, scope);
    this.previous = null;
    this.at = data.from;
    while (this.at < data.to) {
      const tag = this.uint32();
      if (tag === 10) this.point(kind, this.end(data.to), table);
      else this.skip(tag, data.to);
    }
  }

  /** What stands beside the data points, and how many of these there are. */
  private aggregation(
    { from, to }: Span,
    kind: Kind,
  ): { temporality: Temporality | null; monotonic: boolean; points: number } {
    const timeless = kind === "gauge" || kind === "summary";
    let temporality: Temporality | null = timeless ? "none" : null;
    let monotonic = !timeless && kind !== "sum";
    let points = 0;
    this.at = from;
    while (this.at < to) {
      const tag = this.uint32();
      if (tag === 10) {
        this.at = this.end(to);
        points++;
      } else if (tag === 16 && !timeless) temporality = TEMPORALITIES[this.uint32()] ?? null;
      else if (tag === 24 && kind === "sum") monotonic = this.uint32() !== 0;
      else this.skip(tag, to);
    }
    return { temporality, monotonic, points };
  }
}
