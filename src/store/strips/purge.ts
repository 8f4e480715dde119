import { desc, eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { PurgeCount, PurgeEntry, PurgeRequest } from "@/core/api/purge";
import type { PointSet } from "@/core/metric/model";
import { decodeStrip, takeRows } from "@/core/strip/strip";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { transaction } from "../database/connect";
import { isDamage } from "../database/contentError";
import { METRIC_LOCK } from "../database/locks";
import { HOURS, MINUTES, RAW, RESOLUTIONS, type Resolution } from "../database/partitions";
import type { BackgroundJob } from "../jobs/job";
import { labelSql } from "../registry/labelSql";
import { purge } from "../schema";
import { reopen } from "./merge";
import { deleteStrips, listStrips, makeStrip, readPayloads, type StripNote, writeStrips } from "./strips";

/**
 * Deleting data on purpose. A request is put on record first; upkeep then works through it day by day, a transaction
 * each, and goes on where it was after a kill. Points of a cumulative counter that go leave its running count as it is:
 * what it rose meanwhile shows between the points before and after.
 */

/** Which points go. */
interface Scope {
  metricIds: number[];
  /** null: those of all series. */
  series: ReadonlySet<number> | null;
  /** (after, until], Unix ms. */
  after: number;
  until: number;
}

async function scopeOf(client: pg.Pool | pg.PoolClient, request: PurgeRequest): Promise<Scope> {
  const metrics = await client.query<{ id: number }>("SELECT id FROM metric WHERE name = $1", [request.metric]);
  const metricIds = metrics.rows.map(({ id }) => id);
  const after = request.from === undefined ? Number.NEGATIVE_INFINITY : Math.floor(request.from / MINUTE) * MINUTE;
  const until = request.to === undefined ? Number.POSITIVE_INFINITY : Math.ceil(request.to / MINUTE) * MINUTE;
  if (!request.attribute) return { metricIds, series: null, after, until };
  const { name, value } = request.attribute;
  const { rows } = await client.query<{ id: string }>(
    `SELECT s.id FROM series s JOIN resource r ON r.id = s.resource_id
     WHERE s.metric_id = ANY($1::int[]) AND (${labelSql("$2::text")}) #>> '{}' = $3`,
    [metricIds, name, value],
  );
  return { metricIds, series: new Set(rows.map(({ id }) => Number(id))), after, until };
}

function goes({ series, after, until }: Scope, set: PointSet, row: number): boolean {
  if (series && !series.has(set.series[row])) return false;
  const ms = set.timeMs[row];
  const beyond = ms > until || (ms === until && set.timeNs[row] > 0);
  return !beyond && (ms > after || (ms === after && set.timeNs[row] > 0));
}

/** The days (their numbers) in which strips of the scope begin, oldest first. */
async function daysOf(client: pg.Pool | pg.PoolClient, { metricIds, after, until }: Scope): Promise<number[]> {
  const { rows } = await client.query<{ day: number }>(
    `SELECT DISTINCT floor(t_from::numeric / ${DAY})::int AS day FROM strip
     WHERE metric_id = ANY($1::int[]) AND t_to >= $2 AND t_from <= $3 ORDER BY 1`,
    [metricIds, Number.isFinite(after) ? after : 0, Number.isFinite(until) ? until : Number.MAX_SAFE_INTEGER],
  );
  return rows.map(({ day }) => day);
}

/** The strips that begin on a day and may hold points of the scope. */
async function stripsOf(client: pg.PoolClient, scope: Scope, metricId: number, day: number): Promise<StripNote[]> {
  const result: StripNote[] = [];
  for (const resolution of RESOLUTIONS) {
    const span = { metricIds: [metricId], resolution, from: day * DAY, to: (day + 1) * DAY - 1 };
    const listed = await listStrips(client, span);
    result.push(...listed.filter(({ from, to }) => from >= day * DAY && to >= scope.after && from <= scope.until));
  }
  return result;
}

/** A strip with the rows of each of its sets that go. */
interface Cut {
  note: StripNote;
  sets: PointSet[];
  going: number[][];
  size: number;
}

/** The points of a strip; null where it cannot be read. */
function readable(payload: Uint8Array): PointSet[] | null {
  try {
    return decodeStrip(payload);
  } catch (error) {
    if (!isDamage(error)) throw error;
    return null;
  }
}

/** Whether all that a strip holds is in the scope. */
function wholly({ series, after, until }: Scope, { from, to }: StripNote): boolean {
  return series === null && from > after && to <= until;
}

async function cutsOf(client: pg.PoolClient, scope: Scope, metricId: number, day: number): Promise<Cut[]> {
  const notes = await stripsOf(client, scope, metricId, day);
  const payloads = await readPayloads(client, notes);
  const cuts = notes.map((note): Cut => {
    const payload = payloads.get(note.id);
    const sets = payload ? readable(payload) : [];
    // What cannot be read goes where all of it was asked for: nobody can tell its parts.
    if (!sets) return { note, sets: [], going: wholly(scope, note) ? [[0]] : [], size: note.size };
    const going = sets.map((set) => Array.from({ length: set.count }, (_, i) => i).filter((i) => goes(scope, set, i)));
    return { note, sets, going, size: note.size };
  });
  return cuts.filter(({ going }) => going.some((rows) => rows.length > 0));
}

/**
 * What a request would delete now. Decodes all strips of its days: work for a thread of its own.
 *
 * @param stillWanted called for each day; throws where nobody waits any more
 */
export async function previewPurge(
  client: pg.PoolClient,
  request: PurgeRequest,
  stillWanted: () => void,
): Promise<PurgeCount> {
  const scope = await scopeOf(client, request);
  const rows: Record<Resolution, number> = { [RAW]: 0, [MINUTES]: 0, [HOURS]: 0 };
  const series = new Set<number>();
  let first = Number.POSITIVE_INFINITY;
  let last = Number.NEGATIVE_INFINITY;
  const days = await daysOf(client, scope);
  for (const metricId of scope.metricIds) {
    for (const day of days) {
      stillWanted();
      const cuts = await cutsOf(client, scope, metricId, day);
      for (const { note, sets, going } of cuts) {
        sets.forEach((set, i) => {
          rows[note.resolution] += going[i].length;
          for (const row of going[i]) {
            series.add(set.series[row]);
            first = Math.min(first, set.timeMs[row]);
            last = Math.max(last, set.timeMs[row]);
          }
        });
      }
    }
  }
  return {
    raw: rows[RAW],
    minutes: rows[MINUTES],
    hours: rows[HOURS],
    series: series.size,
    first: series.size > 0 ? first : null,
    last: series.size > 0 ? last : null,
  };
}

/** Puts a purge on record; upkeep begins with it shortly. @returns its id */
export async function requestPurge(pool: pg.Pool, request: PurgeRequest, who: string): Promise<number> {
  const [{ id }] = await drizzle(pool)
    .insert(purge)
    .values({ at: Date.now(), who, what: request, points: 0, bytes: 0 })
    .returning({ id: purge.id });
  return id;
}

/** The purges on record, newest first. */
export function listPurges(pool: pg.Pool): Promise<PurgeEntry[]> {
  return drizzle(pool)
    .select({
      id: purge.id,
      at: purge.at,
      who: purge.who,
      what: purge.what,
      points: purge.points,
      bytes: purge.bytes,
      finishedAt: purge.finishedAt,
    })
    .from(purge)
    .orderBy(desc(purge.id))
    .limit(200);
}

/** Whether a bound cuts through an hour of a day whose hours can be made anew from minutes. */
async function cutsHours(
  client: pg.PoolClient,
  { after, until }: Scope,
  metricId: number,
  day: number,
): Promise<boolean> {
  const inside = (bound: number) => Math.floor(bound / DAY) === day && bound % HOUR !== 0;
  if (!inside(after) && !inside(until)) return false;
  const span = { metricIds: [metricId], resolution: MINUTES, from: day * DAY, to: (day + 1) * DAY - 1 } as const;
  return (await listStrips(client, span)).length > 0;
}

async function purgeDay(pool: pg.Pool, id: number, scope: Scope, day: number): Promise<void> {
  await transaction(pool, async (client) => {
    let points = 0;
    let bytes = 0;
    for (const metricId of scope.metricIds) {
      await client.query("SELECT pg_advisory_xact_lock($1, $2)", [METRIC_LOCK, metricId]);
      if (await cutsHours(client, scope, metricId, day)) await reopen(client, metricId, day * DAY, []);
      const cuts = await cutsOf(client, scope, metricId, day);
      const left = cuts.flatMap(({ note, sets, going }) => {
        const kept = sets.map((set, i) => {
          const out = new Set(going[i]);
          const rows = Array.from({ length: set.count }, (_, row) => row).filter((row) => !out.has(row));
          return takeRows(set, Int32Array.from(rows));
        });
        points += going.reduce((sum, rows) => sum + rows.length, 0);
        const some = kept.filter(({ count }) => count > 0);
        return some.length > 0 ? [makeStrip(metricId, some, note.level, note.arrived, note.resolution)] : [];
      });
      bytes += cuts.reduce((sum, { size }) => sum + size, 0) - left.reduce((sum, one) => sum + one.payload.length, 0);
      await deleteStrips(
        client,
        cuts.map(({ note }) => note),
      );
      await writeStrips(client, left);
    }
    await drizzle(client)
      .update(purge)
      .set({ points: sql`${purge.points} + ${points}`, bytes: sql`${purge.bytes} + ${bytes}`, doneDay: day })
      .where(eq(purge.id, id));
  });
}

async function deleteExemplars(pool: pg.Pool, { metricIds, series, after, until }: Scope): Promise<void> {
  await pool.query(
    `DELETE FROM exemplar WHERE metric_id = ANY($1::int[]) AND ms > $2 AND ms <= $3
     AND ($4::bigint[] IS NULL OR series_id = ANY($4::bigint[]))`,
    [
      metricIds,
      Number.isFinite(after) ? after : -1,
      Number.isFinite(until) ? until : Number.MAX_SAFE_INTEGER,
      series ? [...series] : null,
    ],
  );
}

/** Works on the purges on record that are not finished. */
export const PURGING: BackgroundJob = {
  name: "purging",
  does: "delete what was purged",
  every: 2000,
  isDue: async (pool) => (await pool.query("SELECT 1 FROM purge WHERE finished_at IS NULL LIMIT 1")).rows.length > 0,
  pass: async (pool, _, stopped) => {
    const waiting = await drizzle(pool).select().from(purge).where(sql`${purge.finishedAt} IS NULL`).orderBy(purge.id);
    let done = 0;
    for (const { id, what, doneDay } of waiting) {
      const scope = await scopeOf(pool, what);
      for (const day of await daysOf(pool, scope)) {
        if (stopped()) break;
        if (doneDay === null || day > doneDay) await purgeDay(pool, id, scope, day);
      }
      if (stopped()) break;
      await deleteExemplars(pool, scope);
      await drizzle(pool).update(purge).set({ finishedAt: Date.now() }).where(eq(purge.id, id));
      done++;
    }
    const left = waiting.slice(done);
    return { done, backlog: left.length, waitingSince: left[0]?.at ?? null };
  },
};
