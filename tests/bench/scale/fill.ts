import type pg from "pg";
import { emptyPointSet, type Layout, type PointSet } from "../../../src/core/metric/model";
import { DAY, HOUR, MINUTE } from "../../../src/core/window/lengths";
import { ensurePartitions, HOURS, MINUTES, RAW, type Resolution } from "../../../src/store/database/partitions";
import { headSize, makeStrip } from "../../../src/store/strips/strips";
import { BOUNDS } from "../data";

/** A store as it is after years: many metrics, series and instances that came and went, and strips of thirteen months. */

export interface Size {
  metrics: number;
  /** Instances that ever were; of each service, the last ten report. */
  instances: number;
  series: number;
  /** Strips of each resolution. */
  days: { raw: number; minutes: number; hours: number };
}

const SERVICES = 50;
const LIVING = 10;
const PER_RELEASE = 10;
/** Minutes of the last days stand in strips of two hours, those before in strips of a day. */
const IN_TWO_HOURS = 9;

async function fillRegistry(pool: pg.Pool, { metrics, instances, series }: Size, now: number): Promise<void> {
  const life = (400 * DAY) / (instances / SERVICES);
  await pool.query(
    `INSERT INTO metric (name, kind, unit, temporality, monotonic, description, first_at)
     SELECT 'scale.m' || i, (ARRAY['sum', 'histogram', 'gauge'])[1 + i % 3], (ARRAY['{call}', 's', 'By'])[1 + i % 3],
       CASE WHEN i % 3 = 2 THEN 'none' ELSE 'cumulative' END, i % 3 < 2, 'One of many', $2
     FROM generate_series(0, $1 - 1) i`,
    [metrics, now - 400 * DAY],
  );
  // Of instance n of a service, the last are those that report now.
  await pool.query(
    `INSERT INTO resource (hash, attributes, service, release, environment, instance)
     SELECT decode(md5('scale' || i), 'hex'), jsonb_build_object('service.name', 'scale-' || i % ${SERVICES},
         'service.version', '1.' || i / ${SERVICES * PER_RELEASE}, 'service.instance.id', 'i' || i,
         'deployment.environment.name', 'production'),
       'scale-' || i % ${SERVICES}, '1.' || i / ${SERVICES * PER_RELEASE}, 'production', 'i' || i
     FROM generate_series(0, $1 - 1) i`,
    [instances],
  );
  await pool.query(
    `INSERT INTO activity (resource_id, first_at, last_at, points, minute, minute_points, before_points, every)
     SELECT r.id, $2 - (n - i / ${SERVICES}) * $3, CASE WHEN i / ${SERVICES} >= n - ${LIVING} THEN $2 ELSE $2 - (n - 1 - i / ${SERVICES}) * $3 END,
       100000, $2 / 60000, 400, 400, 10000
     FROM (SELECT id, substr(instance, 2)::bigint AS i, $1::bigint / ${SERVICES} AS n FROM resource WHERE service LIKE 'scale-%') r`,
    [instances, now, Math.floor(life)],
  );
  await pool.query(
    `INSERT INTO release (service, environment, version, first_at, last_at)
     SELECT r.service, r.environment, r.release, min(h.first_at), max(h.last_at)
     FROM resource r JOIN activity h ON h.resource_id = r.id WHERE r.service LIKE 'scale-%' GROUP BY 1, 2, 3`,
  );
  // What was just written has no counts yet, and is joined below.
  await pool.query("ANALYZE metric, resource");
  // Half of a metric's series are of instances that report, half of ones that went.
  const each = Math.floor(series / metrics);
  await pool.query(
    `WITH m AS (SELECT id, substr(name, 8)::int AS i FROM metric WHERE name LIKE 'scale.m%'),
       r AS (SELECT id, substr(instance, 2)::int AS i FROM resource WHERE service LIKE 'scale-%')
     INSERT INTO series (metric_id, hash, resource_id, scope_name, scope_version, attributes, first_at)
     SELECT m.id, decode(md5(m.i || ' ' || k), 'hex'), r.id, 'scale', '',
       jsonb_build_object('route', '/r' || k % 10, 'method', (ARRAY['GET', 'POST'])[1 + k % 2]), $3
     FROM m CROSS JOIN generate_series(0, $2::int - 1) k
       JOIN r ON r.i = m.i % ${SERVICES} + ${SERVICES} * (CASE WHEN k < $2 / 2 THEN $1 / ${SERVICES} - 1 - k % ${LIVING}
         ELSE (m.i::bigint * 7919 + k * 104729) % ($1 / ${SERVICES} - ${LIVING}) END)`,
    [instances, each, now - 30 * DAY],
  );
  await pool.query(
    `INSERT INTO known_value (metric_id, key, value, hash)
     SELECT m.id, v.key, v.value, md5(v.key || v.value) FROM metric m CROSS JOIN (
       SELECT 'route' AS key, '/r' || k AS value FROM generate_series(0, 9) k UNION ALL VALUES ('method', 'GET'), ('method', 'POST')) v
     WHERE m.name LIKE 'scale.m%'`,
  );
}

/** Points of every series of a metric: `each` in a span. */
function sets(ids: readonly number[], layout: Layout, start: number, span: number, each: number): PointSet[] {
  const columns = layout.kind === "number" ? 1 : BOUNDS.length + 4;
  return ids.map((id) => {
    const set = emptyPointSet(layout, each);
    set.series.fill(id);
    for (let i = 0; i < each; i++) {
      set.timeMs[i] = start + Math.floor((span / each) * i);
      set.startMs[i] = start;
      for (let c = 0; c < columns; c++) set.columns[c][i] = i * (c + 1) + (id % 7);
    }
    return set;
  });
}

/** Bodies of strips, one for each metric, resolution and length: what is listed of them says when they are from. */
async function fillStrips(pool: pg.Pool, { days }: Size, now: number): Promise<void> {
  const { rows } = await pool.query<{ id: number; kind: string; series: string[] }>(
    `SELECT m.id, m.kind, array_agg(s.id ORDER BY s.id) AS series FROM metric m JOIN series s ON s.metric_id = m.id
     JOIN activity h ON h.resource_id = s.resource_id WHERE m.name LIKE 'scale.m%' AND h.last_at >= $1 GROUP BY m.id ORDER BY m.id`,
    [now],
  );
  const today = Math.floor(now / DAY) * DAY;
  // Sixteen days are joined once all of them are settled.
  const joined = Math.floor((today - IN_TWO_HOURS * DAY) / (16 * DAY)) * 16 * DAY;
  const plans: { resolution: Resolution; level: number; span: number; from: number; to: number; each: number }[] = [
    { resolution: RAW, level: 3, span: 2 * HOUR, from: today - days.raw * DAY, to: today, each: 8 },
    { resolution: RAW, level: 2, span: 30 * MINUTE, from: today, to: now - 30 * MINUTE, each: 4 },
    { resolution: MINUTES, level: 3, span: 2 * HOUR, from: today - IN_TWO_HOURS * DAY, to: today, each: 4 },
    {
      resolution: MINUTES,
      level: 4,
      span: DAY,
      from: today - days.minutes * DAY,
      to: today - IN_TWO_HOURS * DAY,
      each: 24,
    },
    { resolution: HOURS, level: 2, span: DAY, from: joined, to: today, each: 4 },
    { resolution: HOURS, level: 3, span: 16 * DAY, from: joined - days.hours * DAY, to: joined, each: 16 },
  ];
  await pool.query(
    "CREATE TABLE scale_body (metric_id integer, plan integer, series integer, points integer, head integer, body bytea)",
  );
  for (const [plan, { resolution, level, span, from, each }] of plans.entries()) {
    for (let at = 0; at < rows.length; at += 500) {
      const some = rows.slice(at, at + 500).map(({ id, kind, series }) => {
        const layout: Layout = kind === "histogram" ? { kind: "explicit", bounds: BOUNDS } : { kind: "number" };
        return makeStrip(id, sets(series.map(Number), layout, from, span, each), level, null, resolution);
      });
      await pool.query(
        "INSERT INTO scale_body SELECT * FROM unnest($1::int[], $2::int[], $3::int[], $4::int[], $5::int[], $6::bytea[])",
        [
          some.map(({ metricId }) => metricId),
          some.map(() => plan),
          some.map(({ seriesCount }) => seriesCount),
          some.map(({ pointCount }) => pointCount),
          some.map(({ payload }) => headSize(payload)),
          some.map(({ payload }) => Buffer.from(payload)),
        ],
      );
    }
  }
  await pool.query("CREATE INDEX ON scale_body (plan)");
  for (const [plan, { resolution, level, span, from, to }] of plans.entries()) {
    const starts = Array.from({ length: Math.max(0, Math.ceil((to - from) / span)) }, (_, i) => from + i * span);
    await ensurePartitions(pool, resolution, starts);
    for (const start of starts)
      await pool.query(
        `INSERT INTO strip (metric_id, resolution, level, t_from, t_to, series_count, point_count, head_size, size, payload)
         SELECT metric_id, $2, $3, $4, $5, series, points, head, length(body), body FROM scale_body WHERE plan = $1`,
        [plan, resolution, level, start, start + span - MINUTE],
      );
  }
  await pool.query("DROP TABLE scale_body");
}

/** Fills a migrated store. @param tell told what is done */
export async function fillStore(pool: pg.Pool, size: Size, tell: (what: string) => void): Promise<void> {
  const now = Date.now();
  await fillRegistry(pool, size, now);
  tell(`${size.metrics} metrics, ${size.series} series, ${size.instances} instances`);
  await fillStrips(pool, size, now);
  const { rows } = await pool.query<{ strips: string; bytes: string }>(
    "SELECT count(*) AS strips, pg_database_size(current_database()) AS bytes FROM strip",
  );
  tell(`${rows[0].strips} strips, ${(Number(rows[0].bytes) / 1e9).toFixed(1)} GB on disk`);
  await pool.query("VACUUM ANALYZE");
}
