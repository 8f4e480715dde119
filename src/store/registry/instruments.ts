import type pg from "pg";
import type { AttributeShare, CatalogueEntry, InstrumentAnswer } from "@/core/api/instruments";
import type { Attributes } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { DAY, MINUTE } from "@/core/window/lengths";
import { currentContract } from "../contracts/contracts";
import { listFindings } from "../contracts/findings";

/** What is known of metrics: the catalogue, and one metric's attributes and cardinality, exactly, from the registry. */

/** An instance counts as reporting for this long after it was last heard, ms. */
export const REPORTING = 10 * MINUTE;
const DAYS = 30;
const MAX_VALUES = 50;
const MAX_ATTRIBUTES = 60;
const MAX_EXEMPLARS = 30;

interface CatalogueRow {
  name: string;
  kind: string;
  unit: string;
  temporality: string;
  monotonic: boolean;
  description: string;
  variants: string;
  services: string[] | null;
  releases: string | null;
  attributes: string[] | null;
  series_now: string | null;
  series: string | null;
  contract: number | null;
  findings: string | null;
}

/** Every metric that ever arrived or was defined, by name. */
export async function listInstruments(pool: pg.Pool, now: number): Promise<CatalogueEntry[]> {
  const { rows } = await pool.query<CatalogueRow>(
    `WITH parts AS (SELECT metric_id, resource_id, count(*) AS n FROM series GROUP BY 1, 2),
     use AS (
       SELECT m.name, sum(p.n) AS series, coalesce(sum(p.n) FILTER (WHERE h.last_at >= $1), 0) AS series_now,
         array_agg(DISTINCT r.service) AS services, count(DISTINCT (r.service, r.release)) AS releases
       FROM parts p JOIN metric m ON m.id = p.metric_id JOIN resource r ON r.id = p.resource_id
       LEFT JOIN heard h ON h.resource_id = p.resource_id GROUP BY m.name),
     keys AS (
       SELECT m.name, array_agg(DISTINCT v.key) AS attributes
       FROM (SELECT DISTINCT metric_id, key FROM known_value) v JOIN metric m ON m.id = v.metric_id GROUP BY m.name),
     newest AS (SELECT DISTINCT ON (name) * FROM metric ORDER BY name, id DESC),
     held AS (
       SELECT name, version, body FROM (SELECT DISTINCT ON (name) * FROM contract ORDER BY name, version DESC) c
       WHERE body IS NOT NULL),
     wrong AS (SELECT metric AS name, count(*) AS n FROM finding WHERE ended_at IS NULL GROUP BY metric)
     SELECT coalesce(m.name, held.name) AS name, coalesce(m.kind, '') AS kind, coalesce(m.unit, held.body->>'unit', '') AS unit,
       coalesce(m.temporality, '') AS temporality, coalesce(m.monotonic, false) AS monotonic,
       coalesce(nullif(m.description, ''), held.body->>'description', '') AS description,
       (SELECT count(*) FROM metric o WHERE o.name = m.name) AS variants,
       use.services, use.releases, keys.attributes, use.series_now, use.series, held.version AS contract, wrong.n AS findings
     FROM newest m FULL JOIN held ON held.name = m.name
     LEFT JOIN use ON use.name = m.name LEFT JOIN keys ON keys.name = m.name
     LEFT JOIN wrong ON wrong.name = coalesce(m.name, held.name)
     ORDER BY 1 LIMIT 20000`,
    [now - REPORTING],
  );
  return rows.map((row) => ({
    name: row.name,
    kind: row.kind,
    unit: row.unit,
    temporality: row.temporality,
    monotonic: row.monotonic,
    description: row.description,
    variants: Math.max(0, Number(row.variants) - 1),
    services: row.services ?? [],
    releases: Number(row.releases ?? 0),
    attributes: row.attributes ?? [],
    seriesNow: Number(row.series_now ?? 0),
    series: Number(row.series ?? 0),
    contract: row.contract,
    findings: Number(row.findings ?? 0),
  }));
}

/** The series that cardinality is counted over: of instances that report, or all where none does. */
interface Counted {
  metricIds: number[];
  /** Instances heard since, Unix ms; 0: all. */
  since: number;
}

const COUNTED = `FROM series s JOIN resource r ON r.id = s.resource_id LEFT JOIN heard h ON h.resource_id = r.id
  WHERE s.metric_id = ANY($1::int[]) AND coalesce(h.last_at, 0) >= $2`;

async function valuesOf(
  pool: pg.Pool,
  { metricIds, since }: Counted,
  place: AttributeShare["place"],
  name: string,
  series: number,
): Promise<AttributeShare> {
  const own = place === "point" ? "s.attributes" : "r.attributes";
  const parameters = [metricIds, since, name];
  const values = await pool.query<{ value: string; n: string; all: string; having: string }>(
    `SELECT ${own} ->> $3 AS value, count(*) AS n, count(*) OVER () AS all, sum(count(*)) OVER () AS having ${COUNTED}
       AND ${own} ? $3 GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT ${MAX_VALUES}`,
    parameters,
  );
  const [sa, ra] = place === "point" ? ["s.attributes - $3", "r.attributes"] : ["s.attributes", "r.attributes - $3"];
  const without = await pool.query<{ n: string }>(
    `SELECT count(*) AS n FROM (SELECT s.metric_id, s.scope_name, s.scope_version, ${sa}, ${ra} ${COUNTED}
       GROUP BY 1, 2, 3, 4, 5) AS left_over`,
    parameters,
  );
  const having = Number(values.rows[0]?.having ?? 0);
  return {
    name,
    place,
    distinct: Number(values.rows[0]?.all ?? 0),
    values: values.rows.map(({ value, n }) => ({ value, series: Number(n) })),
    missing: series - having,
    without: Number(without.rows[0].n),
  };
}

/** The attributes of some series with their values and what each costs; the costliest first. */
async function attributesOf(pool: pg.Pool, counted: Counted, series: number): Promise<AttributeShare[]> {
  const keys = await pool.query<{ place: AttributeShare["place"]; key: string }>(
    `WITH these AS (SELECT s.attributes AS own, r.attributes AS shared ${COUNTED})
     SELECT DISTINCT 'point' AS place, k.key FROM these, LATERAL jsonb_object_keys(own) AS k(key)
     UNION SELECT DISTINCT 'resource', k.key FROM these, LATERAL jsonb_object_keys(shared) AS k(key)
     LIMIT ${MAX_ATTRIBUTES}`,
    [counted.metricIds, counted.since],
  );
  const all: AttributeShare[] = [];
  for (const { place, key } of keys.rows) all.push(await valuesOf(pool, counted, place, key, series));
  return all.sort(
    (a, b) =>
      (a.place === b.place ? 0 : a.place === "point" ? -1 : 1) || a.without - b.without || (a.name < b.name ? -1 : 1),
  );
}

async function count(pool: pg.Pool, { metricIds, since }: Counted): Promise<number> {
  const { rows } = await pool.query<{ n: string }>(`SELECT count(*) AS n ${COUNTED}`, [metricIds, since]);
  return Number(rows[0].n);
}

async function seriesByDay(pool: pg.Pool, metricIds: number[], now: number): Promise<InstrumentAnswer["byDay"]> {
  const today = Math.floor(now / DAY);
  const { rows } = await pool.query<{ day: string; n: string }>(
    `SELECT d.day, sum(p.n) AS n
     FROM generate_series($2::bigint, $3::bigint) AS d(day)
     JOIN (SELECT resource_id, count(*) AS n FROM series WHERE metric_id = ANY($1::int[]) GROUP BY 1) p ON true
     JOIN heard h ON h.resource_id = p.resource_id
       AND h.first_at < (d.day + 1) * ${DAY} AND h.last_at >= d.day * ${DAY}
     GROUP BY 1 ORDER BY 1`,
    [metricIds, today - DAYS + 1, today],
  );
  return rows.map(({ day, n }) => ({ day: Number(day) * DAY, series: Number(n) }));
}

/** Everything that a metric's page tells; null where there is neither metric nor contract of that name. */
export async function describeInstrument(pool: pg.Pool, name: string, now: number): Promise<InstrumentAnswer | null> {
  const variants = await pool.query<
    Omit<InstrumentAnswer["variants"][number], "series"> & { id: number; first_at: string; n: string }
  >(
    `SELECT m.id, m.kind, m.unit, m.temporality, m.monotonic, m.description, m.first_at,
       (SELECT count(*) FROM series s WHERE s.metric_id = m.id) AS n FROM metric m WHERE m.name = $1 ORDER BY m.id DESC`,
    [name],
  );
  const contract = await currentContract(pool, name);
  if (variants.rows.length === 0 && !contract) return null;
  const metricIds = variants.rows.map(({ id }) => id);
  const seriesNow = await count(pool, { metricIds, since: now - REPORTING });
  const series = await count(pool, { metricIds, since: 0 });
  const counted = { metricIds, since: seriesNow > 0 ? now - REPORTING : 0 };
  const byRelease = await pool.query<{
    service: string;
    environment: string;
    release: string;
    n: string;
    last: string | null;
  }>(
    `SELECT r.service, r.environment, r.release, count(*) AS n, max(h.last_at) AS last
     FROM series s JOIN resource r ON r.id = s.resource_id LEFT JOIN heard h ON h.resource_id = r.id
     WHERE s.metric_id = ANY($1::int[]) GROUP BY 1, 2, 3 ORDER BY max(h.first_at) DESC NULLS LAST, 3 DESC LIMIT 200`,
    [metricIds],
  );
  const exemplars = await pool.query<{
    ms: string;
    value: number;
    trace_id: string;
    span_id: string;
    own: Attributes;
    attributes: Attributes;
  }>(
    `SELECT e.ms, e.value, e.trace_id, e.span_id, e.attributes, s.attributes AS own FROM exemplar e
     JOIN series s ON s.id = e.series_id WHERE e.metric_id = ANY($1::int[]) ORDER BY e.ms DESC LIMIT ${MAX_EXEMPLARS}`,
    [metricIds],
  );
  return {
    name,
    variants: variants.rows.map(({ kind, unit, temporality, monotonic, description, first_at, n }) => ({
      kind,
      unit,
      temporality,
      monotonic,
      description,
      firstAt: Number(first_at),
      series: Number(n),
    })),
    series,
    seriesNow,
    attributes: await attributesOf(pool, counted, seriesNow > 0 ? seriesNow : series),
    byRelease: byRelease.rows.map(({ service, environment, release, n, last }) => ({
      service,
      environment,
      release,
      series: Number(n),
      lastAt: last === null ? null : Number(last),
    })),
    byDay: await seriesByDay(pool, metricIds, now),
    exemplars: exemplars.rows.map(({ ms, value, trace_id, span_id, own, attributes }) => ({
      at: Number(ms),
      value,
      traceId: trace_id,
      spanId: span_id,
      attributes: { ...attributesText(own), ...attributesText(attributes) },
    })),
    contract,
    findings: await listFindings(pool, name),
  };
}
