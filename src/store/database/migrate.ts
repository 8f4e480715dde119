import path from "node:path";
import { drizzle } from "drizzle-orm/node-postgres";
import { migrate } from "drizzle-orm/node-postgres/migrator";
import type pg from "pg";
import { LOCKS } from "./locks";

/** Brings the database's tables to what this version needs. Safe to call at every start, from several processes. */
export async function migrateStore(pool: pg.Pool, root = process.cwd()): Promise<void> {
  const client = await pool.connect();
  try {
    await client.query("SELECT pg_advisory_lock($1)", [LOCKS.migration]);
    await migrate(drizzle(pool), { migrationsFolder: path.join(root, "src/store/migrations") });
  } finally {
    await client.query("SELECT pg_advisory_unlock($1)", [LOCKS.migration]).catch(() => {});
    client.release();
  }
}
