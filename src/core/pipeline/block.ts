import type { Attributes, MetricIdentity, PointSet } from "../metric/model";
import { Batch } from "../otlp/batch";
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
  /** Metric, resource, scope name, scope version, attributes. */
  series: [metric: number, resource: number, scope: string, version: string, attributes: Attributes][];
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
      return [placeOf(one.metric), sender, scope.name, scope.version, attributes];
    });
  const found = [...batch.numbered(idOf)];
  const names: Names = {
    metrics: metrics.all,
    resources: resources.all,
    series: series.all,
    sets: found.map(({ metric }) => placeOf(metric)),
    exemplars: batch.exemplars.map(({ series: one, ms, ns, value, traceId, spanId, attributes }) => [
      idOf(one),
      ms,
      ns,
      value,
      traceId,
      spanId,
      attributes,
    ]),
  };
  const head = new TextEncoder().encode(JSON.stringify(names));
  const strip = encodeStrip(found.map(({ set }) => set));
  const bytes = new Uint8Array(4 + head.length + strip.length);
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  bytes.set(strip, 4 + head.length);
  return bytes;
}

/** A block whose series are those of a dictionary; it makes a batch as often as one is wanted. */
export interface OpenBlock {
  sets: { metric: KnownMetric; set: PointSet }[];
  /** By number, from 1. */
  series: readonly KnownSeries[];
  exemplars: Names["exemplars"];
}

export function openBlock(bytes: Uint8Array, dictionary: Dictionary): OpenBlock {
  const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true);
  const names = JSON.parse(new TextDecoder().decode(bytes.subarray(4, 4 + size))) as Names;
  const metrics = names.metrics.map(({ identity, description }) => dictionary.metric(identity, description));
  const series = names.series.map(([metric, resource, scope, version, attributes]) =>
    dictionary.series(metrics[metric], {
      resource: names.resources[resource],
      scope: { name: scope, version },
      attributes,
    }),
  );
  const sets = decodeStrip(bytes.slice(4 + size)).map((set, i) => ({ metric: metrics[names.sets[i]], set }));
  return { sets, series, exemplars: names.exemplars };
}

/** A batch of a block's points; the block stays as it is. */
export function batchOf({ sets, series, exemplars }: OpenBlock): Batch {
  const batch = new Batch();
  for (const { metric, set } of sets) batch.addSet(metric, set, (id) => series[id - 1]);
  for (const [id, ms, ns, value, traceId, spanId, attributes] of exemplars)
    batch.exemplars.push({ series: series[id - 1], ms, ns, value, traceId, spanId, attributes });
  return batch;
}

/** The batch in a block, with the series of a dictionary. */
export function unpackBatch(bytes: Uint8Array, dictionary: Dictionary): Batch {
  return batchOf(openBlock(bytes, dictionary));
}
