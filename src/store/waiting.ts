import { promisify } from "node:util";
import { deflateRaw, inflateRaw } from "node:zlib";
import type pg from "pg";
import { Batch } from "@/core/otlp/batch";
import type { Dictionary } from "@/core/otlp/dictionary";
import { packBatch, unpackBatch } from "@/core/pipeline/block";

/** Blocks of points that wait at steps of the pipeline. */

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);
/** A block may not unpack to more than this. */
const MOST_BYTES = 512 * 1024 * 1024;

/** A block without its points. Times in Unix ms. */
export interface WaitingNote {
  id: number;
  version: number;
  step: string;
  from: number;
  to: number;
  points: number;
  size: number;
}

/** Writes a batch as a block, inside the transaction of a connection. */
export async function writeWaiting(client: pg.PoolClient, version: number, step: string, batch: Batch): Promise<void> {
  if (batch.points === 0) return;
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  batch.eachTime((_, time) => {
    if (time < from) from = time;
    // A time may lie up to a millisecond behind what it says here.
    if (time + 1 > to) to = time + 1;
  });
  const body = await deflate(packBatch(batch), { level: 1 });
  await client.query(
    "INSERT INTO lane_waiting (version, step, t_from, t_to, points, body) VALUES ($1, $2, $3, $4, $5, $6)",
    [version, step, from, to, batch.points, body],
  );
}

/** All blocks that wait, oldest first. */
export async function listWaiting(pool: pg.Pool | pg.PoolClient): Promise<WaitingNote[]> {
  const { rows } = await pool.query<Omit<WaitingNote, "id"> & { id: string }>(
    `SELECT id, version, step, t_from AS "from", t_to AS "to", points, octet_length(body) AS size
     FROM lane_waiting ORDER BY id LIMIT 100000`,
  );
  return rows.map((row) => ({ ...row, id: Number(row.id) }));
}

/** The points of blocks, together. */
export async function readWaiting(
  client: pg.Pool | pg.PoolClient,
  ids: readonly number[],
  dictionary: Dictionary,
): Promise<Batch> {
  const all = new Batch();
  const { rows } = await client.query<{ body: Buffer }>(
    "SELECT body FROM lane_waiting WHERE id = ANY($1::bigint[]) ORDER BY id",
    [ids],
  );
  for (const { body } of rows)
    all.append(unpackBatch(new Uint8Array(await inflate(body, { maxOutputLength: MOST_BYTES })), dictionary));
  return all;
}

/** Deletes blocks inside the transaction of a connection. @throws where another process was at them */
export async function deleteWaiting(client: pg.PoolClient, ids: readonly number[]): Promise<void> {
  const { rowCount } = await client.query("DELETE FROM lane_waiting WHERE id = ANY($1::bigint[])", [ids]);
  if (rowCount !== ids.length) throw new Error(`${rowCount} of ${ids.length} waiting blocks were still there`);
}
