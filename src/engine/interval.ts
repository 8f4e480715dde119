import type pg from "pg";
import { HOURS, MINUTES, RAW } from "@/store/database/partitions";

const SAMPLE = 40;

/**
 * The usual distance between the points of a series of these metrics in a window, ms; 0 where it is not known. Worked
 * out from what is noted of strips, without reading any.
 */
export async function usualDistance(
  client: pg.PoolClient,
  metricIds: readonly number[],
  from: number,
  to: number,
): Promise<number> {
  for (const resolution of [RAW, MINUTES, HOURS]) {
    const { rows } = await client.query<{ distance: number | null }>(
      `SELECT percentile_disc(0.5) WITHIN GROUP (ORDER BY (t_to - t_from)::float8 / (point_count::float8 / series_count - 1)) AS distance
       FROM (SELECT t_from, t_to, point_count, series_count FROM strip
             WHERE metric_id = ANY($1::int[]) AND resolution = $2 AND level > 0 AND point_count > series_count
               AND t_from >= $3 AND t_from <= $4 ORDER BY t_from DESC LIMIT ${SAMPLE}) s`,
      [metricIds, resolution, Math.floor(from), Math.ceil(to)],
    );
    const { distance } = rows[0];
    if (distance !== null) return Math.max(distance, resolution * 1000);
    if (resolution !== RAW) continue;
    const fresh = await client.query<{ points: string | null; series: number | null; span: string | null }>(
      `SELECT sum(point_count) AS points, max(series_count) AS series, max(t_to) - min(t_from) AS span FROM strip
       WHERE metric_id = ANY($1::int[]) AND resolution = ${RAW} AND level < 3 AND t_from >= $2 AND t_from <= $3`,
      [metricIds, Math.floor(from), Math.ceil(to)],
    );
    const { points, series, span } = fresh.rows[0];
    const each = Number(points ?? 0) / (series || 1);
    if (each > 1) return Number(span) / (each - 1);
  }
  return 0;
}
