import type pg from "pg";
import type { Batch } from "@/core/otlp/batch/batch";
import { MINUTE } from "@/core/window/lengths";

/**
 * Requests that were stored lately. A sender that did not hear our answer sends its request again, byte for byte; what
 * has no id of its own (log records, and what the pipeline counts of spans) would stand twice.
 */

/** For how long a repeat is known, ms: longer than senders try. */
const KEPT = 60 * MINUTE;

/** Another process stored a request that was about to be stored. */
export class RepeatError extends Error {
  override name = "RepeatError";
}

/** The batches without those whose requests are stored already, or stand before them in the list. */
export async function withoutRepeats(pool: pg.Pool, batches: readonly Batch[]): Promise<readonly Batch[]> {
  const requests = batches.flatMap(({ request }) => request ?? []);
  if (requests.length === 0) return batches;
  const { rows } = await pool.query<{ id: string }>("SELECT id FROM stored_request WHERE id = ANY($1::text[])", [
    requests,
  ]);
  const stored = new Set(rows.map(({ id }) => id));
  return batches.filter(({ request }) => {
    if (request === null) return true;
    if (stored.has(request)) return false;
    stored.add(request);
    return true;
  });
}

/** Notes the requests of batches inside the transaction that stores them. @throws RepeatError where one is stored */
export async function noteRequests(client: pg.PoolClient, batches: readonly Batch[], now: number): Promise<void> {
  // In one order everywhere, so that two processes never wait for each other in a circle.
  const requests = batches.flatMap(({ request }) => request ?? []).sort();
  if (requests.length === 0) return;
  const { rowCount } = await client.query(
    "INSERT INTO stored_request (id, at) SELECT id, $2 FROM unnest($1::text[]) AS id ON CONFLICT DO NOTHING",
    [requests, now],
  );
  if (rowCount !== requests.length) throw new RepeatError("a request was stored meanwhile");
}

/** Forgets requests that nobody will send again. @returns how many */
export async function forgetRequests(pool: pg.Pool, now: number): Promise<number> {
  const { rowCount } = await pool.query("DELETE FROM stored_request WHERE at < $1", [now - KEPT]);
  return rowCount ?? 0;
}
