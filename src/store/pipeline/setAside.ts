import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { SetAsideEntry } from "@/core/api/store";
import { setAside } from "../schema";

/**
 * What a background job cannot handle is set aside: it is taken out of the job's way whole, with the reason, so that it
 * harms nothing else and nothing of it is lost. The store page counts it, and deletes it when somebody says so.
 */

export interface Piece {
  kind: "strip" | "window" | "trace" | "export";
  /** The metric, step or exporter that it is of. */
  subject: string;
  points: number;
  reason: unknown;
  body: Uint8Array;
}

/** Puts pieces by, inside the transaction of a connection that also takes them from where they were. */
export async function putAside(client: pg.PoolClient, pieces: readonly Piece[]): Promise<void> {
  for (const { kind, subject, points, reason, body } of pieces)
    await drizzle(client)
      .insert(setAside)
      .values({ at: Date.now(), kind, subject, points, reason: reasonText(reason), body: Buffer.from(body) });
}

function reasonText(reason: unknown): string {
  const text = reason instanceof Error ? `${reason.name}: ${reason.message}` : String(reason);
  return text.replaceAll("\u0000", "").toWellFormed().slice(0, 500);
}

/** What is set aside, by what it is of and why. */
export async function listSetAside(pool: pg.Pool): Promise<SetAsideEntry[]> {
  const { rows } = await pool.query<Record<string, string>>(
    `SELECT kind, subject, reason, count(*) AS pieces, sum(points) AS points, sum(octet_length(body)) AS bytes,
       max(at) AS at FROM set_aside GROUP BY kind, subject, reason ORDER BY max(at) DESC LIMIT 100`,
  );
  return rows.map((row) => ({
    kind: row.kind as SetAsideEntry["kind"],
    subject: row.subject,
    reason: row.reason,
    pieces: Number(row.pieces),
    points: Number(row.points),
    bytes: Number(row.bytes),
    at: Number(row.at),
  }));
}

/** Deletes what is set aside, for good. @returns how many pieces */
export async function deleteSetAside(pool: pg.Pool): Promise<number> {
  const { rowCount } = await pool.query("DELETE FROM set_aside");
  return rowCount ?? 0;
}
