import { promisify } from "node:util";
import { deflateRaw, inflateRaw } from "node:zlib";
import type pg from "pg";
import type { LogRecord } from "@/core/log/model";
import type { Batch } from "@/core/otlp/batch/batch";
import type { Signal } from "@/core/otlp/signals";
import { packBatch } from "@/core/pipeline/block";
import type { Span } from "@/core/span/model";
import { MINUTE } from "@/core/window/lengths";

/** Arrivals of the last minutes, as they came in. */

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);
/** For how long arrivals are kept, ms. */
const KEPT = 3 * MINUTE;
/** Points that are given out. */
const MAX_POINTS = 60_000;
const MAX_RECORDS = 10_000;

/** Arrivals of one stretch of time. */
export interface ArrivalSample {
  span: number;
  seen: number;
  batch: Batch;
}

/** Spans or log records of one stretch of time. */
export interface RecordSample {
  signal: "traces" | "logs";
  span: number;
  seen: number;
  records: (Span | LogRecord)[];
}

async function write(
  pool: pg.Pool,
  {
    signal,
    span,
    seen,
    points,
    bytes,
  }: { signal: Signal; span: number; seen: number; points: number; bytes: Uint8Array },
): Promise<void> {
  const now = Date.now();
  await pool.query(
    "INSERT INTO arrival_sample (signal, at, span, seen, points, body) VALUES ($1, $2, $3, $4, $5, $6)",
    [signal, now, Math.round(span), seen, points, await deflate(bytes, { level: 1 })],
  );
  await pool.query("DELETE FROM arrival_sample WHERE at < $1", [now - KEPT]);
}

export async function writeSample(pool: pg.Pool, { span, seen, batch }: ArrivalSample): Promise<void> {
  await write(pool, { signal: "metrics", span, seen, points: batch.points, bytes: packBatch(batch) });
}

export async function writeRecordSample(pool: pg.Pool, { signal, span, seen, records }: RecordSample): Promise<void> {
  await write(pool, { signal, span, seen, points: records.length, bytes: Buffer.from(JSON.stringify(records)) });
}

/** What the records of a signal are. */
interface Records {
  traces: Span;
  logs: LogRecord;
}

/** The newest records of a signal, oldest first, and how many came in that time. */
export async function readRecordSample<S extends keyof Records>(
  pool: pg.Pool,
  signal: S,
): Promise<{ seen: number; records: Records[S][] }> {
  const { rows } = await pool.query<{ seen: number; points: number; body: Buffer }>(
    "SELECT seen, points, body FROM arrival_sample WHERE signal = $1 AND at >= $2 ORDER BY id DESC",
    [signal, Date.now() - KEPT],
  );
  const answer = { seen: 0, records: [] as Records[S][] };
  for (const { seen, points, body } of rows) {
    if (answer.records.length > 0 && answer.records.length + points > MAX_RECORDS) break;
    answer.seen += seen;
    answer.records.unshift(...(JSON.parse((await inflate(body)).toString("utf8")) as Records[S][]));
  }
  return answer;
}

/** The newest arrivals, oldest first; `span`: how long it took them to come, ms, whatever times they bear. */
export async function readSample(
  pool: pg.Pool,
): Promise<{ seen: number; points: number; span: number; blocks: Uint8Array[] }> {
  const { rows } = await pool.query<{ at: string; span: number; seen: number; points: number; body: Buffer }>(
    "SELECT at, span, seen, points, body FROM arrival_sample WHERE signal = 'metrics' AND at >= $1 ORDER BY id DESC",
    [Date.now() - KEPT],
  );
  const answer = { seen: 0, points: 0, span: 0, blocks: [] as Uint8Array[] };
  for (const { at, span, seen, points, body } of rows) {
    if (answer.points > 0 && answer.points + points > MAX_POINTS) break;
    answer.span = Math.max(answer.span, Number(rows[0].at) - Number(at) + span);
    answer.seen += seen;
    answer.points += points;
    answer.blocks.unshift(await inflate(body));
  }
  return answer;
}
