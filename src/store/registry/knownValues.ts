import { createHash } from "node:crypto";
import type pg from "pg";
import { isOriginAttribute } from "@/core/metric/labels";
import { valueText } from "@/core/metric/text";
import type { KnownSeries } from "@/core/otlp/dictionary";

/** The values that attributes of a metric ever had, kept for searching. */

const LONGEST = 500;

/** Remembers the values of series that were registered. */
export async function rememberValues(pool: pg.Pool, series: readonly KnownSeries[]): Promise<void> {
  const rows = new Map<string, { metricId: number; key: string; value: string; hash: string }>();
  for (const { metric, identity } of series) {
    for (const [key, raw] of Object.entries(identity.attributes)) {
      if (isOriginAttribute(key)) continue;
      const value = valueText(raw);
      const at = `${metric.id}\u0001${key}\u0001${value}`;
      if (rows.has(at)) continue;
      const hash = createHash("md5").update(`${key}\u0001${value}`).digest("hex");
      rows.set(at, { metricId: metric.id, key, value: value.slice(0, LONGEST).toWellFormed(), hash });
    }
  }
  if (rows.size === 0) return;
  // In one order everywhere: processes that remember the same then wait for each other only one way round.
  const all = [...rows.values()].sort((a, b) => a.metricId - b.metricId || (a.hash < b.hash ? -1 : 1));
  await pool.query(
    `INSERT INTO known_value (metric_id, key, value, hash)
     SELECT * FROM unnest($1::int[], $2::text[], $3::text[], $4::text[]) ON CONFLICT DO NOTHING`,
    [
      all.map(({ metricId }) => metricId),
      all.map(({ key }) => key),
      all.map(({ value }) => value),
      all.map(({ hash }) => hash),
    ],
  );
}

/** Names of metrics that have an attribute value with a text in it. */
export async function metricsWithValue(pool: pg.Pool, text: string): Promise<{ name: string; found: string }[]> {
  const { rows } = await pool.query<{ name: string; found: string }>(
    `SELECT m.name, min(v.key || ' is ' || v.value) AS found FROM known_value v JOIN metric m ON m.id = v.metric_id
     WHERE v.value ILIKE $1 GROUP BY m.name ORDER BY m.name LIMIT 1000`,
    [`%${text.replace(/[\\%_]/g, "\\$&")}%`],
  );
  return rows;
}
