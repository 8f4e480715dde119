import type pg from "pg";
import type { LogRecord } from "@/core/log/model";
import { Batch } from "@/core/otlp/batch";
import type { Span } from "@/core/span/model";
import { packExports, type Queues } from "./exports";
import { ensureRecordPartitions, resourceIds, writeLogs, writeSpans } from "./records";
import { type Undecided, writeUndecided } from "./undecided";
import { writeWaiting } from "./waiting";

/** What the pipeline took aside of batches, made ready so that writing it takes little time. */

/** @returns how to write it inside the transaction of a connection */
export async function prepareAside(
  pool: pg.Pool,
  queues: Queues,
  batches: readonly Batch[],
): Promise<(client: pg.PoolClient) => Promise<void>> {
  const asides = batches.flatMap(({ aside }) => aside ?? []);
  if (asides.length === 0) return async () => {};
  const now = Date.now();
  const waiting = new Map<string, { version: number; step: string; batch: Batch }>();
  const undecided = new Map<number, Undecided[]>();
  const spans: Span[] = [];
  const records: LogRecord[] = [];
  for (const aside of asides) {
    for (const { step, batch } of aside.waiting) {
      const key = `${aside.version} ${step}`;
      const known = waiting.get(key) ?? { version: aside.version, step, batch: new Batch() };
      known.batch.append(batch);
      waiting.set(key, known);
    }
    undecided.set(aside.version, [...(undecided.get(aside.version) ?? []), ...aside.undecided]);
    spans.push(...aside.spans);
    records.push(...aside.records);
  }
  const ids = await resourceIds(
    pool,
    [...spans, ...records].map(({ resource }) => resource),
  );
  const days = (all: readonly { ms: number }[]) => all.map(({ ms }) => ms);
  await ensureRecordPartitions(pool, "span", days(spans));
  await ensureRecordPartitions(pool, "log_record", days(records));
  const packed = await packExports(batches);
  if (packed.length > 0) await queues.look(now);
  return async (client) => {
    for (const { version, step, batch } of waiting.values()) await writeWaiting(client, version, step, batch);
    for (const [version, all] of undecided) await writeUndecided(client, version, all, now);
    await writeSpans(client, spans, ids);
    await writeLogs(client, records, ids);
    await queues.write(client, packed, now);
  };
}
