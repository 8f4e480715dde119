import type pg from "pg";
import type { LogRecord } from "@/core/log/model";
import type { Attributes } from "@/core/metric/model";
import type { Span } from "@/core/span/model";
import { DAY } from "@/core/window/lengths";
import { guarded, seenPartitions } from "../database/partitions";
import { registerResources, resourceHash } from "../registry/registry";

/** Spans and log records, in partitions of a day. */

const TABLES = ["span", "log_record"] as const;
export type RecordTable = (typeof TABLES)[number];

/** For how long records are kept where nobody said otherwise, days and ms. */
const DEFAULT_DAYS = 3;
export const DEFAULT_RECORDS = DEFAULT_DAYS * DAY;
const SETTING = "recordDays";
/** Partitions are created this far ahead. */
const AHEAD = 3 * DAY;

/** For how long records are kept, ms. */
export async function recordsKept(pool: pg.Pool): Promise<number> {
  const { rows } = await pool.query<{ value: unknown }>("SELECT value FROM setting WHERE name = $1", [SETTING]);
  const days = Number(rows[0]?.value ?? DEFAULT_DAYS);
  return (days >= 1 && days <= 90 ? days : DEFAULT_DAYS) * DAY;
}

function nameOf(table: RecordTable, from: number): string {
  return `${table}_${new Date(from).toISOString().slice(0, 10).replaceAll("-", "")}`;
}

/** Creates the partitions that records from these times on need, where they are missing. Unix ms. */
export async function ensureRecordPartitions(
  pool: pg.Pool,
  table: RecordTable,
  times: Iterable<number>,
): Promise<void> {
  const known = seenPartitions(pool);
  for (const day of new Set(Array.from(times, (time) => Math.floor(time / DAY)))) {
    const name = nameOf(table, day * DAY);
    if (known.has(name)) continue;
    await guarded(pool, async (client) => {
      const range = `FROM (${day * DAY}) TO (${(day + 1) * DAY})`;
      await client.query(`CREATE TABLE IF NOT EXISTS "${name}" PARTITION OF ${table} FOR VALUES ${range}`);
    });
    known.add(name);
  }
}

/** Creates the partitions of the coming days and drops those that are too old. @returns how many went */
export async function keepRecords(pool: pg.Pool, now: number): Promise<number> {
  const oldest = now - (await recordsKept(pool)) - DAY;
  let dropped = 0;
  for (const table of TABLES) {
    const days = Array.from({ length: AHEAD / DAY + 1 }, (_, i) => now + i * DAY);
    await ensureRecordPartitions(pool, table, days);
    const { rows } = await pool.query<{ name: string }>(
      "SELECT c.relname AS name FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid WHERE i.inhparent = $1::regclass",
      [table],
    );
    for (const { name } of rows) {
      const [, year, month, day] = /_(\d{4})(\d\d)(\d\d)$/.exec(name) ?? [];
      if (!year || Date.UTC(Number(year), Number(month) - 1, Number(day)) >= Math.floor(oldest / DAY) * DAY) continue;
      seenPartitions(pool).delete(name);
      await guarded(pool, async (client) => {
        await client.query(`DROP TABLE IF EXISTS "${name}"`);
      });
      dropped++;
    }
  }
  return dropped;
}

/** Ids of resources that this process has met, by their hash. */
const ids = new WeakMap<pg.Pool, Map<string, number>>();
const MAX_IDS = 50_000;

/** Forgets the ids of resources: some may be gone. */
export function forgetResourceIds(pool: pg.Pool): void {
  ids.delete(pool);
}

/** The ids of resources, registered where they were not known. */
export async function resourceIds(pool: pg.Pool, resources: Iterable<Attributes>): Promise<Map<Attributes, number>> {
  let known = ids.get(pool);
  if (!known || known.size > MAX_IDS) {
    known = new Map();
    ids.set(pool, known);
  }
  const hashes = new Map<Attributes, string>();
  const unregistered = new Map<string, Attributes>();
  for (const resource of new Set(resources)) {
    const hash = resourceHash(resource);
    hashes.set(resource, hash);
    if (!known.has(hash)) unregistered.set(hash, resource);
  }
  if (unregistered.size > 0) for (const [hash, id] of await registerResources(pool, unregistered)) known.set(hash, id);
  return new Map([...hashes].map(([resource, hash]) => [resource, known.get(hash)!]));
}

function column<T, V>(all: readonly T[], pick: (one: T) => V): V[] {
  return all.map(pick);
}

/** Writes spans inside the transaction of a connection; one that is there already stays as it is. */
export async function writeSpans(
  client: pg.PoolClient,
  spans: readonly Span[],
  idOf: ReadonlyMap<Attributes, number>,
): Promise<void> {
  if (spans.length === 0) return;
  await client.query(
    `INSERT INTO span (t, ns, took, trace_id, span_id, parent_id, resource_id, scope_name, scope_version, name, kind,
       status, status_message, state, flags, attributes, events, links, dropped)
     SELECT * FROM unnest($1::bigint[], $2::int[], $3::bigint[], $4::text[], $5::text[], $6::text[], $7::int[],
       $8::text[], $9::text[], $10::text[], $11::text[], $12::text[], $13::text[], $14::text[], $15::bigint[],
       $16::jsonb[], $17::jsonb[], $18::jsonb[], $19::jsonb[])
     ON CONFLICT DO NOTHING`,
    [
      column(spans, ({ ms }) => ms),
      column(spans, ({ ns }) => ns),
      column(spans, ({ took }) => Math.round(took)),
      column(spans, ({ traceId }) => traceId),
      column(spans, ({ spanId }) => spanId),
      column(spans, ({ parentId }) => parentId),
      column(spans, ({ resource }) => idOf.get(resource)),
      column(spans, ({ scope }) => scope.name),
      column(spans, ({ scope }) => scope.version),
      column(spans, ({ name }) => name),
      column(spans, ({ kind }) => kind),
      column(spans, ({ status }) => status),
      column(spans, ({ statusMessage }) => statusMessage),
      column(spans, ({ state }) => state),
      column(spans, ({ flags }) => flags),
      column(spans, ({ attributes }) => JSON.stringify(attributes)),
      column(spans, ({ events }) => JSON.stringify(events)),
      column(spans, ({ links }) => JSON.stringify(links)),
      column(spans, ({ dropped }) => JSON.stringify(dropped)),
    ],
  );
}

/** Writes log records inside the transaction of a connection. They have no id: one that two requests bring is there twice. */
export async function writeLogs(
  client: pg.PoolClient,
  records: readonly LogRecord[],
  idOf: ReadonlyMap<Attributes, number>,
): Promise<void> {
  if (records.length === 0) return;
  await client.query(
    `INSERT INTO log_record (t, ns, observed, observed_ns, severity, severity_text, body, trace_id, span_id, flags,
       event_name, resource_id, scope_name, scope_version, attributes, dropped)
     SELECT * FROM unnest($1::bigint[], $2::int[], $3::bigint[], $4::int[], $5::smallint[], $6::text[], $7::jsonb[],
       $8::text[], $9::text[], $10::bigint[], $11::text[], $12::int[], $13::text[], $14::text[], $15::jsonb[],
       $16::int[])`,
    [
      column(records, ({ ms }) => ms),
      column(records, ({ ns }) => ns),
      column(records, ({ observedMs }) => observedMs),
      column(records, ({ observedNs }) => observedNs),
      column(records, ({ severity }) => Math.min(Math.max(severity, 0), 24)),
      column(records, ({ severityText }) => severityText),
      column(records, ({ body }) => JSON.stringify(body)),
      column(records, ({ traceId }) => traceId),
      column(records, ({ spanId }) => spanId),
      column(records, ({ flags }) => flags),
      column(records, ({ eventName }) => eventName),
      column(records, ({ resource }) => idOf.get(resource)),
      column(records, ({ scope }) => scope.name),
      column(records, ({ scope }) => scope.version),
      column(records, ({ attributes }) => JSON.stringify(attributes)),
      column(records, ({ droppedAttributes }) => droppedAttributes),
    ],
  );
}
