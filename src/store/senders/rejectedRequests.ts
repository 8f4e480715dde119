import { createHash } from "node:crypto";
import { desc, getTableColumns } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { RejectedRequestEntry } from "@/core/api/senders";
import { rejectedRequest } from "../schema";

/** Requests that were refused, so that a service that is set up wrongly can be found. Alike ones share a row. */

/** Rows that are kept, the latest. */
const MAX = 500;

export type RejectedRequest = Omit<RejectedRequestEntry, "id">;

/** What makes two refusals alike. */
export function rejectionKey({ address, agent, request, status, reason }: RejectedRequest): string {
  return createHash("md5")
    .update(JSON.stringify([address, agent, request, status, reason]))
    .digest("hex");
}

/** Adds refusals to those on record, and forgets what is beyond the latest few hundred. */
export async function noteRejectedRequests(pool: pg.Pool, found: readonly RejectedRequest[]): Promise<void> {
  // In one order everywhere, so that two intakes never wait for each other in a circle.
  const all = [...found].sort((a, b) => (rejectionKey(a) < rejectionKey(b) ? -1 : 1));
  await pool.query(
    `INSERT INTO rejected_request (key, address, agent, request, status, reason, first_at, last_at, count)
     SELECT * FROM unnest($1::text[], $2::text[], $3::text[], $4::text[], $5::int[], $6::text[], $7::bigint[], $8::bigint[], $9::int[])
     ON CONFLICT (key) DO UPDATE SET first_at = least(rejected_request.first_at, excluded.first_at),
       last_at = greatest(rejected_request.last_at, excluded.last_at), count = rejected_request.count + excluded.count`,
    [
      all.map(rejectionKey),
      all.map(({ address }) => address),
      all.map(({ agent }) => agent),
      all.map(({ request }) => request),
      all.map(({ status }) => status),
      all.map(({ reason }) => reason),
      all.map(({ firstAt }) => firstAt),
      all.map(({ lastAt }) => lastAt),
      all.map(({ count }) => count),
    ],
  );
  await pool.query(
    `DELETE FROM rejected_request WHERE last_at < (SELECT min(last_at) FROM
       (SELECT last_at FROM rejected_request ORDER BY last_at DESC LIMIT ${MAX}) AS latest)`,
  );
}

/** The refusals on record, the latest first. */
export function listRejectedRequests(pool: pg.Pool): Promise<RejectedRequestEntry[]> {
  const { key: _, ...columns } = getTableColumns(rejectedRequest);
  return drizzle(pool).select(columns).from(rejectedRequest).orderBy(desc(rejectedRequest.lastAt)).limit(MAX);
}

/** Takes all off the record. */
export async function clearRejectedRequests(pool: pg.Pool): Promise<void> {
  await drizzle(pool).delete(rejectedRequest);
}
