import type pg from "pg";
import type { Attributes } from "@/core/metric/model";
import { HOUR, MINUTE } from "@/core/window/lengths";
import { resourceHash } from "./registry";

/** When each resource was heard by our clock, how much came of it, and how often it usually reports. */

const WRITE_EVERY = 1500;
/** Requests closer together than this belong to one report, ms. */
const TOGETHER = 400;
/** Gaps that say how often a resource reports. */
const GAPS = 9;
const FEWEST_GAPS = 2;
/** How often it is written that records came of a resource, ms. */
const RECORDS_EVERY = 10_000;
/** What was not heard for this long is forgotten by the process, ms: instances come and go. */
const FORGET_AFTER = HOUR;

interface Hearing {
  lastAt: number;
  gaps: number[];
  /** Points by minute (its number), not yet written. */
  points: Map<number, number>;
  firstAt: number;
}

/** Median of a few numbers. */
function middle(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[sorted.length >> 1];
}

/** Collects what a process hears and writes it now and then. */
export class ActivityLog {
  private readonly known = new Map<string, Hearing>();
  private readonly hashes = new WeakMap<Attributes, string>();
  /** When records of resources without points were noted last, and those that are still to be written. */
  private readonly recordsAt = new Map<string, number>();
  private readonly waitingRecords = new Map<string, number>();
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly pool: pg.Pool) {}

  /** Notes that points of a resource became durable. */
  note(resource: Attributes, points: number, now: number): void {
    let hash = this.hashes.get(resource);
    if (hash === undefined) {
      hash = resourceHash(resource);
      this.hashes.set(resource, hash);
    }
    let one = this.known.get(hash);
    if (!one) {
      one = { lastAt: now, firstAt: now, gaps: [], points: new Map() };
      this.known.set(hash, one);
    }
    const gap = now - one.lastAt;
    if (gap > TOGETHER) {
      one.gaps.push(gap);
      if (one.gaps.length > GAPS) one.gaps.shift();
    }
    if (gap > TOGETHER || gap < 0) one.lastAt = now;
    const minute = Math.floor(now / MINUTE);
    one.points.set(minute, (one.points.get(minute) ?? 0) + points);
    this.timer ??= setTimeout(() => void this.write().catch(() => {}), WRITE_EVERY).unref();
  }

  /**
   * Notes that spans or log records of a resource became durable. They come whenever something happens, so where points
   * come as well, these alone say how often it reports.
   */
  noteRecords(resource: Attributes, now: number): void {
    const hash = this.hashes.get(resource) ?? resourceHash(resource);
    this.hashes.set(resource, hash);
    const seen = this.recordsAt.get(hash) ?? 0;
    if (this.known.has(hash) || now - seen < RECORDS_EVERY) return;
    this.recordsAt.set(hash, now);
    this.waitingRecords.set(hash, now);
    this.timer ??= setTimeout(() => void this.write().catch(() => {}), WRITE_EVERY).unref();
  }

  /** Writes what was heard since the last time. Where the store is away, it stays for the next. */
  async write(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const waiting = [...this.known].filter(([, { points }]) => points.size > 0);
    const minutes = [...new Set(waiting.flatMap(([, { points }]) => [...points.keys()]))].sort((a, b) => a - b);
    for (const minute of minutes) {
      const rows = waiting
        .filter(([, { points }]) => points.has(minute))
        .sort(([a], [b]) => (a < b ? -1 : 1))
        .map(([hash, one]) => ({ hash, one, count: one.points.get(minute)! }));
      for (const { one } of rows) one.points.delete(minute);
      try {
        await writeMinute(this.pool, minute, rows);
      } catch (error) {
        for (const { one, count } of rows) one.points.set(minute, (one.points.get(minute) ?? 0) + count);
        throw error;
      }
    }
    await this.writeRecords();
    const now = Date.now();
    for (const [hash, at] of this.recordsAt) if (now - at > FORGET_AFTER) this.recordsAt.delete(hash);
    for (const [hash, { lastAt, points }] of this.known)
      if (points.size === 0 && now - lastAt > FORGET_AFTER) this.known.delete(hash);
  }

  private async writeRecords(): Promise<void> {
    const rows = [...this.waitingRecords].sort(([a], [b]) => (a < b ? -1 : 1));
    if (rows.length === 0) return;
    this.waitingRecords.clear();
    await this.pool.query(
      `INSERT INTO activity (resource_id, first_at, last_at, points, minute, minute_points, before_points)
       SELECT r.id, w.at, w.at, 0, w.at / ${MINUTE}, 0, 0 FROM unnest($1::text[], $2::bigint[]) AS w(hash, at)
       JOIN resource r ON r.hash = decode(w.hash, 'hex')
       ON CONFLICT (resource_id) DO UPDATE SET last_at = greatest(activity.last_at, excluded.last_at)`,
      [rows.map(([hash]) => hash), rows.map(([, at]) => at)],
    );
  }
}

async function writeMinute(
  pool: pg.Pool,
  minute: number,
  rows: readonly { hash: string; one: Hearing; count: number }[],
): Promise<void> {
  await pool.query(
    `INSERT INTO activity (resource_id, first_at, last_at, points, minute, minute_points, before_points, every)
     SELECT r.id, w.first_at, w.last_at, w.points, $5, w.points, 0, w.every
     FROM unnest($1::text[], $2::bigint[], $3::bigint[], $4::int[], $6::int[]) AS w(hash, first_at, last_at, points, every)
     JOIN resource r ON r.hash = decode(w.hash, 'hex')
     ON CONFLICT (resource_id) DO UPDATE SET
       first_at = least(activity.first_at, excluded.first_at),
       last_at = greatest(activity.last_at, excluded.last_at),
       points = activity.points + excluded.points,
       before_points = CASE
         WHEN excluded.minute = activity.minute THEN activity.before_points
         WHEN excluded.minute = activity.minute + 1 THEN activity.minute_points
         WHEN excluded.minute = activity.minute - 1 THEN activity.before_points + excluded.minute_points
         WHEN excluded.minute > activity.minute THEN 0 ELSE activity.before_points END,
       minute_points = CASE
         WHEN excluded.minute = activity.minute THEN activity.minute_points + excluded.minute_points
         WHEN excluded.minute > activity.minute THEN excluded.minute_points ELSE activity.minute_points END,
       minute = greatest(activity.minute, excluded.minute),
       every = coalesce(excluded.every, activity.every)`,
    [
      rows.map(({ hash }) => hash),
      rows.map(({ one }) => one.firstAt),
      rows.map(({ one }) => one.lastAt),
      rows.map(({ count }) => count),
      minute,
      rows.map(({ one }) => (one.gaps.length < FEWEST_GAPS ? null : Math.round(middle(one.gaps)))),
    ],
  );
}

/** Writes down spans in which resources were heard, as they are known from elsewhere. */
export async function writeActivity(
  client: pg.Pool | pg.PoolClient,
  spans: readonly { resource: Attributes; first: number; last: number; points: number }[],
): Promise<void> {
  const hashes = spans.map(({ resource }) => resourceHash(resource));
  await client.query(
    `INSERT INTO activity (resource_id, first_at, last_at, points, minute, minute_points, before_points)
     SELECT r.id, min(w.first_at), max(w.last_at), sum(w.points), max(w.last_at) / 60000, 0, 0
     FROM unnest($1::text[], $2::bigint[], $3::bigint[], $4::bigint[]) AS w(hash, first_at, last_at, points)
     JOIN resource r ON r.hash = decode(w.hash, 'hex') GROUP BY r.id
     ON CONFLICT (resource_id) DO UPDATE SET first_at = least(activity.first_at, excluded.first_at),
       last_at = greatest(activity.last_at, excluded.last_at), points = activity.points + excluded.points`,
    [hashes, spans.map(({ first }) => first), spans.map(({ last }) => last), spans.map(({ points }) => points)],
  );
  // Their series are as old as they are, and their metrics as old as the oldest of them.
  await client.query(
    `UPDATE series s SET first_at = 0 FROM resource r
     WHERE r.id = s.resource_id AND r.hash IN (SELECT decode(h, 'hex') FROM unnest($1::text[]) AS w(h))`,
    [hashes],
  );
  await client.query(
    `UPDATE metric m SET first_at = least(m.first_at, o.first_at) FROM (
       SELECT s.metric_id, min(a.first_at) AS first_at FROM series s
       JOIN resource r ON r.id = s.resource_id JOIN activity a ON a.resource_id = r.id
       WHERE r.hash IN (SELECT decode(h, 'hex') FROM unnest($1::text[]) AS w(h)) GROUP BY 1) o
     WHERE m.id = o.metric_id`,
    [hashes],
  );
}
