import type pg from "pg";
import type { CostliestQuery } from "@/core/api/store";
import { MINUTE } from "@/core/window/lengths";
import { snapshot, transaction } from "../database/connect";
import { HOURS, MINUTES, RAW } from "../database/partitions";
import { REPORTING } from "../registry/reporting";

/** Who sends a metric, in how many series, and what is stored of it: counted in the background, or now for who must know. */

export interface MetricUse {
  name: string;
  services: string[];
  releases: number;
  series: number;
  seriesNow: number;
  overflows: boolean;
  attributes: string[];
  strips: number;
  points: { raw: number; minutes: number; hours: number };
  bytes: number;
  oldest: number | null;
  newest: number | null;
}

const COLUMNS = `name, services, releases, series, series_now, overflows, attributes, strips, points_raw, points_minutes,
  points_hours, bytes, oldest, newest`;

/** Whose series count as there: of instances that were heard since $1. */
const REPORTS = "SELECT resource_id FROM activity WHERE last_at >= $1";

/** @param only of which metrics, as s ($2); "" for all */
const usedQuery = (only: string) => `
  WITH parts AS (
    SELECT s.metric_id, s.resource_id, count(*)::int AS n, bool_or(s.attributes @> '{"otel.metric.overflow": true}') AS overflows
    FROM series s ${only} GROUP BY 1, 2),
  by_release AS (
    SELECT p.metric_id, r.service, r.release, sum(p.n)::int AS n,
      sum(p.n) FILTER (WHERE p.resource_id IN (${REPORTS}))::int AS n_now, bool_or(p.overflows) AS overflows
    FROM parts p JOIN resource r ON r.id = p.resource_id GROUP BY 1, 2, 3),
  used AS (
    SELECT m.name, array_agg(DISTINCT b.service) AS services, count(DISTINCT (b.service, b.release))::int AS releases,
      sum(b.n) AS series, coalesce(sum(b.n_now), 0) AS series_now, bool_or(b.overflows) AS overflows
    FROM by_release b JOIN metric m ON m.id = b.metric_id GROUP BY m.name),
  keys AS (
    SELECT m.name, array_agg(DISTINCT v.key) AS attributes
    FROM (SELECT DISTINCT metric_id, key FROM known_value s ${only}) v JOIN metric m ON m.id = v.metric_id GROUP BY m.name)
  SELECT name, services, releases, series, series_now, overflows, coalesce(attributes, '{}') AS attributes
  FROM used LEFT JOIN keys USING (name)`;

/** Sums of counts are taken as doubles: exact up to 2^53, and far quicker than PostgreSQL's sums of bigint. */
const points = (resolution: number) => `coalesce(sum(points) FILTER (WHERE resolution = ${resolution}), 0)::bigint`;

/** @param sums a query that gives strips by metric and resolution */
const keptQuery = (sums: string) => `
  SELECT m.name, sum(s.strips)::bigint AS strips, ${points(RAW)} AS points_raw, ${points(MINUTES)} AS points_minutes,
    ${points(HOURS)} AS points_hours, sum(s.bytes)::bigint AS bytes, min(s.oldest) AS oldest, max(s.newest) AS newest
  FROM (${sums}) s JOIN metric m ON m.id = s.metric_id GROUP BY m.name`;

/** What strips come to, by metric: as they are, or as partitions were counted. @param only as s ($2) */
const stripsNow = (only: string) => `SELECT s.metric_id, s.resolution, count(*)::float8 AS strips,
  sum(s.point_count)::float8 AS points, sum(s.size::float8) AS bytes, min(s.t_from) AS oldest, max(s.t_to) AS newest
  FROM strip s ${only} GROUP BY 1, 2`;
const STRIPS_COUNTED = `SELECT metric_id, resolution, sum(strips::float8) AS strips, sum(points::float8) AS points,
  sum(bytes::float8) AS bytes, min(oldest) AS oldest, max(newest) AS newest FROM strip_sum GROUP BY 1, 2`;

/** Numbers come as texts, or, out of JSON, as numbers. */
type Row = Pick<MetricUse, "name" | "services" | "releases" | "overflows" | "attributes"> &
  Record<
    "series" | "series_now" | "strips" | "points_raw" | "points_minutes" | "points_hours" | "bytes",
    string | number
  > &
  Record<"oldest" | "newest", string | number | null>;

function useOf(row: Row): MetricUse {
  const moment = (value: string | number | null) => (value === null ? null : Number(value));
  return {
    name: row.name,
    services: row.services.sort(),
    releases: row.releases,
    series: Number(row.series),
    seriesNow: Number(row.series_now),
    overflows: row.overflows,
    attributes: row.attributes.sort(),
    strips: Number(row.strips),
    points: { raw: Number(row.points_raw), minutes: Number(row.points_minutes), hours: Number(row.points_hours) },
    bytes: Number(row.bytes),
    oldest: moment(row.oldest),
    newest: moment(row.newest),
  };
}

/** Whatever can be asked. */
type Queries = Pick<pg.Pool, "query">;

/** Counted now, of all metrics or of those with some ids. */
async function countUse(client: Queries, now: number, metricIds?: readonly number[]): Promise<MetricUse[]> {
  if (metricIds?.length === 0) return [];
  const only = metricIds ? "WHERE s.metric_id = ANY($2::int[])" : "";
  const { rows } = await client.query<Row>(
    `SELECT name, services, releases, series, series_now, overflows, attributes, coalesce(strips, 0) AS strips,
       coalesce(points_raw, 0) AS points_raw, coalesce(points_minutes, 0) AS points_minutes,
       coalesce(points_hours, 0) AS points_hours, coalesce(bytes, 0) AS bytes, oldest, newest
     FROM (${usedQuery(only)}) u LEFT JOIN (${keptQuery(stripsNow(only))}) k USING (name)`,
    [now - REPORTING, ...(metricIds ? [metricIds] : [])],
  );
  return rows.map(useOf);
}

/**
 * Who sends what and what is stored of it, by the metrics' names: as it was counted last, and of metrics that came since,
 * counted now.
 *
 * @param fresh whether all is to be counted now
 * @param names of which metrics; of all where it is left out
 */
export async function metricUses(
  pool: pg.Pool,
  now: number,
  fresh: boolean,
  names: readonly string[] | null = null,
): Promise<Map<string, MetricUse>> {
  if (fresh) return byName(await countUse(pool, now));
  return snapshot(pool, async (client) => {
    const counted = await client.query<{ all: Row[] | null }>(
      asOneText(`SELECT ${COLUMNS} FROM metric_use WHERE $1::text[] IS NULL OR name = ANY($1)`),
      [names],
    );
    const since = await countUse(client, now, await uncounted(client, names));
    return byName([...(counted.rows[0].all ?? []).map(useOf), ...since]);
  });
}

const byName = (uses: readonly MetricUse[]) => new Map(uses.map((one) => [one.name, one]));

/** Thousands of rows with lists in them take several times as long one by one. */
const asOneText = (query: string) => `SELECT json_agg(u) AS all FROM (${query}) u`;

/** The ids of metrics that came since uses were counted. */
async function uncounted(client: Queries, names: readonly string[] | null = null): Promise<number[]> {
  const { rows } = await client.query<{ id: number }>(
    `SELECT id FROM metric m WHERE ($1::text[] IS NULL OR name = ANY($1))
       AND NOT EXISTS (SELECT FROM metric_use u WHERE u.name = m.name)`,
    [names],
  );
  return rows.map(({ id }) => id);
}

const costliestFirst = (a: MetricUse, b: MetricUse) => b.bytes - a.bytes || (a.name < b.name ? -1 : 1);

/**
 * The metrics that cost most, of those with a text in their names.
 *
 * @param fresh whether all is to be counted now
 * @returns them; how many have the text; how many metrics and series there are
 */
export async function costliestUses(
  pool: pg.Pool,
  now: number,
  { find, rows: most }: CostliestQuery,
  fresh: boolean,
): Promise<{ uses: MetricUse[]; found: number; all: number; series: number }> {
  const text = find.trim().toLowerCase();
  const has = ({ name }: MetricUse) => name.toLowerCase().includes(text);
  const seriesOf = (uses: readonly MetricUse[]) => uses.reduce((sum, { series }) => sum + series, 0);
  const firstOf = (uses: readonly MetricUse[]) => [...uses].sort(costliestFirst).slice(0, most);
  if (fresh) {
    const all = await countUse(pool, now);
    const found = all.filter(has);
    return { uses: firstOf(found), found: found.length, all: all.length, series: seriesOf(all) };
  }
  return snapshot(pool, async (client) => {
    // What is not in the table yet is counted now, and stands among what is.
    const since = await countUse(client, now, await uncounted(client));
    const found = since.filter(has);
    const sums = await client.query<{ all: string; series: string; found: string }>(
      `SELECT count(*) AS all, coalesce(sum(series), 0) AS series, count(*) FILTER (WHERE strpos(lower(name), $1) > 0) AS found
       FROM metric_use`,
      [text],
    );
    const counted = await client.query<{ all: Row[] | null }>(
      asOneText(
        `SELECT ${COLUMNS} FROM metric_use WHERE strpos(lower(name), $1) > 0 ORDER BY bytes DESC, name LIMIT $2`,
      ),
      [text, most],
    );
    const [row] = sums.rows;
    return {
      uses: firstOf([...(counted.rows[0].all ?? []).map(useOf), ...found]),
      found: Number(row.found) + found.length,
      all: Number(row.all) + since.length,
      series: Number(row.series) + seriesOf(since),
    };
  });
}

/**
 * The metrics with most series of instances that report.
 *
 * @param most how many, at most
 * @param without a service whose own metrics are not meant
 * @param fresh whether they are to be counted now
 */
export async function largestMetrics(
  pool: pg.Pool,
  now: number,
  { most, without, fresh }: { most: number; without: string; fresh: boolean },
): Promise<string[]> {
  if (!fresh) {
    const { rows } = await pool.query<{ name: string }>(
      `SELECT name FROM metric_use WHERE series_now > 0 AND services <> ARRAY[$1] ORDER BY series_now DESC, name LIMIT $2`,
      [without, most],
    );
    if (rows.length > 0) return rows.map(({ name }) => name);
  }
  return [...(await metricUses(pool, now, fresh)).values()]
    .filter(({ seriesNow, services }) => seriesNow > 0 && services.some((service) => service !== without))
    .sort((a, b) => b.seriesNow - a.seriesNow || (a.name < b.name ? -1 : 1))
    .slice(0, most)
    .map(({ name }) => name);
}

/** Room for grouping a million series without files, and none of the compiling that costs more than it saves. */
const ROOM = "SET LOCAL work_mem = '96MB'; SET LOCAL jit = off";
/** Ids below the last that are looked at again: of transactions that ended after those of higher ids. */
const OVERLAP = 20_000;

/** Up to where this process counted a store's series, and under which epoch of its registry. */
const counts = new WeakMap<pg.Pool, { last: number; epoch: number; at: number }>();
/** How far the clocks of intakes may be apart, and how long registering may take, ms. */
const CLOCKS = 10 * MINUTE;

/** The metrics whose series are others than when they were counted; null for all. */
async function changedMetrics(pool: pg.Pool, client: pg.PoolClient, now: number): Promise<number[] | null> {
  const { rows } = await client.query<{ last: string | null; epoch: number }>(
    "SELECT (SELECT max(id) FROM series) AS last, (SELECT max(epoch) FROM registry_epoch) AS epoch",
  );
  const [{ epoch }] = rows;
  const last = Number(rows[0].last ?? 0);
  // Where series were taken away, nothing tells of which metrics.
  const counted = counts.get(pool);
  counts.set(pool, { last, epoch, at: now });
  if (epoch !== counted?.epoch) return null;
  const changed = await client.query<{ id: number }>(
    `SELECT id FROM metric WHERE name IN (SELECT m.name FROM metric m WHERE m.id IN (SELECT metric_id FROM series WHERE id > $1 AND first_at > $2))`,
    [counted.last - OVERLAP, counted.at - CLOCKS],
  );
  return changed.rows.map(({ id }) => id);
}

const USED = ["services", "releases", "series", "series_now", "overflows", "attributes"];
const KEPT = ["strips", "points_raw", "points_minutes", "points_hours", "bytes", "oldest", "newest"];
const differs = (names: readonly string[], other: string) =>
  `(${names.map((name) => `u.${name}`).join(", ")}) IS DISTINCT FROM (${names.map((name) => `${other}.${name}`).join(", ")})`;
const taken = (names: readonly string[], other: string) => names.map((name) => `${name} = ${other}.${name}`).join(", ");

/**
 * Counts what changed, and notes what is another than before.
 *
 * @param elsewhere whether strips stand on other servers: then they are counted there
 * @returns of how many metrics it is
 */
export async function sumUses(pool: pg.Pool, now: number, elsewhere: boolean): Promise<number> {
  const since = now - REPORTING;
  try {
    return await transaction(pool, async (client) => {
      await client.query(ROOM);
      const changed = await changedMetrics(pool, client, now);
      const only = changed ? "WHERE s.metric_id = ANY($2::int[])" : "";
      const used = await client.query(
        `WITH now AS MATERIALIZED (${usedQuery(only)})
         INSERT INTO metric_use AS u (name, ${USED.join(", ")}) SELECT name, ${USED.join(", ")} FROM now
         ON CONFLICT (name) DO UPDATE SET ${taken(USED, "excluded")} WHERE ${differs(USED, "excluded")}`,
        [since, ...(changed ? [changed] : [])],
      );
      if (!changed)
        await client.query(
          `DELETE FROM metric_use u WHERE NOT EXISTS (
             SELECT FROM metric m WHERE m.name = u.name AND EXISTS (SELECT FROM series s WHERE s.metric_id = m.id))`,
        );
      // Who reports changes without any new series.
      const reports = await client.query(
        `UPDATE metric_use u SET series_now = n.now FROM (
           SELECT v.name, coalesce(c.now, 0) AS now FROM metric_use v LEFT JOIN (
             SELECT m.name, sum(p.n) AS now FROM (
               SELECT s.metric_id, count(*)::int AS n FROM series s WHERE s.resource_id IN (${REPORTS}) GROUP BY 1) p
             JOIN metric m ON m.id = p.metric_id GROUP BY 1) c USING (name)) n
         WHERE u.name = n.name AND u.series_now <> n.now`,
        [since],
      );
      const kept = await client.query(
        `UPDATE metric_use u SET ${taken(KEPT, "k")} FROM (
           SELECT v.name, coalesce(strips, 0) AS strips, coalesce(points_raw, 0) AS points_raw,
             coalesce(points_minutes, 0) AS points_minutes, coalesce(points_hours, 0) AS points_hours,
             coalesce(bytes, 0) AS bytes, oldest, newest
           FROM (SELECT name FROM metric_use) v LEFT JOIN (${keptQuery(elsewhere ? stripsNow("") : STRIPS_COUNTED)}) k USING (name)) k
         WHERE u.name = k.name AND ${differs(KEPT, "k")}`,
      );
      return (used.rowCount ?? 0) + (reports.rowCount ?? 0) + (kept.rowCount ?? 0);
    });
  } catch (error) {
    counts.delete(pool);
    throw error;
  }
}
