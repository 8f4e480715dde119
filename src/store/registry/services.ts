import type pg from "pg";
import type { InstanceEntry, ServiceMetric } from "@/core/api/services";
import type { Attributes } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { MINUTE } from "@/core/window/lengths";
import { OWN_SERVICE } from "./catalogue";

/** Which services, releases and instances report. */

const MAX = 5000;

interface Row {
  service: string;
  release: string;
  environment: string;
  instance: string;
  attributes: Attributes;
  first_at: string;
  last_at: string;
  every: number | null;
  points: string;
  minute: string;
  minute_points: number;
  before_points: number;
  series: string;
}

/** Points of the last full minute. */
function perMinute({ minute, minute_points, before_points }: Row, now: number): number {
  const full = Math.floor(now / MINUTE) - 1;
  return Number(minute) === full ? minute_points : Number(minute) === full + 1 ? before_points : 0;
}

/** The instances that were heard between two moments, the latest first. */
export async function listInstances(pool: pg.Pool, from: number, to: number, now: number): Promise<InstanceEntry[]> {
  const { rows } = await pool.query<Row>(
    `SELECT r.service, r.release, r.environment, r.instance, r.attributes, h.first_at, h.last_at, h.every, h.points,
       h.minute, h.minute_points, h.before_points, (SELECT count(*) FROM series s WHERE s.resource_id = r.id) AS series
     FROM activity h JOIN resource r ON r.id = h.resource_id
     WHERE h.last_at >= $1 AND h.first_at <= $2 AND r.service <> $3
     ORDER BY h.last_at DESC LIMIT ${MAX}`,
    [Math.floor(from), Math.ceil(to), OWN_SERVICE],
  );
  const found = new Map<string, InstanceEntry>();
  for (const row of rows) {
    const key = JSON.stringify([row.service, row.release, row.environment, row.instance]);
    const one: InstanceEntry = {
      service: row.service,
      release: row.release,
      environment: row.environment,
      instance: row.instance,
      attributes: attributesText(row.attributes),
      firstAt: Number(row.first_at),
      lastAt: Number(row.last_at),
      every: row.every,
      pointsPerMinute: perMinute(row, now),
      points: Number(row.points),
      series: Number(row.series),
    };
    const known = found.get(key);
    if (known) {
      // An instance that describes itself in several ways is still one.
      known.firstAt = Math.min(known.firstAt, one.firstAt);
      known.pointsPerMinute += one.pointsPerMinute;
      known.points += one.points;
      known.series += one.series;
      known.attributes = { ...one.attributes, ...known.attributes };
    } else found.set(key, one);
  }
  return [...found.values()];
}

/** The metrics of a service in an environment, with the attributes of their points. */
export async function listServiceMetrics(
  pool: pg.Pool,
  service: string,
  environment: string,
): Promise<ServiceMetric[]> {
  const { rows } = await pool.query<ServiceMetric>(
    `SELECT m.name, m.kind, m.unit, m.monotonic,
       coalesce(array_agg(DISTINCT k.key) FILTER (WHERE k.key IS NOT NULL), '{}') AS attributes
     FROM series s JOIN resource r ON r.id = s.resource_id JOIN metric m ON m.id = s.metric_id
     LEFT JOIN LATERAL jsonb_object_keys(s.attributes) AS k(key) ON true
     WHERE r.service = $1 AND r.environment = $2 GROUP BY m.id ORDER BY m.name LIMIT 10000`,
    [service, environment],
  );
  return rows;
}
