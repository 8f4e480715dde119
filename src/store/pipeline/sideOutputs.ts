import type pg from "pg";
import type { LogRecord } from "@/core/log/model";
import { Batch } from "@/core/otlp/batch/batch";
import type { Span } from "@/core/span/model";
import { packExports, type Queues } from "../exports/exports";
import { ensureRecordPartitions, resourceIds, writeLogs, writeSpans } from "../records/records";
import { makeBuffered, writeBuffered } from "./bufferedPoints";
import type { BufferedSeries } from "./bufferedSeries";
import { type PendingTrace, writePendingTraces } from "./pendingTraces";

/** What the pipeline took aside of batches, made ready so that writing it takes little time. */

/** @returns how to write it inside the transaction of a connection */
export async function prepareSideOutputs(
  pool: pg.Pool,
  queues: Queues,
  members: BufferedSeries,
  batches: readonly Batch[],
): Promise<(client: pg.PoolClient) => Promise<void>> {
  const asides = batches.flatMap(({ sideOutputs: aside }) => aside ?? []);
  if (asides.length === 0) return async () => {};
  const now = Date.now();
  const waiting = new Map<string, { version: number; step: string; batch: Batch; own: boolean }>();
  const undecided = new Map<number, PendingTrace[]>();
  const spans: Span[] = [];
  const records: LogRecord[] = [];
  for (const aside of asides) {
    for (const { step, batch } of aside.waiting) {
      const key = `${aside.version} ${step}`;
      const known = waiting.get(key);
      // One batch is most often all there is, and need not be copied.
      if (!known) waiting.set(key, { version: aside.version, step, batch, own: false });
      else if (known.own) known.batch.append(batch);
      else {
        const both = new Batch();
        both.append(known.batch);
        both.append(batch);
        waiting.set(key, { version: aside.version, step, batch: both, own: true });
      }
    }
    undecided.set(aside.version, [...(undecided.get(aside.version) ?? []), ...aside.undecided]);
    for (const span of aside.spans) spans.push(span);
    for (const record of aside.records) records.push(record);
  }
  const ids = await resourceIds(
    pool,
    [...spans, ...records].map(({ resource }) => resource),
  );
  const days = (all: readonly { ms: number }[]) => all.map(({ ms }) => ms);
  await ensureRecordPartitions(pool, "span", days(spans));
  await ensureRecordPartitions(pool, "log_record", days(records));
  const held = [...waiting.values()].filter(({ batch }) => batch.points > 0);
  for (const { batch } of held) await members.name(batch.series(), now);
  const blocks = held.map(({ version, step, batch }) => makeBuffered(version, step, batch, members));
  const packed = await packExports(batches);
  if (packed.length > 0) await queues.look(now);
  return async (client) => {
    await writeBuffered(client, blocks);
    for (const [version, all] of undecided) await writePendingTraces(client, version, all, now);
    await writeSpans(client, spans, ids);
    await writeLogs(client, records, ids);
    await queues.write(client, packed, now);
  };
}
