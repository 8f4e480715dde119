import type pg from "pg";
import type { Growth } from "@/core/api/pipeline";
import { largestMetrics } from "../summary/metricUse";
import { OWN_SERVICE } from "./catalogue";
import { REPORTING } from "./reporting";

/**
 * Which metrics have most series, and what made them grow. A series counts as there at a moment where it was known by then
 * and its instance reported within the ten minutes before it, so an instance that started anew adds nothing.
 */

const MAX_METRICS = 8;
const MAX_RELEASES = 3;
const MAX_ATTRIBUTES = 3;
const MAX_EXAMPLES = 3;
/** Series whose attributes are looked into. */
const MAX_SERIES = 200_000;

const THERE = `SELECT m.name, r.service, r.release, s.attributes, h.last_at >= $1 AS now,
    CASE WHEN s.first_at > 0 THEN s.first_at ELSE h.first_at END <= $2 AND h.last_at >= $3 AS before
  FROM series s JOIN metric m ON m.id = s.metric_id JOIN resource r ON r.id = s.resource_id
  JOIN activity h ON h.resource_id = r.id
  WHERE h.last_at >= least($1::bigint, $3::bigint) AND r.service <> '${OWN_SERVICE}'`;

/**
 * @param now and `since`: the two moments, Unix ms; `fresh`: whether it is to be counted now which have most
 */
export async function seriesGrowth(pool: pg.Pool, now: number, since: number, fresh: boolean): Promise<Growth[]> {
  const most = await largestMetrics(pool, now, { most: MAX_METRICS, without: OWN_SERVICE, fresh });
  const moments = [now - REPORTING, since, since - REPORTING];
  const releases = await pool.query<{ name: string; service: string; release: string; now: string; before: string }>(
    `SELECT name, service, release, count(*) FILTER (WHERE now) AS now, count(*) FILTER (WHERE before) AS before
     FROM (${THERE} AND m.name = ANY($4::text[])) AS there GROUP BY 1, 2, 3`,
    [...moments, most],
  );
  const names = [...new Set(releases.rows.map(({ name }) => name))];
  const values = await pool.query<{
    name: string;
    key: string;
    value: string;
    series: string;
    all: string;
    place: string;
  }>(
    `WITH there AS (${THERE} AND m.name = ANY($4::text[]) LIMIT ${MAX_SERIES}),
     found AS (
       SELECT name, key, value, count(*) FILTER (WHERE now) AS series
       FROM there, LATERAL jsonb_each_text(attributes) GROUP BY 1, 2, 3
       HAVING NOT bool_or(before) AND bool_or(now))
     SELECT * FROM (
       SELECT *, count(*) OVER (PARTITION BY name, key) AS all,
         row_number() OVER (PARTITION BY name, key ORDER BY series DESC, value) AS place FROM found) AS placed
     WHERE place <= ${MAX_EXAMPLES} ORDER BY name, key, place`,
    [...moments, names],
  );
  const growth = names.map((metric): Growth => {
    const own = releases.rows
      .filter(({ name }) => name === metric)
      .map(({ service, release, now: there, before }) => ({
        service,
        release,
        now: Number(there),
        before: Number(before),
      }));
    const keys = new Map<string, Growth["attributes"][number]>();
    for (const { key, value, series, all } of values.rows.filter(({ name }) => name === metric)) {
      const known = keys.get(key) ?? { name: key, values: Number(all), examples: [] };
      known.examples.push({ value, series: Number(series) });
      keys.set(key, known);
    }
    return {
      metric,
      now: own.reduce((sum, one) => sum + one.now, 0),
      before: own.reduce((sum, one) => sum + one.before, 0),
      releases: own
        .filter((one) => one.now > 0)
        .sort((a, b) => b.now - b.before - (a.now - a.before) || b.now - a.now)
        .slice(0, MAX_RELEASES),
      attributes: [...keys.values()].sort((a, b) => b.values - a.values).slice(0, MAX_ATTRIBUTES),
    };
  });
  return growth.sort((a, b) => b.now - a.now || (a.metric < b.metric ? -1 : 1));
}
