import { pipeline } from "node:stream/promises";
import type pg from "pg";
import { from as copyFrom, to as copyTo } from "pg-copy-streams";
import type { PointSet } from "@/core/metric/model";
import { encodeStrip, takeRows } from "@/core/strip/strip";
import { decodeCopy, encodeCopy } from "./copyBinary";

/**
 * The table of strips. Levels: 0 fresh (one commit), 1 gathered (many commits), 2 merged (30 minutes), 3 merged (2 hours).
 * Resolution 0 is raw. A strip never crosses midnight UTC, and raw strips stand in a partition per day.
 */

export const DAY = 86400_000;
export const RAW = 0;

/** A strip to be written. */
export interface FreshStrip {
  metricId: number;
  level: number;
  /** Place in the order of arrival; null takes the next. */
  arrived: number | null;
  from: number;
  to: number;
  seriesCount: number;
  pointCount: number;
  payload: Uint8Array;
}

/** A strip as it is stored. */
export interface StoredStrip {
  id: number;
  arrived: number;
  from: number;
  to: number;
  payload: Uint8Array;
}

/** Encodes sets of one metric, none of which crosses midnight, as one strip. */
export function makeStrip(
  metricId: number,
  sets: readonly PointSet[],
  level: number,
  arrived: number | null,
): FreshStrip {
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  const series = new Set<number>();
  let pointCount = 0;
  for (const set of sets) {
    pointCount += set.count;
    for (let i = 0; i < set.count; i++) {
      series.add(set.series[i]);
      if (set.timeMs[i] < from) from = set.timeMs[i];
      if (set.timeMs[i] > to) to = set.timeMs[i];
    }
  }
  return { metricId, level, arrived, from, to, seriesCount: series.size, pointCount, payload: encodeStrip(sets) };
}

/** Splits sets at multiples of `span` ms; the map's keys are the spans' starts. */
export function splitBySpan(sets: readonly PointSet[], span: number): Map<number, PointSet[]> {
  const result = new Map<number, PointSet[]>();
  const add = (start: number, set: PointSet) => {
    const found = result.get(start);
    if (found) found.push(set);
    else result.set(start, [set]);
  };
  for (const set of sets) {
    const rows = new Map<number, number[]>();
    for (let i = 0; i < set.count; i++) {
      const start = Math.floor(set.timeMs[i] / span) * span;
      const found = rows.get(start);
      if (found) found.push(i);
      else rows.set(start, [i]);
    }
    if (rows.size === 1) add(rows.keys().next().value!, set);
    else for (const [start, found] of rows) add(start, takeRows(set, Int32Array.from(found)));
  }
  return result;
}

const readyDays = new WeakMap<pg.Pool, Set<number>>();

/** Creates the day partitions that strips from these times on need, where they are missing. */
export async function ensureDays(pool: pg.Pool, times: Iterable<number>): Promise<void> {
  let ready = readyDays.get(pool);
  if (!ready) {
    ready = new Set();
    readyDays.set(pool, ready);
  }
  for (const time of times) {
    const day = Math.floor(time / DAY);
    if (ready.has(day)) continue;
    const name = `strip_raw_${new Date(day * DAY).toISOString().slice(0, 10).replaceAll("-", "")}`;
    const client = await pool.connect();
    try {
      await client.query("SELECT pg_advisory_lock(7433002)");
      await client.query(
        `CREATE TABLE IF NOT EXISTS "${name}" PARTITION OF strip_raw FOR VALUES FROM (${day * DAY}) TO (${(day + 1) * DAY})`,
      );
    } finally {
      await client.query("SELECT pg_advisory_unlock(7433002)").catch(() => {});
      client.release();
    }
    ready.add(day);
  }
}

/** Writes strips on a connection, inside whatever transaction it is in. Their days must be ready. */
export async function writeStrips(client: pg.PoolClient, strips: readonly FreshStrip[]): Promise<void> {
  for (const own of [true, false]) {
    const some = strips.filter(({ arrived }) => (arrived === null) === own);
    if (some.length === 0) continue;
    const columns = `metric_id, resolution, level, ${own ? "" : "arrived, "}t_from, t_to, series_count, point_count, payload`;
    const rows = some.map((strip) => [
      { type: "int4" as const, value: strip.metricId },
      { type: "int2" as const, value: RAW },
      { type: "int2" as const, value: strip.level },
      ...(own ? [] : [{ type: "int8" as const, value: strip.arrived! }]),
      { type: "int8" as const, value: strip.from },
      { type: "int8" as const, value: strip.to },
      { type: "int4" as const, value: strip.seriesCount },
      { type: "int4" as const, value: strip.pointCount },
      { type: "bytea" as const, value: strip.payload },
    ]);
    const stream = client.query(copyFrom(`COPY strip (${columns}) FROM STDIN (FORMAT binary)`));
    await pipeline([encodeCopy(rows)], stream);
  }
}

/** Reads the raw strips of metrics that touch [from, to], in one snapshot, with their metric's id. */
export async function readStrips(
  client: pg.PoolClient,
  metricIds: readonly number[],
  from: number,
  to: number,
): Promise<(StoredStrip & { metricId: number })[]> {
  if (metricIds.length === 0) return [];
  const ids = metricIds.map((id) => Math.trunc(id)).join(",");
  const low = Math.floor(from);
  const high = Math.ceil(to);
  const sql = `COPY (SELECT metric_id, id, arrived, t_from, t_to, payload FROM strip
    WHERE metric_id IN (${ids}) AND resolution = ${RAW}
      AND t_from >= ${Math.floor(low / DAY) * DAY} AND t_from <= ${high} AND t_to >= ${low}
    ORDER BY metric_id, t_from) TO STDOUT (FORMAT binary)`;
  const chunks: Buffer[] = [];
  for await (const chunk of client.query(copyTo(sql))) chunks.push(chunk as Buffer);
  return decodeCopy(Buffer.concat(chunks)).map(([metricId, id, arrived, tFrom, tTo, payload]) => ({
    metricId: metricId.readInt32BE(0),
    id: Number(id.readBigInt64BE(0)),
    arrived: Number(arrived.readBigInt64BE(0)),
    from: Number(tFrom.readBigInt64BE(0)),
    to: Number(tTo.readBigInt64BE(0)),
    payload,
  }));
}
