import type pg from "pg";
import { Batch } from "@/core/otlp/batch/batch";
import type { Dictionary, KnownSeries } from "@/core/otlp/dictionary";
import { addPoints, openPoints, packPoints } from "@/core/pipeline/block";
import { type BufferedSeries, readBufferedSeries } from "./bufferedSeries";

/** Blocks of points that wait at steps of the pipeline. */

/** A block without its points. Times in Unix ms. */
export interface BufferedNote {
  id: number;
  version: number;
  step: string;
  from: number;
  to: number;
  points: number;
  size: number;
}

/** A batch as a block that is to be written. */
export interface BufferedBlock {
  version: number;
  step: string;
  from: number;
  to: number;
  points: number;
  body: Uint8Array;
}

/** Makes a batch a block; its series are named by then. */
export function makeBuffered(version: number, step: string, batch: Batch, members: BufferedSeries): BufferedBlock {
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  batch.eachTime((_, time) => {
    if (time < from) from = time;
    // A time may lie up to a millisecond behind what it says here.
    if (time + 1 > to) to = time + 1;
  });
  const body = packPoints(batch, (series) => members.idOf(series));
  return { version, step, from, to, points: batch.points, body };
}

/** Writes blocks, inside the transaction of a connection. */
export async function writeBuffered(client: pg.PoolClient, blocks: readonly BufferedBlock[]): Promise<void> {
  for (const { version, step, from, to, points, body } of blocks)
    await client.query(
      "INSERT INTO lane_waiting (version, step, t_from, t_to, points, body) VALUES ($1, $2, $3, $4, $5, $6)",
      [version, step, from, to, points, body],
    );
}

/** All blocks that wait, oldest first. */
export async function listBuffered(pool: pg.Pool | pg.PoolClient): Promise<BufferedNote[]> {
  const { rows } = await pool.query<Omit<BufferedNote, "id"> & { id: string }>(
    `SELECT id, version, step, t_from AS "from", t_to AS "to", points, octet_length(body) AS size
     FROM lane_waiting ORDER BY id LIMIT 100000`,
  );
  return rows.map((row) => ({ ...row, id: Number(row.id) }));
}

/** The points of blocks, together. @param known series by their numbers; what is missing is added */
export async function readBuffered(
  client: pg.Pool | pg.PoolClient,
  ids: readonly number[],
  known: Map<number, KnownSeries>,
  dictionary: Dictionary,
): Promise<Batch> {
  const all = new Batch();
  const { rows } = await client.query<{ body: Buffer }>(
    "SELECT body FROM lane_waiting WHERE id = ANY($1::bigint[]) ORDER BY id",
    [ids],
  );
  const blocks = rows.map(({ body }) => openPoints(body));
  const wanted = new Set<number>();
  for (const { sets, exemplars } of blocks) {
    for (const { series } of sets) for (const id of series) wanted.add(id);
    for (const [id] of exemplars) wanted.add(id);
  }
  await readBufferedSeries(client, wanted, known, dictionary);
  const seriesOf = (id: number) => {
    const series = known.get(id);
    if (!series) throw new Error(`series ${id} waits and has no name any more`);
    return series;
  };
  for (const block of blocks) addPoints(all, block, seriesOf);
  return all;
}

/** Points that wait, by step. */
export async function bufferedCounts(pool: pg.Pool): Promise<{ step: string; points: number }[]> {
  const { rows } = await pool.query<{ step: string; points: string }>(
    "SELECT step, sum(points) AS points FROM lane_waiting GROUP BY step ORDER BY step",
  );
  return rows.map(({ step, points }) => ({ step, points: Number(points) }));
}

/** Deletes blocks inside the transaction of a connection. @throws where another process was at them */
export async function deleteBuffered(client: pg.PoolClient, ids: readonly number[]): Promise<void> {
  const { rowCount } = await client.query("DELETE FROM lane_waiting WHERE id = ANY($1::bigint[])", [ids]);
  if (rowCount !== ids.length) throw new Error(`${rowCount} of ${ids.length} waiting blocks were still there`);
}
