import type pg from "pg";
import type { MetricIdentity, SeriesIdentity } from "@/core/metric/model";
import { type Dictionary, type KnownSeries, metricKey } from "@/core/otlp/dictionary";
import { DAY } from "@/core/window/lengths";

import { identityHash } from "../registry/registry";

/**
 * Series whose points wait at steps, by numbers. They may never be stored themselves, so they are named apart from the
 * registry, anew each day, and forgotten once nothing can wait any more that names them.
 */

/** Days for which a name is kept: no point waits longer. */
const KEPT = 3;
const CHUNK = 5000;

/** Numbers of series that this process has met today. */
export class BufferedSeries {
  private ids = new WeakMap<KnownSeries, number>();
  private day = 0;

  constructor(private readonly pool: pg.Pool) {}

  /** Gives every series a number, and keeps it. @param now Unix ms */
  async name(all: Iterable<KnownSeries>, now: number): Promise<void> {
    const today = Math.floor(now / DAY);
    if (today !== this.day) {
      this.day = today;
      this.ids = new WeakMap();
    }
    const unregistered: KnownSeries[] = [];
    const seen = new Set<KnownSeries>();
    for (const series of all) {
      if (seen.has(series) || this.ids.has(series)) continue;
      seen.add(series);
      unregistered.push(series);
    }
    for (let from = 0; from < unregistered.length; from += CHUNK)
      await this.register(unregistered.slice(from, from + CHUNK));
  }

  /** The number of a series that was named. */
  idOf(series: KnownSeries): number {
    return this.ids.get(series) ?? 0;
  }

  private async register(all: readonly KnownSeries[]): Promise<void> {
    const hashes = all.map(({ metric, key }) => identityHash(`${metricKey(metric.identity)}\u0001${key}`));
    const { rows } = await this.pool.query<{ id: string; place: string }>(
      `WITH w AS (
         SELECT * FROM unnest($2::text[], $3::jsonb[], $4::jsonb[]) WITH ORDINALITY AS w(h, m, i, place)
       ), added AS (
         INSERT INTO lane_member (day, hash, metric, identity) SELECT $1, decode(h, 'hex'), m, i FROM w
         ON CONFLICT (day, hash) DO UPDATE SET day = excluded.day RETURNING id, hash
       )
       SELECT added.id, w.place FROM w JOIN added ON added.hash = decode(w.h, 'hex')`,
      [
        this.day,
        hashes,
        all.map(({ metric: { identity, description } }) => JSON.stringify({ identity, description })),
        all.map(({ identity }) => JSON.stringify(identity)),
      ],
    );
    for (const { id, place } of rows) this.ids.set(all[Number(place) - 1], Number(id));
  }
}

/** The series of numbers, in the terms of a dictionary; what is known already is not asked for again. */
export async function readBufferedSeries(
  client: pg.Pool | pg.PoolClient,
  wanted: Iterable<number>,
  known: Map<number, KnownSeries>,
  dictionary: Dictionary,
): Promise<void> {
  const unregistered = [...new Set(wanted)].filter((id) => !known.has(id));
  for (let from = 0; from < unregistered.length; from += CHUNK) {
    const { rows } = await client.query<{
      id: string;
      metric: { identity: MetricIdentity; description: string };
      identity: SeriesIdentity;
    }>("SELECT id, metric, identity FROM lane_member WHERE id = ANY($1::bigint[])", [
      unregistered.slice(from, from + CHUNK),
    ]);
    for (const { id, metric, identity } of rows)
      known.set(Number(id), dictionary.series(dictionary.metric(metric.identity, metric.description), identity));
  }
}

/** Forgets names that nothing can need any more. */
export async function forgetBufferedSeries(pool: pg.Pool, now: number): Promise<number> {
  const { rowCount } = await pool.query("DELETE FROM lane_member WHERE day < $1", [Math.floor(now / DAY) - KEPT]);
  return rowCount ?? 0;
}
