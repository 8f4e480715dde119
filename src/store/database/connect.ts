import pg from "pg";
import { setting } from "@/core/settings/environment";

/** A pool of connections to the store. @throws where no address is set */
export function connect(options: pg.PoolConfig = {}): pg.Pool {
  const connectionString = options.connectionString ?? setting("DATABASE_URL");
  if (!connectionString) {
    throw new Error(
      "DATABASE_URL is not set: start with npm run demo or npm run dev, or point it at a PostgreSQL 15 database",
    );
  }
  const pool = new pg.Pool({ max: 8, connectionTimeoutMillis: 10_000, ...options, connectionString });
  // A connection that breaks, idle or in use, is replaced at the next use; without listeners it would end the process.
  pool.on("error", () => {});
  pool.on("connect", (client) => client.on("error", () => {}));
  return pool;
}

/** Runs `work` on one state of the store: what is changed meanwhile is neither seen twice nor missed. */
export function snapshot<T>(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  return transaction(pool, work, "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY");
}

/** Runs `work` in one transaction on a connection of its own. A broken connection is not handed back. */
export async function transaction<T>(
  pool: pg.Pool,
  work: (client: pg.PoolClient) => Promise<T>,
  begin = "BEGIN",
): Promise<T> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query(begin);
    const result = await work(client);
    await client.query("COMMIT");
    return result;
  } catch (error) {
    await client.query("ROLLBACK").catch((failure: Error) => {
      broken = failure;
    });
    throw error;
  } finally {
    client.release(broken);
  }
}

/** A pool of connections for reading only: to the replica in DATABASE_READ_URL, where there is one. */
export function connectToRead(options: pg.PoolConfig = {}): pg.Pool {
  const connectionString = setting("DATABASE_READ_URL");
  return connect(connectionString ? { connectionString, ...options } : options);
}
