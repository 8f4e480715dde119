import type pg from "pg";
import { openStrip, readEntry } from "@/core/strip/strip";
import { DAY, HOUR } from "@/core/window/lengths";
import { transaction } from "../database/connect";
import { HOURS, MINUTES, RAW } from "../database/partitions";
import type { BackgroundJob } from "../jobs/job";
import { LIMIT_REMEMBERS } from "../pipeline/pipeline";
import { KEEP } from "../strips/retention";
import { listStrips, readPayloads, readPieces, type StripNote } from "../strips/strips";
import { raiseEpoch } from "./registryEpoch";

/**
 * Takes series, resources, values and activity away that nothing stored refers to any more: of instances that came and
 * went and whose points are past their retention.
 */

/** Of what was purged, who was not heard for so long is looked at, ms. */
const SILENT = DAY;
/** For how long after a purge its metrics are looked at, ms. */
const AFTER_PURGE = 2 * DAY;
/** Series that go in one transaction. */
const AT_ONCE = 20_000;
/** Strips whose heads are looked into together. */
const TOGETHER = 200;
const LONG_AGO = 0;

/** The series that strips hold points of. Of those sorted by series, heads say it; the others are read. */
async function seriesIn(client: pg.PoolClient, notes: readonly StripNote[], found: Set<number>): Promise<void> {
  for (let from = 0; from < notes.length; from += TOGETHER) {
    const some = notes.slice(from, from + TOGETHER);
    const heads = await readPieces(
      client,
      some.map((note) => ({ note, at: 0, size: note.headSize })),
    );
    const across: StripNote[] = [];
    some.forEach((note, i) => {
      const room = new Uint8Array(note.size + 8);
      room.set(heads[i]);
      const { series } = openStrip(room.subarray(0, note.size));
      for (const id of series) found.add(id);
      if (series.includes(0)) across.push(note);
    });
    for (const payload of (await readPayloads(client, across)).values()) {
      const strip = openStrip(payload);
      for (let entry = 0; entry < strip.entries; entry++)
        if (strip.series[entry] === 0) for (const id of readEntry(strip, entry, "buckets").series) found.add(id);
    }
  }
}

async function stripsOf(client: pg.PoolClient, metricId: number, after: number): Promise<StripNote[]> {
  const all: StripNote[] = [];
  for (const resolution of [RAW, MINUTES, HOURS] as const) {
    const span = { metricIds: [metricId], resolution, from: LONG_AGO, to: Number.MAX_SAFE_INTEGER };
    for (const note of await listStrips(client, span)) if (note.arrived > after) all.push(note);
  }
  return all;
}

async function lastArrival(client: pg.PoolClient): Promise<number> {
  const { rows } = await client.query<{ last: string | null }>("SELECT max(arrived) AS last FROM strip");
  return Number(rows[0].last ?? 0);
}

/** Series of a metric whose sender fell silent and of which nothing is stored. */
async function forgotten(client: pg.PoolClient, metricId: number, before: number): Promise<number[]> {
  const { rows } = await client.query<{ id: string }>(
    `SELECT s.id FROM series s LEFT JOIN activity h ON h.resource_id = s.resource_id
     WHERE s.metric_id = $1 AND greatest(coalesce(h.last_at, 0), s.first_at) < $2
       AND NOT EXISTS (SELECT FROM exemplar e WHERE e.series_id = s.id)
     ORDER BY s.id LIMIT ${AT_ONCE}`,
    [metricId, before],
  );
  if (rows.length === 0) return [];
  const used = new Set<number>();
  await seriesIn(client, await stripsOf(client, metricId, Number.NEGATIVE_INFINITY), used);
  return rows.map(({ id }) => Number(id)).filter((id) => !used.has(id));
}

/** Deletes series of a metric, but for those that were written meanwhile. @returns how many went */
async function deleteSeries(pool: pg.Pool, metricId: number, ids: readonly number[], since: number): Promise<number> {
  return transaction(pool, async (client) => {
    await raiseEpoch(client);
    const used = new Set<number>();
    await seriesIn(client, await stripsOf(client, metricId, since), used);
    const { rowCount } = await client.query("DELETE FROM series WHERE id = ANY($1::bigint[])", [
      ids.filter((id) => !used.has(id)),
    ]);
    await client.query(
      `DELETE FROM known_value k WHERE k.metric_id = $1 AND k.value !~ '^[\\[{]' AND (k.key, k.value) NOT IN (
         SELECT a.key, left(a.value, 500) FROM series s, jsonb_each_text(s.attributes) AS a(key, value)
         WHERE s.metric_id = $1)`,
      [metricId],
    );
    return rowCount ?? 0;
  });
}

/** Deletes resources, with when they were heard, that no series, span or log record names. @returns how many went */
async function deleteResources(pool: pg.Pool, before: number): Promise<number> {
  const unused = `NOT EXISTS (SELECT FROM series s WHERE s.resource_id = r.id)
    AND NOT EXISTS (SELECT FROM span p WHERE p.resource_id = r.id)
    AND NOT EXISTS (SELECT FROM log_record l WHERE l.resource_id = r.id)`;
  const { rows } = await pool.query<{ id: number }>(
    `SELECT r.id FROM resource r JOIN activity h ON h.resource_id = r.id WHERE h.last_at < $1 AND ${unused}
     ORDER BY r.id LIMIT ${AT_ONCE}`,
    [before],
  );
  if (rows.length === 0) return 0;
  const ids = rows.map(({ id }) => id);
  return transaction(pool, async (client) => {
    await raiseEpoch(client);
    const left = await client.query<{ id: number }>(
      `SELECT r.id FROM resource r WHERE r.id = ANY($1::int[]) AND ${unused}`,
      [ids],
    );
    const going = left.rows.map(({ id }) => id);
    await client.query("DELETE FROM activity WHERE resource_id = ANY($1::int[])", [going]);
    await client.query("DELETE FROM resource WHERE id = ANY($1::int[])", [going]);
    return going.length;
  });
}

/** A metric that may have series of which nothing is stored any more: of senders that were last heard before a moment. */
interface Suspect {
  metric_id: number;
  before: string;
}

const LAST = "greatest(coalesce(h.last_at, 0), s.first_at)";

/**
 * Metrics with series whose senders fell silent longer ago than anything of them is kept; and those of which something was
 * purged lately, with a day of silence. Others have something stored of every series: looking would be in vain.
 */
async function suspects(pool: pg.Pool, now: number): Promise<Suspect[]> {
  const [raw, minutes, hours] = [KEEP[RAW], KEEP[MINUTES], KEEP[HOURS]];
  const { rows } = await pool.query<Suspect>(
    `WITH kept AS (
       SELECT id, name, $1::bigint - ${DAY} - greatest(coalesce(keep_raw, ${raw}), coalesce(keep_minute, ${minutes}), coalesce(keep_hour, ${hours})) AS before
       FROM metric)
     SELECT metric_id, max(before) AS before FROM (
       SELECT k.id AS metric_id, k.before FROM kept k WHERE EXISTS (
         SELECT FROM series s LEFT JOIN activity h ON h.resource_id = s.resource_id WHERE s.metric_id = k.id AND ${LAST} < k.before)
       UNION ALL
       SELECT k.id, $1::bigint - ${SILENT} FROM kept k
       WHERE k.name IN (SELECT what->>'metric' FROM purge WHERE finished_at > $1::bigint - ${AFTER_PURGE})) AS found
     GROUP BY 1 ORDER BY 1`,
    [now],
  );
  return rows;
}

/** Metrics with series whose senders fell silent before a moment. */
async function silentSince(pool: pg.Pool, before: number): Promise<Suspect[]> {
  const { rows } = await pool.query<Suspect>(
    `SELECT DISTINCT s.metric_id, $1::bigint AS before FROM series s LEFT JOIN activity h ON h.resource_id = s.resource_id
     WHERE ${LAST} < $1 ORDER BY 1`,
    [before],
  );
  return rows;
}

/**
 * Takes away what nothing stored refers to.
 *
 * @param silent for how long its sender must have been silent, ms; null: longer than it is kept
 */
export function forgetting(silent: number | null = null): BackgroundJob {
  return {
    name: "registry",
    does: "forget series that nothing refers to",
    every: HOUR,
    looksAtAll: true,
    pass: async (pool, now, stopped) => {
      let done = 0;
      for (const { metric_id, before } of silent === null
        ? await suspects(pool, now)
        : await silentSince(pool, now - silent)) {
        if (stopped()) break;
        const found = await transaction(pool, async (client) => ({
          since: await lastArrival(client),
          ids: await forgotten(client, metric_id, Number(before)),
        }));
        if (found.ids.length > 0) done += await deleteSeries(pool, metric_id, found.ids, found.since);
      }
      if (!stopped()) done += await deleteResources(pool, now - (silent ?? SILENT));
      await pool.query("DELETE FROM limit_seen WHERE at < $1", [now - LIMIT_REMEMBERS]);
      return { done, backlog: 0, waitingSince: null };
    },
  };
}
