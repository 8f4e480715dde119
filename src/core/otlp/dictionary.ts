import { exactText, withExact } from "../metric/exact";
import type { Attributes, AttributeValue, MetricIdentity, Scope, SeriesIdentity } from "../metric/model";
import { keptDescription } from "./limits";

/** A metric that this process has met. `id` is 0 until the store gave it one. */
export interface KnownMetric {
  identity: MetricIdentity;
  description: string;
  id: number;
  series: Map<string, KnownSeries>;
}

/** A series that this process has met. `id` is 0 until the store gave it one. */
export interface KnownSeries {
  metric: KnownMetric;
  identity: SeriesIdentity;
  key: string;
  id: number;
  /** Of the registry, when the id was given: ids of another epoch have to be asked for again. */
  epoch: number;
  /** Past the limit of series: its points go to the overflow series. */
  overflowed: boolean;
  /** When it is asked again whether there is room for it, Unix ms. */
  retryAt: number;
  /** There is room for it again: what its running total came to was told by the overflow series, and is only a base here. */
  resumes: boolean;
  /** When the registry first heard of it, by our clock, Unix ms; 0 where that is not known. */
  firstAt: number;
  /** The start of the last of its points that came, were it one that was refused; NaN where none did. */
  lifeMs: number;
  lifeNs: number;
}

/** One way in which a series' attributes were written on the wire. */
export interface WireEntry {
  bytes: Uint8Array;
  view: DataView;
  series: KnownSeries;
  /** The entry that followed this one last time. */
  next: WireEntry | null;
}

/** The wire forms of the attribute sets of one metric under one resource and scope. */
export class SeriesTable {
  private readonly byHash = new Map<number, WireEntry[]>();
  private first: WireEntry | null = null;

  constructor(
    readonly metric: KnownMetric,
    readonly resource: Attributes,
    readonly scope: Scope,
    private readonly grown: (bytes: number) => void,
  ) {}

  /**
   * The entry written as bytes [from, to): most likely the one that followed `previous` last time (null at the start
   * of a request), else one that the hash points to.
   */
  find(previous: WireEntry | null, bytes: Uint8Array, view: DataView, from: number, to: number): WireEntry | undefined {
    const guess = previous ? previous.next : this.first;
    if (guess && equalBytes(guess, view, from, to)) return guess;
    return this.byHash.get(hashBytes(bytes, from, to))?.find((entry) => equalBytes(entry, view, from, to));
  }

  /** Remembers another way of writing a series. The bytes are copied: a view of them would keep the whole request. */
  add(written: Uint8Array, series: KnownSeries): WireEntry {
    const bytes = Uint8Array.from(written);
    const entry: WireEntry = { bytes, view: new DataView(bytes.buffer), series, next: null };
    this.grown(WIRE_BYTES + bytes.length);
    const hash = hashBytes(bytes, 0, bytes.length);
    const found = this.byHash.get(hash);
    if (found) found.push(entry);
    else this.byHash.set(hash, [entry]);
    return entry;
  }

  /** Notes that an entry followed another, or began a request. */
  follow(previous: WireEntry | null, entry: WireEntry): void {
    if (previous) previous.next = entry;
    else this.first = entry;
  }
}

function equalBytes({ bytes, view: known }: WireEntry, view: DataView, from: number, to: number): boolean {
  const size = to - from;
  if (bytes.length !== size) return false;
  const words = size & ~3;
  for (let i = 0; i < words; i += 4) if (known.getInt32(i) !== view.getInt32(from + i)) return false;
  for (let i = words; i < size; i++) if (known.getUint8(i) !== view.getUint8(from + i)) return false;
  return true;
}

/** FNV-1a over 32 bits; a place to look, never a proof of equality. */
function hashBytes(bytes: Uint8Array, from: number, to: number): number {
  let hash = 0x811c9dc5;
  for (let i = from; i < to; i++) hash = Math.imul(hash ^ bytes[i], 0x01000193);
  return hash >>> 0;
}

function sortedEntries(attributes: Attributes): [string, AttributeValue][] {
  return Object.entries(attributes).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
}

/** Resources as texts: many series share one. */
const resourceTexts = new WeakMap<Attributes, string>();

function resourceText(resource: Attributes): string {
  let text = resourceTexts.get(resource);
  if (text === undefined) {
    text = JSON.stringify(sortedEntries(resource));
    resourceTexts.set(resource, text);
  }
  return text;
}

/** A text, in JSON, that is equal for equal series of one metric, whatever the order of their attributes. */
export function seriesKey({ resource, scope, attributes }: SeriesIdentity): string {
  const more = furtherParts({ resource, scope, attributes });
  const own = JSON.stringify([scope.name, scope.version, sortedEntries(attributes), ...(more ? [more] : [])]);
  return `[${resourceText(resource)},${own.slice(1)}`;
}

/** What few series have beside the name and version of their scope and plain values. */
export interface FurtherParts {
  scope?: [string, AttributeValue][];
  /** Exact types of the values of resource, scope and attributes. */
  exact?: [string, string, string];
}

/** What a series has beyond what is plain; null for most. */
export function furtherParts({ resource, scope, attributes }: SeriesIdentity): FurtherParts | null {
  const ofScope = scope.attributes ?? {};
  const exact: [string, string, string] = [exactText(resource), exactText(ofScope), exactText(attributes)];
  const scoped = Object.keys(ofScope).length > 0;
  const typed = exact.some((text) => text !== "");
  if (!scoped && !typed) return null;
  return { ...(scoped && { scope: sortedEntries(ofScope) }), ...(typed && { exact }) };
}

/** The whole identity out of what is plain of it, with its {@link furtherParts}. The plain one stays as it is. */
export function withFurther(plain: SeriesIdentity, further: FurtherParts | null | undefined): SeriesIdentity {
  if (!further) return plain;
  const { scope = [], exact = [] } = further;
  const attributes = withExact(Object.fromEntries(scope), exact[1]);
  return {
    resource: withExact({ ...plain.resource }, exact[0]),
    scope: { ...plain.scope, ...(scope.length > 0 && { attributes }) },
    attributes: withExact({ ...plain.attributes }, exact[2]),
  };
}

/** A text that is equal for equal metrics. */
export function metricKey(identity: MetricIdentity): string {
  const { name, kind, unit, temporality, monotonic } = identity;
  return `${kind}\u0000${temporality}\u0000${monotonic}\u0000${unit}\u0000${name}`;
}

/** The metric that a {@link metricKey} was made of. */
export function metricOfKey(key: string): MetricIdentity {
  const [kind, temporality, monotonic, unit, ...name] = key.split("\u0000");
  return {
    kind: kind as MetricIdentity["kind"],
    temporality: temporality as MetricIdentity["temporality"],
    monotonic: monotonic === "true",
    unit,
    name: name.join("\u0000"),
  };
}

/** The identity that a {@link seriesKey} was made of. */
export function identityOfKey(key: string): SeriesIdentity {
  const [resource, name, version, attributes, further] = JSON.parse(key) as [
    [string, AttributeValue][],
    string,
    string,
    [string, AttributeValue][],
    FurtherParts?,
  ];
  const plain = {
    resource: Object.fromEntries(resource),
    scope: { name, version },
    attributes: Object.fromEntries(attributes),
  };
  return withFurther(plain, further);
}

const MAX_SERIES = 500_000;
/** Bytes that a dictionary may hold, as they are counted here: about what they take. */
const MAX_BYTES = 256 * 1024 * 1024;
/** What a series, a table, a way of writing takes beside its texts. */
const SERIES_BYTES = 400;
const TABLE_BYTES = 500;
const WIRE_BYTES = 250;

/**
 * What this process knows of metrics and series, so that a point of a known series costs a comparison of bytes.
 * A cache only: the store's registry is the truth, and a full dictionary starts afresh.
 */
export class Dictionary {
  private metrics = new Map<string, KnownMetric>();
  private tables = new Map<string, SeriesTable>();
  /** Equal resources are one object. */
  private resources = new Map<string, Attributes>();
  size = 0;
  /** Bytes that it takes, about. */
  bytes = 0;
  /** How often everything was forgotten. */
  generation = 0;

  metric(identity: MetricIdentity, description: string): KnownMetric {
    const key = metricKey(identity);
    let metric = this.metrics.get(key);
    if (!metric) {
      metric = { identity, description: keptDescription(description), id: 0, series: new Map() };
      this.bytes += TABLE_BYTES + 2 * key.length;
      this.metrics.set(key, metric);
    }
    return metric;
  }

  series(metric: KnownMetric, identity: SeriesIdentity): KnownSeries {
    const key = seriesKey(identity);
    let series = metric.series.get(key);
    if (!series) {
      const own = { ...identity, resource: this.resource(identity.resource) };
      const unheard = {
        id: 0,
        epoch: 0,
        overflowed: false,
        retryAt: 0,
        resumes: false,
        firstAt: 0,
        lifeMs: Number.NaN,
        lifeNs: Number.NaN,
      };
      series = { metric, identity: own, key, ...unheard };
      metric.series.set(key, series);
      this.size++;
      // The key, and about as much for what it was made of.
      this.bytes += SERIES_BYTES + 4 * key.length;
    }
    return series;
  }

  private resource(resource: Attributes): Attributes {
    const key = resourceText(resource) + exactText(resource);
    const known = this.resources.get(key);
    if (!known) this.resources.set(key, resource);
    return known ?? resource;
  }

  /** The wire table of a metric under a resource and scope, each given by its own key. */
  table(metric: KnownMetric, context: string, resource: Attributes, scope: Scope): SeriesTable {
    const key = `${metricKey(metric.identity)}\u0001${context}`;
    let table = this.tables.get(key);
    if (!table) {
      table = new SeriesTable(metric, resource, scope, (bytes) => {
        this.bytes += bytes;
      });
      this.bytes += TABLE_BYTES + 2 * key.length;
      this.tables.set(key, table);
    }
    return table;
  }

  /** Forgets everything once it has grown too large. Call between requests only. */
  trim(): void {
    if (this.size <= MAX_SERIES && this.bytes <= MAX_BYTES) return;
    this.metrics = new Map();
    this.tables = new Map();
    this.resources = new Map();
    this.size = 0;
    this.bytes = 0;
    this.generation++;
  }
}
