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

/** Releases that pages list of a service. */
export const LISTED = 200;
/** Who releases with every commit has thousands in a year. */
const MAX_SEEN = 5000;

/**
 * The releases of a service, the newest first: those that are listed, all that were heard in a span with the one before
 * them, and those that are named.
 */
export async function releasesSeen(
  client: pg.PoolClient,
  service: string,
  environment: string,
  { from, to }: { from: number; to: number },
  named: readonly string[] = [],
) {
  const { rows } = await client.query<{ version: string; first_at: string; last_at: string }>(
    `WITH own AS (
       SELECT version, first_at, last_at, row_number() OVER (ORDER BY first_at DESC) AS place,
         first_at <= $4 AND last_at >= $3 AS inside
       FROM release WHERE service = $1 AND environment = $2)
     SELECT version, first_at, last_at FROM own
     WHERE inside OR place <= ${LISTED} OR version = ANY($5) OR place = (SELECT max(place) + 1 FROM own WHERE inside)
     ORDER BY first_at DESC LIMIT ${MAX_SEEN}`,
    [service, environment, Math.floor(from), Math.ceil(to), named],
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
