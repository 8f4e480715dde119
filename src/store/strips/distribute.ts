import pg from "pg";
import { setting } from "@/core/settings/environment";
import { connect } from "../database/connect";
import { migrateStore } from "../database/migrate";

/**
 * Distributes the table of strips over other PostgreSQL servers by the hash of the metric, with PostgreSQL's own means:
 * declarative partitioning here, `postgres_fdw` to reach the servers, `dblink` to create and drop partitions on them.
 * Everything else stays in this database. Safe to run again; strips that stand here already are moved.
 *
 * ```
 * DATABASE_URL=postgres://… node .build/distribute.js postgres://shard-a/… postgres://shard-b/…
 * ```
 */

const COLUMNS = `
  id bigint NOT NULL DEFAULT nextval('strip_id'),
  metric_id integer NOT NULL,
  resolution smallint NOT NULL,
  level smallint NOT NULL,
  arrived bigint NOT NULL DEFAULT currval('strip_id'),
  t_from bigint NOT NULL,
  t_to bigint NOT NULL,
  series_count integer NOT NULL,
  point_count integer NOT NULL,
  payload bytea NOT NULL,
  head_size integer NOT NULL DEFAULT 0,
  size integer NOT NULL DEFAULT 0`;
const NAMES =
  "id, metric_id, resolution, level, arrived, t_from, t_to, series_count, point_count, payload, head_size, size";

function option(name: string, value: string): string {
  return `${name} ${pg.escapeLiteral(value)}`;
}

async function addServer(client: pg.Client, name: string, url: URL): Promise<void> {
  const server = [
    option("host", url.hostname),
    option("port", url.port || "5432"),
    option("dbname", url.pathname.slice(1)),
    option("fetch_size", "1000"),
    option("batch_size", "100"),
    // Strips of different servers are fetched side by side.
    option("async_capable", "true"),
  ];
  const user = [option("user", decodeURIComponent(url.username)), option("password", decodeURIComponent(url.password))];
  await client.query(`CREATE SERVER ${name} FOREIGN DATA WRAPPER postgres_fdw OPTIONS (${server.join(", ")})`);
  await client.query(`CREATE USER MAPPING FOR CURRENT_USER SERVER ${name} OPTIONS (${user.join(", ")})`);
}

/** Partitions that the strips here need on the servers. */
async function partitionsHere(client: pg.Client): Promise<string[]> {
  const { rows } = await client.query<{ statement: string }>(
    `SELECT format('CREATE TABLE IF NOT EXISTS %I PARTITION OF %I %s', c.relname, p.relname, pg_get_expr(c.relpartbound, c.oid)) AS statement
     FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid JOIN pg_class p ON p.oid = i.inhparent
     WHERE p.relname IN ('strip_raw', 'strip_minute', 'strip_hour')`,
  );
  return rows.map(({ statement }) => statement);
}

async function isDistributed(client: pg.Client): Promise<boolean> {
  const { rows } = await client.query("SELECT 1 FROM pg_foreign_server WHERE srvname LIKE 'strip\\_shard\\_%'");
  return rows.length > 0;
}

async function distribute(shards: readonly string[]): Promise<void> {
  const pool = connect();
  await migrateStore(pool);
  await pool.end();
  const client = new pg.Client({ connectionString: setting("DATABASE_URL") ?? undefined });
  await client.connect();
  const there = await isDistributed(client);
  const partitions = there ? [] : await partitionsHere(client);
  for (const url of shards) {
    const shard = connect({ connectionString: url });
    await migrateStore(shard);
    for (const statement of partitions) await shard.query(statement);
    await shard.end();
  }
  if (!there) {
    await client.query("BEGIN");
    await client.query("CREATE EXTENSION IF NOT EXISTS postgres_fdw");
    await client.query("CREATE EXTENSION IF NOT EXISTS dblink");
    await client.query("ALTER TABLE strip RENAME TO strip_before");
    await client.query(`CREATE TABLE strip (${COLUMNS}) PARTITION BY HASH (metric_id)`);
    for (const [i, url] of shards.entries()) {
      const name = `strip_shard_${i}`;
      await addServer(client, name, new URL(url));
      await client.query(
        `CREATE FOREIGN TABLE ${name} PARTITION OF strip FOR VALUES WITH (MODULUS ${shards.length}, REMAINDER ${i})
         SERVER ${name} OPTIONS (table_name 'strip')`,
      );
    }
    await client.query(`INSERT INTO strip (${NAMES}) SELECT ${NAMES} FROM strip_before`);
    await client.query("DROP TABLE strip_before");
    await client.query("COMMIT");
  }
  await client.end();
}

const shards = process.argv.slice(2);
if (shards.length < 2) {
  process.stderr.write("Say the addresses of two or more PostgreSQL databases to distribute strips over.\n");
  process.exit(2);
}
await distribute(shards);
process.stdout.write(`Strips are distributed over ${shards.length} databases.\n`);
