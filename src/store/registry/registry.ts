import { createHash } from "node:crypto";
import type pg from "pg";
import type { Attributes, MetricIdentity } from "@/core/metric/model";
import { originOf } from "@/core/metric/origin";
import { furtherParts, type KnownMetric, type KnownSeries } from "@/core/otlp/dictionary";
import { MINUTE } from "@/core/window/lengths";
import { rememberValues } from "./knownValues";

/** Gives metrics and series their ids. Registering the same thing from several processes gives the same id. */

function hash(text: string): Buffer {
  return createHash("sha256").update(text).digest().subarray(0, 16);
}

async function registerMetrics(pool: pg.Pool, metrics: readonly KnownMetric[]): Promise<void> {
  const columns = [
    metrics.map(({ identity }) => identity.name),
    metrics.map(({ identity }) => identity.kind),
    metrics.map(({ identity }) => identity.unit),
    metrics.map(({ identity }) => identity.temporality),
    metrics.map(({ identity }) => identity.monotonic),
    metrics.map(({ description }) => description),
  ];
  await pool.query(
    `INSERT INTO metric (name, kind, unit, temporality, monotonic, description, first_at)
     SELECT *, ${Date.now()} FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::boolean[], $6::text[])
     ON CONFLICT DO NOTHING`,
    columns,
  );
  const { rows } = await pool.query<{ id: number; place: string }>(
    `SELECT m.id, w.place FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::boolean[])
       WITH ORDINALITY AS w(name, kind, unit, temporality, monotonic, place)
     JOIN metric m USING (name, kind, unit, temporality, monotonic)`,
    columns.slice(0, 5),
  );
  for (const { id, place } of rows) metrics[Number(place) - 1].id = id;
}

export async function registerResources(
  pool: pg.Pool,
  resources: ReadonlyMap<string, Attributes>,
): Promise<Map<string, number>> {
  const hashes = [...resources.keys()];
  const all = [...resources.values()];
  const origins = all.map(originOf);
  await pool.query(
    `INSERT INTO resource (hash, attributes, service, release, environment, instance)
     SELECT decode(h, 'hex'), a, s, r, e, i
     FROM unnest($1::text[], $2::jsonb[], $3::text[], $4::text[], $5::text[], $6::text[]) AS w(h, a, s, r, e, i)
     ON CONFLICT DO NOTHING`,
    [
      hashes,
      all.map((attributes) => JSON.stringify(attributes)),
      origins.map(({ service }) => service),
      origins.map(({ release }) => release),
      origins.map(({ environment }) => environment),
      origins.map(({ instance }) => instance),
    ],
  );
  const { rows } = await pool.query<{ id: number; hash: string }>(
    `SELECT id, encode(hash, 'hex') AS hash FROM resource WHERE hash IN (SELECT decode(h, 'hex') FROM unnest($1::text[]) AS w(h))`,
    [hashes],
  );
  return new Map(rows.map(({ id, hash: found }) => [found, id]));
}

/** What something is found by that a text tells from all else, in hex. */
export function identityHash(text: string): string {
  return hash(text).toString("hex");
}

function sortedText(attributes: Attributes): string {
  return JSON.stringify(Object.entries(attributes).sort(([a], [b]) => (a < b ? -1 : 1)));
}

/** What a resource is found by in the registry, in hex. */
export function resourceHash(attributes: Attributes): string {
  return hash(sortedText(attributes)).toString("hex");
}

const CHUNK = 5000;
/** Whoever was not heard for so long has no part in the limit of series any more, ms. */
export const LATELY = 15 * MINUTE;

/**
 * Gives every series in the list, and its metric, an id. Committed before it returns.
 *
 * @param limit how many series a metric may have of one service that were heard lately; those past it get no id and are marked as overflowed
 */
export async function registerSeries(
  pool: pg.Pool,
  wanted: readonly KnownSeries[],
  limit = Number.POSITIVE_INFINITY,
): Promise<void> {
  const metrics = [...new Set(wanted.map(({ metric }) => metric))].filter(({ id }) => id === 0);
  if (metrics.length > 0) await registerMetrics(pool, metrics);
  for (let from = 0; from < wanted.length; from += CHUNK) {
    const some = wanted.slice(from, from + CHUNK);
    await registerChunk(pool, Number.isFinite(limit) ? await withinLimit(pool, some, limit) : some);
  }
}

/** How soon it is asked again whether there is room for a series past the limit, ms. */
const RETRY_AFTER = MINUTE;

/** Whether a metric's points are totals that the overflow series adds up. */
function isRunningTotal({ kind, monotonic, temporality }: MetricIdentity): boolean {
  return temporality === "cumulative" && ((kind === "sum" && monotonic) || kind === "histogram");
}

/** Gives the known of the series their ids, and tells which of the others fit below the limit. */
async function withinLimit(pool: pg.Pool, wanted: readonly KnownSeries[], limit: number): Promise<KnownSeries[]> {
  await lookUp(pool, wanted);
  const unregistered = wanted.filter(({ id }) => id === 0);
  if (unregistered.length === 0) return [];
  const { rows } = await pool.query<{ metric_id: number; service: string; count: string }>(
    // Instances come and go: a series counts as long as who sends it was heard lately, or it is new itself.
    `SELECT s.metric_id, r.service, count(*) FROM series s JOIN resource r ON r.id = s.resource_id
     LEFT JOIN activity h ON h.resource_id = r.id
     WHERE s.metric_id = ANY($1::int[]) AND r.service = ANY($2::text[])
       AND greatest(coalesce(h.last_at, 0), s.first_at) > $3 GROUP BY 1, 2`,
    [
      unregistered.map(({ metric }) => metric.id),
      unregistered.map(({ identity }) => originOf(identity.resource).service),
      Date.now() - LATELY,
    ],
  );
  const counts = new Map(rows.map(({ metric_id, service, count }) => [`${metric_id} ${service}`, Number(count)]));
  return unregistered.filter((series) => {
    const key = `${series.metric.id} ${originOf(series.identity.resource).service}`;
    const count = counts.get(key) ?? 0;
    const full = count >= limit;
    if (full) series.retryAt = Date.now() + RETRY_AFTER;
    else counts.set(key, count + 1);
    series.resumes ||= series.overflowed && !full && isRunningTotal(series.metric.identity);
    series.overflowed = full;
    return !full;
  });
}

/** Gives the series of the list that the store knows their ids. */
async function lookUp(pool: pg.Pool, wanted: readonly KnownSeries[]): Promise<void> {
  const { rows } = await pool.query<{ id: string; first_at: string; place: string }>(
    `SELECT s.id, s.first_at, w.place FROM unnest($1::int[], $2::text[]) WITH ORDINALITY AS w(metric_id, h, place)
     JOIN series s ON s.metric_id = w.metric_id AND s.hash = decode(w.h, 'hex')`,
    [wanted.map(({ metric }) => metric.id), wanted.map(({ key }) => hash(key).toString("hex"))],
  );
  for (const { id, first_at, place } of rows) {
    const series = wanted[Number(place) - 1];
    series.id = Number(id);
    series.firstAt = Number(first_at);
  }
}

/** SQLSTATE of a reference to a row that is not there: a resource was taken away in between. */
const GONE = "23503";

async function registerChunk(pool: pg.Pool, wanted: readonly KnownSeries[]): Promise<void> {
  try {
    await addChunk(pool, wanted);
  } catch (error) {
    if ((error as { code?: string }).code !== GONE) throw error;
    await addChunk(pool, wanted);
  }
}

async function addChunk(pool: pg.Pool, wanted: readonly KnownSeries[]): Promise<void> {
  if (wanted.length === 0) return;
  const resources = new Map<string, Attributes>();
  const hashOf = new Map<Attributes, string>();
  for (const { identity } of wanted) {
    if (hashOf.has(identity.resource)) continue;
    const found = resourceHash(identity.resource);
    hashOf.set(identity.resource, found);
    resources.set(found, identity.resource);
  }
  const resourceIds = await registerResources(pool, resources);
  const metricIds = wanted.map(({ metric }) => metric.id);
  const hashes = wanted.map(({ key }) => hash(key).toString("hex"));
  await pool.query(
    `INSERT INTO series (metric_id, hash, resource_id, scope_name, scope_version, attributes, further, first_at)
     SELECT m, decode(h, 'hex'), r, sn, sv, a, f, ${Date.now()}
     FROM unnest($1::int[], $2::text[], $3::int[], $4::text[], $5::text[], $6::jsonb[], $7::jsonb[])
       AS w(m, h, r, sn, sv, a, f)
     ON CONFLICT DO NOTHING`,
    [
      metricIds,
      hashes,
      wanted.map(({ identity }) => resourceIds.get(hashOf.get(identity.resource)!)!),
      wanted.map(({ identity }) => identity.scope.name),
      wanted.map(({ identity }) => identity.scope.version),
      wanted.map(({ identity }) => JSON.stringify(identity.attributes)),
      wanted.map(({ identity }) => {
        const further = furtherParts(identity);
        return further && JSON.stringify(further);
      }),
    ],
  );
  await rememberValues(pool, wanted);
  await lookUp(pool, wanted);
}
