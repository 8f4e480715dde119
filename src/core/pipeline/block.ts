import { exactText, withExact } from "../metric/exact";
import type { Attributes, MetricIdentity, PointSet, SeriesIdentity } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import { type Dictionary, type KnownMetric, type KnownSeries, metricKey } from "../otlp/dictionary";
import { decodeStrip, encodeStrip } from "../strip/strip";

/**
 * A batch as bytes that stand for themselves: who its series are, then its points as a strip.
 *
 * ```
 * size of the names: u32 | names as JSON | strip
 * ```
 */

interface Names {
  metrics: { identity: MetricIdentity; description: string }[];
  resources: Attributes[];
  /** Metric, resource, scope name, scope version, attributes, and what few have besides. */
  series: (readonly [
    metric: number,
    resource: number,
    scope: string,
    version: string,
    attributes: Attributes,
    odd?: OddParts,
  ])[];
  /** The metric of each entry of the strip. */
  sets: number[];
  exemplars: [series: number, ms: number, ns: number, value: number, trace: string, span: string, own: Attributes][];
}

class Numbering<T> {
  readonly all: T[] = [];
  private readonly places = new Map<unknown, number>();

  place(key: unknown, value: () => T): number {
    let place = this.places.get(key);
    if (place === undefined) {
      place = this.all.push(value()) - 1;
      this.places.set(key, place);
    }
    return place;
  }
}

/** What few series have beside names and plain values. */
interface OddParts {
  scope?: Attributes | undefined;
  /** Exact types of values. */
  scopeExact: string;
  resource: string;
  own: string;
}

function oddParts({ resource, scope, attributes }: SeriesIdentity): OddParts | null {
  const odd = {
    scope: scope.attributes,
    scopeExact: exactText(scope.attributes ?? {}),
    resource: exactText(resource),
    own: exactText(attributes),
  };
  return odd.scope || odd.resource || odd.own ? odd : null;
}

/** Series are numbered from 1: a strip takes 0 for "many". */
export function packBatch(batch: Batch): Uint8Array {
  const metrics = new Numbering<Names["metrics"][number]>();
  const resources = new Numbering<Attributes>();
  const series = new Numbering<Names["series"][number]>();
  const placeOf = ({ identity, description }: KnownMetric) =>
    metrics.place(metricKey(identity), () => ({ identity, description }));
  const idOf = (one: KnownSeries) =>
    1 +
    series.place(one, () => {
      const { resource, scope, attributes } = one.identity;
      const sender = resources.place(resource, () => resource);
      const odd = oddParts(one.identity);
      const plain = [placeOf(one.metric), sender, scope.name, scope.version, attributes] as const;
      return odd ? ([...plain, odd] as const) : plain;
    });
  const found = [...batch.numbered(idOf)];
  const names: Names = {
    metrics: metrics.all,
    resources: resources.all,
    series: series.all,
    sets: found.map(({ metric }) => placeOf(metric)),
    exemplars: exemplarsOf(batch, idOf),
  };
  return joined(
    names,
    found.map(({ set }) => set),
  );
}

function exemplarsOf(batch: Batch, idOf: (series: KnownSeries) => number): Names["exemplars"] {
  return batch.exemplars.map(({ series, ms, ns, value, traceId, spanId, attributes }) => [
    idOf(series),
    ms,
    ns,
    value,
    traceId,
    spanId,
    attributes,
  ]);
}

function addExemplars(batch: Batch, all: Names["exemplars"], seriesOf: (id: number) => KnownSeries): void {
  for (const [id, ms, ns, value, traceId, spanId, attributes] of all)
    batch.exemplars.push({ series: seriesOf(id), ms, ns, value, traceId, spanId, attributes });
}

/** A head as JSON after its size, then a strip. */
function joined(content: object, sets: readonly PointSet[]): Uint8Array {
  const head = new TextEncoder().encode(JSON.stringify(content));
  const strip = encodeStrip(sets);
  const bytes = new Uint8Array(4 + head.length + strip.length);
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  bytes.set(strip, 4 + head.length);
  return bytes;
}

function taken<Head>(bytes: Uint8Array): { head: Head; sets: PointSet[] } {
  const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + size))) as Head;
  return { head, sets: decodeStrip(bytes.slice(4 + size)) };
}

/** A batch as bytes that name series by numbers, which somebody else has to know. Numbers begin at 1. */
export function packPoints(batch: Batch, idOf: (series: KnownSeries) => number): Uint8Array {
  const exemplars = exemplarsOf(batch, idOf);
  const sets = [...batch.numbered(idOf)].map(({ set }) => set);
  return joined({ exemplars }, sets);
}

/** Points that name series by numbers. */
export interface NumberedPoints {
  sets: PointSet[];
  exemplars: Names["exemplars"];
}

export function openPoints(bytes: Uint8Array): NumberedPoints {
  const { head, sets } = taken<{ exemplars: Names["exemplars"] }>(bytes);
  return { sets, exemplars: head.exemplars };
}

/** Adds points to a batch. Each set is of one metric: that of its first series. */
export function addPoints(
  batch: Batch,
  { sets, exemplars }: NumberedPoints,
  seriesOf: (id: number) => KnownSeries,
): void {
  for (const set of sets) if (set.count > 0) batch.addSet(seriesOf(set.series[0]).metric, set, seriesOf);
  addExemplars(batch, exemplars, seriesOf);
}

/** A block whose series are those of a dictionary; it makes a batch as often as one is wanted. */
export interface OpenBlock {
  sets: { metric: KnownMetric; set: PointSet }[];
  /** By number, from 1. */
  series: readonly KnownSeries[];
  exemplars: Names["exemplars"];
}

export function openBlock(bytes: Uint8Array, dictionary: Dictionary): OpenBlock {
  const { head: names, sets: found } = taken<Names>(bytes);
  const metrics = names.metrics.map(({ identity, description }) => dictionary.metric(identity, description));
  const series = names.series.map(([metric, resource, scope, version, attributes, odd]) =>
    dictionary.series(metrics[metric], {
      resource: odd ? withExact({ ...names.resources[resource] }, odd.resource) : names.resources[resource],
      scope: { name: scope, version, ...(odd?.scope && { attributes: withExact(odd.scope, odd.scopeExact) }) },
      attributes: withExact(attributes, odd?.own),
    }),
  );
  const sets = found.map((set, i) => ({ metric: metrics[names.sets[i]], set }));
  return { sets, series, exemplars: names.exemplars };
}

/** A batch of a block's points; the block stays as it is. */
export function batchOf({ sets, series, exemplars }: OpenBlock): Batch {
  const batch = new Batch();
  const seriesOf = (id: number) => series[id - 1];
  for (const { metric, set } of sets) batch.addSet(metric, set, seriesOf);
  addExemplars(batch, exemplars, seriesOf);
  return batch;
}

/** The batch in a block, with the series of a dictionary. */
export function unpackBatch(bytes: Uint8Array, dictionary: Dictionary): Batch {
  return batchOf(openBlock(bytes, dictionary));
}
