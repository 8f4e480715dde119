import { promisify } from "node:util";
import { deflateRaw, inflateRaw } from "node:zlib";
import type pg from "pg";
import type { ExporterState } from "@/core/api/pipeline";
import type { LogRecord } from "@/core/log/model";
import { Batch, type Outgoing } from "@/core/otlp/batch/batch";
import { itemsOf } from "@/core/otlp/batch/sideOutputs";
import type { Dictionary } from "@/core/otlp/dictionary";
import type { Signal } from "@/core/otlp/signals";
import { packBatch, unpackBatch } from "@/core/pipeline/block";
import type { Span } from "@/core/span/model";

/** The queues of exporters: what was acknowledged and still has to go out. */

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);
const MAX_BYTES = 512 * 1024 * 1024;
/** How long what is known of a queue's size holds, ms. */
const LOOK_EVERY = 1000;
/** What a queue may hold where its exporter does not say, bytes. */
const DEFAULT_MOST = 64e6;

/** Something that is to be queued, packed. */
export interface Packed {
  exporter: string;
  signal: Signal;
  items: number;
  body: Buffer;
}

async function pack(content: Outgoing): Promise<Buffer> {
  const bytes =
    content.signal === "metrics"
      ? packBatch(content.batch)
      : Buffer.from(JSON.stringify(content.signal === "traces" ? content.spans : content.records));
  return deflate(bytes, { level: 1 });
}

/** Puts content of one signal together. */
function together(all: readonly Outgoing[]): Outgoing {
  const [first] = all;
  if (all.length === 1) return first;
  if (first.signal === "metrics") {
    const batch = new Batch();
    for (const one of all) if (one.signal === "metrics") batch.append(one.batch);
    return { signal: "metrics", batch };
  }
  if (first.signal === "traces")
    return { signal: "traces", spans: all.flatMap((one) => (one.signal === "traces" ? [...one.spans] : [])) };
  return { signal: "logs", records: all.flatMap((one) => (one.signal === "logs" ? [...one.records] : [])) };
}

/** Packs what batches have for exporters: a block per exporter and signal. What goes to several is packed once. */
export async function packExports(batches: readonly Batch[]): Promise<Packed[]> {
  const wanted = new Map<string, { exporter: string; signal: Signal; content: Outgoing[] }>();
  for (const { sideOutputs: aside } of batches)
    for (const { exporter, content } of aside?.exports ?? []) {
      const key = `${exporter} ${content.signal}`;
      const known = wanted.get(key) ?? { exporter, signal: content.signal, content: [] };
      wanted.set(key, known);
      known.content.push(content);
    }
  const bodies = new Map<string, Promise<Buffer>>();
  const numbers = new Map<Outgoing | Batch | readonly unknown[], number>();
  const numberOf = (content: Outgoing) => {
    const thing =
      content.signal === "metrics" ? content.batch : content.signal === "traces" ? content.spans : content.records;
    const number = numbers.get(thing) ?? numbers.size;
    numbers.set(thing, number);
    return number;
  };
  return Promise.all(
    [...wanted.values()].map(async ({ exporter, signal, content }) => {
      const key = content.map(numberOf).join();
      const body = bodies.get(key) ?? pack(together(content));
      bodies.set(key, body);
      return { exporter, signal, items: content.reduce((sum, one) => sum + itemsOf(one), 0), body: await body };
    }),
  );
}

/** Knows how full queues are, and writes into those that are not. One per process. */
export class Queues {
  private sizes = new Map<string, number>();
  private limits = new Map<string, number>();
  private lookedAt = 0;

  constructor(private readonly pool: pg.Pool) {}

  /** Looks how full queues are, where that was long ago. */
  async look(now = Date.now()): Promise<void> {
    if (now - this.lookedAt < LOOK_EVERY) return;
    this.lookedAt = now;
    const { rows } = await this.pool.query<{ exporter: string; size: string }>(
      "SELECT exporter, sum(size) AS size FROM export_queue GROUP BY exporter",
    );
    this.sizes = new Map(rows.map(({ exporter, size }) => [exporter, Number(size)]));
    const { rows: live } = await this.pool.query<{ config: { exporters?: { id: string; most?: number }[] } }>(
      "SELECT config FROM pipeline_version ORDER BY id DESC LIMIT 1",
    );
    this.limits = new Map((live[0]?.config.exporters ?? []).map(({ id, most }) => [id, (most ?? 64) * 1e6]));
  }

  /**
   * Queues what there is room for, inside the transaction of a connection; what there is no room for is counted as lost.
   * The limit is looked at once a second, so a queue may run over by what comes meanwhile to other processes.
   */
  async write(client: pg.PoolClient, all: readonly Packed[], now: number): Promise<void> {
    if (all.length === 0) return;
    const fits: Packed[] = [];
    const lost = new Map<string, number>();
    for (const one of all) {
      const size = this.sizes.get(one.exporter) ?? 0;
      if (size >= (this.limits.get(one.exporter) ?? DEFAULT_MOST))
        lost.set(one.exporter, (lost.get(one.exporter) ?? 0) + one.items);
      else {
        fits.push(one);
        this.sizes.set(one.exporter, size + one.body.length);
      }
    }
    if (fits.length > 0)
      await client.query(
        `INSERT INTO export_queue (exporter, signal, at, items, size, body)
         SELECT e, s, $1, n, octet_length(b), b FROM unnest($2::text[], $3::text[], $4::int[], $5::bytea[]) AS w(e, s, n, b)`,
        [
          now,
          fits.map(({ exporter }) => exporter),
          fits.map(({ signal }) => signal),
          fits.map(({ items }) => items),
          fits.map(({ body }) => body),
        ],
      );
    for (const [exporter, items] of [...lost].sort()) await addToStatus(client, exporter, { lost: items });
  }
}

/** Adds to the counts of an exporter. */
export async function addToStatus(
  client: pg.Pool | pg.PoolClient,
  exporter: string,
  { sent = 0, refused = 0, lost = 0 }: { sent?: number; refused?: number; lost?: number },
): Promise<void> {
  await client.query(
    `INSERT INTO exporter_status (exporter, sent, refused, lost) VALUES ($1, $2, $3, $4)
     ON CONFLICT (exporter) DO UPDATE SET sent = exporter_status.sent + excluded.sent,
       refused = exporter_status.refused + excluded.refused, lost = exporter_status.lost + excluded.lost`,
    [exporter, sent, refused, lost],
  );
}

/** A block that waits to go out. */
export interface QueuedBlock {
  id: number;
  signal: Signal;
  at: number;
  items: number;
  body: Buffer;
}

/** The oldest blocks of one signal for an exporter, up to so many items (at least one block). */
export async function oldestBlocks(pool: pg.Pool, exporter: string, most: number): Promise<QueuedBlock[]> {
  const { rows } = await pool.query<{ id: string; signal: Signal; at: string; items: number }>(
    "SELECT id, signal, at, items FROM export_queue WHERE exporter = $1 ORDER BY id LIMIT 500",
    [exporter],
  );
  const chosen: { id: number; signal: Signal; at: number; items: number }[] = [];
  let items = 0;
  for (const row of rows) {
    if (row.signal !== rows[0].signal) continue;
    if (chosen.length > 0 && items + row.items > most) break;
    items += row.items;
    chosen.push({ id: Number(row.id), signal: row.signal, at: Number(row.at), items: row.items });
  }
  if (chosen.length === 0) return [];
  const bodies = await pool.query<{ id: string; body: Buffer }>(
    "SELECT id, body FROM export_queue WHERE id = ANY($1::bigint[])",
    [chosen.map(({ id }) => id)],
  );
  const byId = new Map(bodies.rows.map(({ id, body }) => [Number(id), body]));
  return chosen.flatMap((one) => {
    const body = byId.get(one.id);
    return body ? [{ ...one, body }] : [];
  });
}

/** What blocks hold, together. */
export async function unpackBlocks(blocks: readonly QueuedBlock[], dictionary: Dictionary): Promise<Outgoing> {
  const all = await Promise.all(
    blocks.map(async ({ signal, body }): Promise<Outgoing> => {
      const bytes = await inflate(body, { maxOutputLength: MAX_BYTES });
      if (signal === "metrics") return { signal, batch: unpackBatch(new Uint8Array(bytes), dictionary) };
      const list = JSON.parse(bytes.toString("utf8")) as unknown[];
      return signal === "traces" ? { signal, spans: list as Span[] } : { signal, records: list as LogRecord[] };
    }),
  );
  return together(all);
}

/** Takes blocks out of the queue, inside the transaction of a connection. */
export async function dropBlocks(client: pg.PoolClient, blocks: readonly QueuedBlock[]): Promise<void> {
  const ids = blocks.map(({ id }) => id);
  const { rowCount } = await client.query("DELETE FROM export_queue WHERE id = ANY($1::bigint[])", [ids]);
  if (rowCount !== ids.length) throw new Error(`${rowCount} of ${ids.length} queued blocks were still there`);
}

/** How it goes with exporters. */
export async function exporterStates(pool: pg.Pool): Promise<ExporterState[]> {
  const { rows } = await pool.query<Record<string, string | null>>(
    `SELECT coalesce(q.exporter, s.exporter) AS exporter, coalesce(q.waiting, 0) AS waiting,
       coalesce(q.items, 0) AS items, coalesce(q.bytes, 0) AS bytes, q.oldest, coalesce(s.sent, 0) AS sent,
       coalesce(s.refused, 0) AS refused, coalesce(s.lost, 0) AS lost, s.sent_at, s.failure, s.failed_at, s.retry_at
     FROM (SELECT exporter, count(*) AS waiting, sum(items) AS items, sum(size) AS bytes, min(at) AS oldest
           FROM export_queue GROUP BY exporter) q
     FULL JOIN exporter_status s ON s.exporter = q.exporter ORDER BY 1`,
  );
  const moment = (text: string | null) => (text === null ? null : Number(text));
  return rows.map((row) => ({
    exporter: row.exporter ?? "",
    waiting: Number(row.waiting),
    items: Number(row.items),
    bytes: Number(row.bytes),
    oldestAt: moment(row.oldest),
    sent: Number(row.sent),
    refused: Number(row.refused),
    lost: Number(row.lost),
    sentAt: moment(row.sent_at),
    failure: row.failure,
    failedAt: moment(row.failed_at),
    retryAt: moment(row.retry_at),
  }));
}

/** Notes how the last attempt of an exporter went. Unix ms. */
export async function noteAttempt(
  client: pg.Pool | pg.PoolClient,
  exporter: string,
  now: number,
  failed: { failure: string; retryAt: number } | null,
): Promise<void> {
  await client.query(
    failed
      ? `INSERT INTO exporter_status (exporter, sent, refused, lost, failure, failed_at, retry_at) VALUES ($1, 0, 0, 0, $3, $2, $4)
         ON CONFLICT (exporter) DO UPDATE SET failure = excluded.failure, failed_at = excluded.failed_at, retry_at = excluded.retry_at`
      : `INSERT INTO exporter_status (exporter, sent, refused, lost, sent_at) VALUES ($1, 0, 0, 0, $2)
         ON CONFLICT (exporter) DO UPDATE SET sent_at = excluded.sent_at, failure = NULL, failed_at = NULL, retry_at = NULL`,
    failed ? [exporter, now, failed.failure, failed.retryAt] : [exporter, now],
  );
}

/** What an exporter remembers; null where it remembers nothing. */
export async function readExporterMemory(pool: pg.Pool, exporter: string): Promise<unknown> {
  const { rows } = await pool.query<{ body: Buffer }>("SELECT body FROM exporter_memory WHERE exporter = $1", [
    exporter,
  ]);
  return rows[0] ? JSON.parse((await inflate(rows[0].body)).toString("utf8")) : null;
}

export async function writeExporterMemory(client: pg.PoolClient, exporter: string, memory: unknown): Promise<void> {
  const body = await deflate(JSON.stringify(memory), { level: 1 });
  await client.query(
    `INSERT INTO exporter_memory (exporter, at, body) VALUES ($1, $2, $3)
     ON CONFLICT (exporter) DO UPDATE SET at = excluded.at, body = excluded.body`,
    [exporter, Date.now(), body],
  );
}
