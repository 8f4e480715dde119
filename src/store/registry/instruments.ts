import type pg from "pg";
import type {
  AttributeShare,
  CatalogueEntry,
  CataloguePart,
  CataloguePartQuery,
  InstrumentAnswer,
} from "@/core/api/instruments";
import type { Attributes } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { DAY } from "@/core/window/lengths";
import { currentContract } from "../contracts/contracts";
import { listFindings } from "../contracts/findings";
import { metricUses } from "../summary/metricUse";
import { REPORTING } from "./reporting";

/** What is known of metrics: the catalogue, and one metric's attributes and cardinality, exactly, from the registry. */

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
  contract: number | null;
  findings: string | null;
  /** Of all rows. */
  all: string;
}

/**
 * Metrics that ever arrived or were defined, by name, from one name on.
 *
 * @param fresh whether series are to be counted now
 */
export async function listInstruments(
  pool: pg.Pool,
  now: number,
  { after, rows: most, defined }: CataloguePartQuery,
  fresh: boolean,
): Promise<CataloguePart> {
  const { rows } = await pool.query<CatalogueRow>(
    `WITH held_by_all AS (
       SELECT name, version, body FROM (SELECT DISTINCT ON (name) * FROM contract ORDER BY name, version DESC) c
       WHERE body IS NOT NULL),
     names AS (
       SELECT *, count(*) OVER () AS all FROM (
         ${defined ? "" : "SELECT name FROM metric UNION"} SELECT name FROM held_by_all) n),
     part AS (SELECT * FROM names WHERE name > $1 ORDER BY name LIMIT $2),
     newest AS (
       SELECT DISTINCT ON (name) m.*, count(*) OVER (PARTITION BY name) AS variants FROM metric m
       WHERE name IN (SELECT name FROM part) ORDER BY name, id DESC),
     held AS (SELECT h.* FROM held_by_all h JOIN part USING (name)),
     wrong AS (SELECT metric AS name, count(*) AS n FROM finding WHERE ended_at IS NULL GROUP BY metric)
     SELECT name, coalesce(m.kind, '') AS kind, coalesce(m.unit, held.body->>'unit', '') AS unit,
       coalesce(m.temporality, '') AS temporality, coalesce(m.monotonic, false) AS monotonic,
       coalesce(nullif(m.description, ''), held.body->>'description', '') AS description,
       coalesce(m.variants, 0) AS variants, held.version AS contract, wrong.n AS findings, part.all
     FROM part LEFT JOIN newest m USING (name) LEFT JOIN held USING (name) LEFT JOIN wrong USING (name)
     ORDER BY 1`,
    [after, most],
  );
  const names = rows.map(({ name }) => name);
  const uses = await metricUses(pool, now, fresh, names);
  const instruments = rows.map((row): CatalogueEntry => {
    const use = uses.get(row.name);
    return {
      name: row.name,
      kind: row.kind,
      unit: row.unit,
      temporality: row.temporality,
      monotonic: row.monotonic,
      description: row.description,
      variants: Math.max(0, Number(row.variants) - 1),
      services: use?.services ?? [],
      releases: use?.releases ?? 0,
      attributes: use?.attributes ?? [],
      seriesNow: use?.seriesNow ?? 0,
      series: use?.series ?? 0,
      contract: row.contract,
      findings: Number(row.findings ?? 0),
    };
  });
  return {
    instruments,
    next: rows.length < most ? null : names[names.length - 1],
    // Behind the last there is no row to tell it.
    all: Number(rows[0]?.all ?? 0),
  };
}

/** The series that cardinality is counted over: of instances that report, or all where none does. */
interface Counted {
  metricIds: number[];
  /** Instances heard since, Unix ms; 0: all. */
  since: number;
}

const COUNTED = `FROM series s JOIN resource r ON r.id = s.resource_id LEFT JOIN activity h ON h.resource_id = r.id
  WHERE s.metric_id = ANY($1::int[]) AND coalesce(h.last_at, 0) >= $2`;

/** The attributes of some series with their values and what each costs; the costliest first. */
async function attributesOf(pool: pg.Pool, { metricIds, since }: Counted, series: number): Promise<AttributeShare[]> {
  // The series are gathered once; each attribute is then looked at in all of them.
  const these = `WITH these AS MATERIALIZED (
      SELECT s.metric_id, s.scope_name, s.scope_version, s.attributes AS own, r.attributes AS shared ${COUNTED}),
    keys AS MATERIALIZED (
      SELECT DISTINCT 'point' AS place, k.key FROM these, LATERAL jsonb_object_keys(own) AS k(key)
      UNION SELECT DISTINCT 'resource', k.key FROM these, LATERAL jsonb_object_keys(shared) AS k(key)
      LIMIT ${MAX_ATTRIBUTES})`;
  const values = await pool.query<{
    place: AttributeShare["place"];
    key: string;
    value: string;
    n: string;
    all: string;
    having: string;
  }>(
    `${these}, found AS (
       SELECT place, key, CASE place WHEN 'point' THEN own ->> key ELSE shared ->> key END AS value, count(*) AS n
       FROM these CROSS JOIN keys WHERE CASE place WHEN 'point' THEN own ? key ELSE shared ? key END GROUP BY 1, 2, 3)
     SELECT * FROM (
       SELECT *, count(*) OVER w AS all, sum(n) OVER w AS having,
         row_number() OVER (PARTITION BY place, key ORDER BY n DESC, value) AS rank
       FROM found WINDOW w AS (PARTITION BY place, key)) ranked
     WHERE rank <= ${MAX_VALUES} ORDER BY place, key, rank`,
    [metricIds, since],
  );
  const without = await pool.query<{ place: string; key: string; n: string }>(
    `${these}, left_over AS (
       SELECT DISTINCT place, key, metric_id, scope_name, scope_version,
         CASE place WHEN 'point' THEN own - key ELSE own END, CASE place WHEN 'point' THEN shared ELSE shared - key END
       FROM these CROSS JOIN keys)
     SELECT place, key, count(*) AS n FROM left_over GROUP BY 1, 2`,
    [metricIds, since],
  );
  const left = new Map(without.rows.map(({ place, key, n }) => [`${place} ${key}`, Number(n)]));
  const all = new Map<string, AttributeShare>();
  for (const { place, key, value, n, all: distinct, having } of values.rows) {
    const id = `${place} ${key}`;
    const known = all.get(id) ?? {
      name: key,
      place,
      distinct: Number(distinct),
      values: [],
      missing: series - Number(having),
      without: left.get(id) ?? 0,
    };
    known.values.push({ value, series: Number(n) });
    all.set(id, known);
  }
  return [...all.values()].sort(
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
     JOIN activity h ON h.resource_id = p.resource_id
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
     FROM series s JOIN resource r ON r.id = s.resource_id LEFT JOIN activity h ON h.resource_id = r.id
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
