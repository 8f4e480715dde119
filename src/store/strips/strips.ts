import { pipeline } from "node:stream/promises";
import type pg from "pg";
import { from as copyFrom, to as copyTo } from "pg-copy-streams";
import type { PointSet } from "@/core/metric/model";
import { encodeStrip, takeRows, takeRun } from "@/core/strip/strip";
import { DAY } from "@/core/window/lengths";
import { isMissingPartition } from "../database/contentError";
import { decodeCopy, encodeCopy } from "../database/copyBinary";
import { forgetPartitions, HOURS, MINUTES, RAW, RESOLUTIONS, type Resolution } from "../database/partitions";

/**
 * The table of strips. Levels: 0 fresh (one commit), 1 gathered (many commits), 2 merged (30 minutes, or a day of hours),
 * 3 merged for good (2 hours of points or of minutes, 16 days of hours), 4 a day of minutes. A strip never crosses midnight
 * UTC, but for the longest of hours.
 */

/** A strip to be written. */
export interface FreshStrip {
  metricId: number;
  resolution: Resolution;
  level: number;
  /** Place in the order of arrival; null takes the next. */
  arrived: number | null;
  from: number;
  to: number;
  seriesCount: number;
  pointCount: number;
  payload: Uint8Array;
}

/** Encodes sets of one metric, none of which crosses midnight, as one strip. */
export function makeStrip(
  metricId: number,
  sets: readonly PointSet[],
  level: number,
  arrived: number | null,
  resolution: Resolution = RAW,
): FreshStrip {
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  const series = new Set<number>();
  let pointCount = 0;
  for (const set of sets) {
    pointCount += set.count;
    let before = Number.NaN;
    for (let i = 0; i < set.count; i++) {
      if (set.series[i] !== before) series.add(set.series[i]);
      before = set.series[i];
      if (set.timeMs[i] < from) from = set.timeMs[i];
      if (set.timeMs[i] > to) to = set.timeMs[i];
    }
  }
  const seriesCount = series.size;
  return { metricId, resolution, level, arrived, from, to, seriesCount, pointCount, payload: encodeStrip(sets) };
}

/** The rows that stand between pairs of bounds. */
function rowsOf(bounds: readonly number[]): Int32Array {
  const rows: number[] = [];
  for (let i = 0; i < bounds.length; i += 2) for (let row = bounds[i]; row < bounds[i + 1]; row++) rows.push(row);
  return Int32Array.from(rows);
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
    /** Bounds of runs of rows in one span, by its start: of points in their order, one each. */
    const runs = new Map<number, number[]>();
    for (let from = 0, to = 0; from < set.count; from = to) {
      const start = Math.floor(set.timeMs[from] / span) * span;
      do to++;
      while (to < set.count && set.timeMs[to] >= start && set.timeMs[to] < start + span);
      const found = runs.get(start);
      if (found) found.push(from, to);
      else runs.set(start, [from, to]);
    }
    for (const [start, bounds] of runs) {
      if (runs.size === 1) add(start, set);
      else if (bounds.length === 2) add(start, takeRun(set, bounds[0], bounds[1]));
      else add(start, takeRows(set, rowsOf(bounds)));
    }
  }
  return result;
}

/** Writes strips on a connection, inside whatever transaction it is in. Their partitions must be ready. */
export async function writeStrips(client: pg.PoolClient, strips: readonly FreshStrip[]): Promise<void> {
  for (const own of [true, false]) {
    const some = strips.filter(({ arrived }) => (arrived === null) === own);
    if (some.length === 0) continue;
    const columns = `metric_id, resolution, level, ${own ? "" : "arrived, "}t_from, t_to, series_count, point_count, head_size, size, payload`;
    const rows = some.map((strip) => [
      { type: "int4" as const, value: strip.metricId },
      { type: "int2" as const, value: strip.resolution },
      { type: "int2" as const, value: strip.level },
      ...(own ? [] : [{ type: "int8" as const, value: strip.arrived! }]),
      { type: "int8" as const, value: strip.from },
      { type: "int8" as const, value: strip.to },
      { type: "int4" as const, value: strip.seriesCount },
      { type: "int4" as const, value: strip.pointCount },
      { type: "int4" as const, value: headSize(strip.payload) },
      { type: "int4" as const, value: strip.payload.length },
      { type: "bytea" as const, value: strip.payload },
    ]);
    const stream = client.query(copyFrom(`COPY strip (${columns}) FROM STDIN (FORMAT binary)`));
    try {
      await pipeline([encodeCopy(rows)], stream);
    } catch (error) {
      // Whoever tries again looks anew which partitions there are.
      if (isMissingPartition(error)) forgetPartitions();
      throw error;
    }
  }
}

/** What is known of a stored strip without its payload. */
export interface StripNote {
  id: number;
  metricId: number;
  resolution: Resolution;
  level: number;
  arrived: number;
  from: number;
  to: number;
  seriesCount: number;
  pointCount: number;
  headSize: number;
  size: number;
}

/** Which strips to list. Times in Unix ms, both included. */
export interface Listing {
  metricIds: readonly number[];
  resolution: Resolution;
  from: number;
  to: number;
  /** Only strips below this level. */
  below?: number;
}

/** How far before its last point a strip of a resolution may begin, ms. */
const LONGEST: Record<Resolution, number> = { [RAW]: DAY, [MINUTES]: DAY, [HOURS]: 16 * DAY };

/** Lists strips that touch a span, oldest first. */
export async function listStrips(
  client: pg.Pool | pg.PoolClient,
  { metricIds, resolution, from, to, below }: Listing,
): Promise<StripNote[]> {
  const { rows } = await client.query<Record<string, string>>(
    `SELECT id, metric_id, level, arrived, t_from, t_to, series_count, point_count, head_size, size
     FROM strip WHERE metric_id = ANY($1::int[]) AND resolution = ${resolution}
       AND t_from >= $2 AND t_from <= $3 AND t_to >= $4 ${below === undefined ? "" : `AND level < ${below}`}
     ORDER BY t_from, id`,
    [metricIds, Math.floor(from) - LONGEST[resolution], Math.ceil(to), Math.floor(from)],
  );
  return rows.map((row) => ({
    id: Number(row.id),
    metricId: Number(row.metric_id),
    resolution,
    level: Number(row.level),
    arrived: Number(row.arrived),
    from: Number(row.t_from),
    to: Number(row.t_to),
    seriesCount: Number(row.series_count),
    pointCount: Number(row.point_count),
    headSize: Number(row.head_size),
    size: Number(row.size),
  }));
}

/** Where the bodies of a payload begin: the size of its head. */
export function headSize(payload: Uint8Array): number {
  return new DataView(payload.buffer, payload.byteOffset).getUint32(2, true);
}

/** A run of bytes of a strip's payload. */
export interface Piece {
  note: StripNote;
  at: number;
  size: number;
}

async function copyOut(client: pg.PoolClient, sql: string): Promise<Buffer[][]> {
  const chunks: Buffer[] = [];
  for await (const chunk of client.query(copyTo(`COPY (${sql}) TO STDOUT (FORMAT binary)`)))
    chunks.push(chunk as Buffer);
  return decodeCopy(Buffer.concat(chunks));
}

/** A condition that leads to these strips by the index, in few partitions. */
function amongThese(notes: readonly StripNote[]): string {
  const metrics = [...new Set(notes.map(({ metricId }) => metricId))].join(",");
  const from = notes.reduce((least, note) => Math.min(least, note.from), Number.POSITIVE_INFINITY);
  const to = notes.reduce((most, note) => Math.max(most, note.from), Number.NEGATIVE_INFINITY);
  return `s.metric_id IN (${metrics}) AND s.resolution = ${notes[0].resolution} AND s.t_from BETWEEN ${from} AND ${to}`;
}

/** The whole payloads of strips, by id. */
export async function readPayloads(
  client: pg.PoolClient,
  notes: readonly StripNote[],
): Promise<Map<number, Uint8Array>> {
  const result = new Map<number, Uint8Array>();
  for (const resolution of RESOLUTIONS) {
    const some = notes.filter((note) => note.resolution === resolution);
    if (some.length === 0) continue;
    const ids = some.map(({ id }) => id).join(",");
    const rows = await copyOut(
      client,
      `SELECT s.id, s.payload FROM strip s WHERE ${amongThese(some)} AND s.id = ANY('{${ids}}'::bigint[])`,
    );
    for (const [id, payload] of rows) result.set(Number(id.readBigInt64BE(0)), payload);
  }
  return result;
}

/** Runs of bytes out of payloads, in the order asked; the database reads no more of a payload than that. */
export async function readPieces(client: pg.PoolClient, pieces: readonly Piece[]): Promise<Uint8Array[]> {
  const result = new Array<Uint8Array>(pieces.length);
  for (const resolution of RESOLUTIONS) {
    const some = pieces
      .map((piece, place) => ({ piece, place }))
      .filter((one) => one.piece.note.resolution === resolution);
    if (some.length === 0) continue;
    const list = (pick: (one: (typeof some)[number]) => number) => `'{${some.map(pick).join(",")}}'`;
    const rows = await copyOut(
      client,
      `SELECT w.place, substr(s.payload, w.at + 1, w.size)
       FROM unnest(${list(({ piece }) => piece.note.id)}::bigint[], ${list(({ piece }) => piece.at)}::int[],
         ${list(({ piece }) => piece.size)}::int[], ${list(({ place }) => place)}::int[]) AS w(id, at, size, place)
       JOIN strip s ON s.id = w.id WHERE ${amongThese(some.map(({ piece }) => piece.note))}`,
    );
    for (const [place, bytes] of rows) result[place.readInt32BE(0)] = bytes;
  }
  return result;
}

/** Deletes strips inside the transaction of a connection. @throws Error where another process changed one of them */
export async function deleteStrips(client: pg.PoolClient, notes: readonly StripNote[]): Promise<void> {
  for (const resolution of RESOLUTIONS) {
    const some = notes.filter((note) => note.resolution === resolution);
    if (some.length === 0) continue;
    const { rowCount } = await client.query(
      `DELETE FROM strip s WHERE ${amongThese(some)} AND s.id = ANY($1::bigint[])`,
      [some.map(({ id }) => id)],
    );
    if (rowCount !== some.length) throw new Error(`${rowCount} of ${some.length} strips were still there to delete`);
  }
}
