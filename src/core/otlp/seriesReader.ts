import type { Attributes } from "../metric/model";
import { readKeyValue } from "./attributes";
import { ADMIT_ALL, type Admission } from "./batch/admission";
import { Batch } from "./batch/batch";
import type { Dictionary, KnownSeries, SeriesTable, WireEntry } from "./dictionary";
import { attributesProblem } from "./limits";
import { WireReader } from "./wire";

/** Where a part of the message lies: bytes [from, to). */
export interface Span {
  from: number;
  to: number;
}

/**
 * Reads whose a point is. The series is found by the bytes of its attributes: first those of the series that followed last
 * time are compared, then a hash says where to look, and only a stranger is parsed.
 */
export class SeriesReader extends WireReader {
  readonly batch: Batch;
  protected readonly dictionary: Dictionary;
  /** Where the attribute fields of the point in hand lie, tags included, while they follow each other. */
  private attributesFrom = 0;
  private attributesTo = 0;
  /** All of them, where something stands in between. */
  private scattered: Span[] | null = null;
  protected previous: WireEntry | null = null;

  constructor(
    bytes: Uint8Array,
    dictionary: Dictionary,
    protected readonly allowed: Admission = ADMIT_ALL,
  ) {
    super(bytes);
    this.dictionary = dictionary;
    this.batch = new Batch(allowed);
  }

  protected attributes(spans: readonly Span[]): Attributes {
    const attributes: Attributes = {};
    for (const { from, to } of spans) {
      this.at = from;
      readKeyValue(this, to, attributes);
    }
    return attributes;
  }

  /** Begins a point of which no attribute was read yet. */
  protected forgetAttributes(): void {
    this.attributesFrom = this.attributesTo = 0;
    this.scattered = null;
  }

  /** Notes an attribute field whose tag began at `from`. */
  protected attribute(from: number, end: number): void {
    const to = this.end(end);
    if (this.scattered) this.scattered.push({ from, to });
    else if (this.attributesTo === from) this.attributesTo = to;
    else if (this.attributesTo === 0) {
      this.attributesFrom = from;
      this.attributesTo = to;
    } else
      this.scattered = [
        { from: this.attributesFrom, to: this.attributesTo },
        { from, to },
      ];
    this.at = to;
  }

  /** The series of the point in hand, found by the bytes of its attributes; null where they are refused. */
  protected seriesOf(table: SeriesTable, end: number): KnownSeries | null {
    if (this.at !== end) this.fail("data point reaches beyond its message");
    const bytes = this.scattered ? this.gather(this.scattered) : this.bytes;
    const from = this.scattered ? 0 : this.attributesFrom;
    const to = this.scattered ? bytes.length : this.attributesTo;
    const view = this.scattered ? new DataView(bytes.buffer) : this.data;
    const entry = table.find(this.previous, bytes, view, from, to) ?? this.firstSight(table, bytes, from, to);
    if (!entry) return null;
    table.follow(this.previous, entry);
    this.previous = entry;
    return entry.series;
  }

  private gather(spans: readonly Span[]): Uint8Array {
    const size = spans.reduce((sum, { from, to }) => sum + to - from, 0);
    const joined = new Uint8Array(size);
    let at = 0;
    for (const { from, to } of spans) {
      joined.set(this.bytes.subarray(from, to), at);
      at += to - from;
    }
    return joined;
  }

  /** Parses attributes that were not met before in this form. */
  private firstSight(table: SeriesTable, bytes: Uint8Array, from: number, to: number): WireEntry | null {
    const fields = (this.scattered ?? [{ from, to }]).flatMap((span) => this.keyValues(span));
    const attributes = this.attributes(fields);
    const problem = attributesProblem(attributes);
    if (problem) {
      this.batch.reject(table.metric.identity.name, problem);
      return null;
    }
    const series = this.dictionary.series(table.metric, { resource: table.resource, scope: table.scope, attributes });
    return table.add(bytes.subarray(from, to), series);
  }

  /** The KeyValue messages of a run of attribute fields. */
  private keyValues({ from, to }: Span): Span[] {
    const found: Span[] = [];
    this.at = from;
    while (this.at < to) {
      this.uint32();
      const end = this.end(to);
      found.push({ from: this.at, to: end });
      this.at = end;
    }
    return found;
  }
}
