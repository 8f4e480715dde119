import type pg from "pg";
import { FLAG } from "@/core/metric/model";
import type { KnownSeries } from "@/core/otlp/dictionary";
import { amountAt } from "@/core/pipeline/amount";
import type { Base } from "@/core/pipeline/increases";
import { decodeStrip } from "@/core/strip/strip";
import { transaction } from "../database/connect";
import { RAW } from "../database/partitions";
import { identityHash } from "../registry/registry";
import { listStrips, readPayloads } from "../strips/strips";

/** How far back a total may lie, ms. */
const BACK = 900_000;
const CHUNK = 5000;

/** Ids of those of the series that the store has, by id. */
async function known(
  pool: pg.Pool,
  all: readonly KnownSeries[],
): Promise<Map<number, { series: KnownSeries; metric: number }>> {
  const found = new Map<number, { series: KnownSeries; metric: number }>();
  for (let from = 0; from < all.length; from += CHUNK) {
    const some = all.slice(from, from + CHUNK);
    const identities = some.map(({ metric }) => metric.identity);
    const { rows } = await pool.query<{ id: string; metric_id: number; place: string }>(
      `SELECT s.id, s.metric_id, w.place
       FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::boolean[], $6::text[])
         WITH ORDINALITY AS w(name, kind, unit, temporality, monotonic, h, place)
       JOIN metric m ON (m.name, m.kind, m.unit, m.temporality, m.monotonic) =
         (w.name, w.kind, w.unit, w.temporality, w.monotonic)
       JOIN series s ON s.metric_id = m.id AND s.hash = decode(w.h, 'hex')`,
      [
        identities.map(({ name }) => name),
        identities.map(({ kind }) => kind),
        identities.map(({ unit }) => unit),
        identities.map(({ temporality }) => temporality),
        identities.map(({ monotonic }) => monotonic),
        some.map(({ key }) => identityHash(key)),
      ],
    );
    for (const { id, metric_id, place } of rows)
      found.set(Number(id), { series: some[Number(place) - 1], metric: metric_id });
  }
  return found;
}

/**
 * What running totals were when they were last stored before a moment: where a step takes them over, it goes on from there.
 *
 * @param before Unix ms
 */
export async function lastTotals(
  pool: pg.Pool,
  all: readonly KnownSeries[],
  before: number,
): Promise<Map<KnownSeries, Base>> {
  const ids = await known(pool, all);
  const result = new Map<KnownSeries, Base>();
  if (ids.size === 0) return result;
  const metricIds = [...new Set([...ids.values()].map(({ metric }) => metric))];
  await transaction(pool, async (client) => {
    const notes = await listStrips(client, { metricIds, resolution: RAW, from: before - BACK, to: before });
    const payloads = await readPayloads(client, notes);
    for (const payload of payloads.values())
      for (const set of decodeStrip(payload))
        for (let row = 0; row < set.count; row++) {
          const one = ids.get(set.series[row]);
          const time = set.timeMs[row] + set.timeNs[row] / 1e6;
          if (!one || time >= before || set.flags[row] & FLAG.noRecordedValue) continue;
          const known = result.get(one.series);
          if (known && known.time >= time) continue;
          const amount = amountAt(set, row);
          if (amount) result.set(one.series, { start: set.startMs[row] + set.startNs[row] / 1e6, time, amount });
        }
  });
  return result;
}
