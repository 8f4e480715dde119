import { promisify } from "node:util";
import { deflateRaw, inflateRaw } from "node:zlib";
import type pg from "pg";
import type { Batch } from "@/core/otlp/batch";
import { packBatch } from "@/core/pipeline/block";

/** Arrivals of the last minutes, as they came in. */

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);
/** For how long arrivals are kept, ms. */
const KEPT = 3 * 60_000;
/** Points that are given out. */
const MOST_POINTS = 60_000;

/** Arrivals of one stretch of time. */
export interface Gathered {
  span: number;
  seen: number;
  batch: Batch;
}

export async function writeSample(pool: pg.Pool, { span, seen, batch }: Gathered): Promise<void> {
  const now = Date.now();
  const body = await deflate(packBatch(batch), { level: 1 });
  await pool.query("INSERT INTO arrival_sample (at, span, seen, points, body) VALUES ($1, $2, $3, $4, $5)", [
    now,
    Math.round(span),
    seen,
    batch.points,
    body,
  ]);
  await pool.query("DELETE FROM arrival_sample WHERE at < $1", [now - KEPT]);
}

/** The newest arrivals, oldest first. */
export async function readSample(pool: pg.Pool): Promise<{ seen: number; points: number; blocks: Uint8Array[] }> {
  const { rows } = await pool.query<{ seen: number; points: number; body: Buffer }>(
    "SELECT seen, points, body FROM arrival_sample WHERE at >= $1 ORDER BY id DESC",
    [Date.now() - KEPT],
  );
  const answer = { seen: 0, points: 0, blocks: [] as Uint8Array[] };
  for (const { seen, points, body } of rows) {
    if (answer.points > 0 && answer.points + points > MOST_POINTS) break;
    answer.seen += seen;
    answer.points += points;
    answer.blocks.unshift(await inflate(body));
  }
  return answer;
}
