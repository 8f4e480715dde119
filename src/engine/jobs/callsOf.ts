import type pg from "pg";
import { bestForLadder } from "@/core/service/callMetrics";

/** What a service has that tells of its calls, and its releases. */

/** The histograms that a service has, best for a ladder first. */
export async function callMetrics(
  client: pg.PoolClient,
  service: string,
  environment: string,
): Promise<{ name: string; unit: string }[]> {
  const { rows } = await client.query<{ name: string; unit: string }>(
    `SELECT DISTINCT m.name, m.unit FROM metric m
     WHERE m.kind IN ('histogram', 'exponential') AND EXISTS (
       SELECT FROM series s JOIN resource r ON r.id = s.resource_id
       WHERE s.metric_id = m.id AND r.service = $1 AND r.environment = $2)`,
    [service, environment],
  );
  return bestForLadder(rows);
}

export async function releasesSeen(client: pg.PoolClient, service: string, environment: string) {
  const { rows } = await client.query<{ version: string; first_at: string; last_at: string }>(
    "SELECT version, first_at, last_at FROM release WHERE service = $1 AND environment = $2 ORDER BY first_at DESC LIMIT 200",
    [service, environment],
  );
  return rows.map((row) => ({ release: row.version, firstAt: Number(row.first_at), lastAt: Number(row.last_at) }));
}

/** The names of the metrics that a service has. */
export async function metricNames(client: pg.PoolClient, service: string, environment: string): Promise<Set<string>> {
  const { rows } = await client.query<{ name: string }>(
    `SELECT DISTINCT m.name FROM metric m WHERE EXISTS (
       SELECT FROM series s JOIN resource r ON r.id = s.resource_id
       WHERE s.metric_id = m.id AND r.service = $1 AND r.environment = $2)`,
    [service, environment],
  );
  return new Set(rows.map(({ name }) => name));
}
