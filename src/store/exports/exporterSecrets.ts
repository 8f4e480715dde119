import type pg from "pg";
import { openSecret, sealSecret } from "../database/secrets";

/** Secret headers of exporters. They can be set and forgotten, never read out. */

export async function setExporterSecret(pool: pg.Pool, exporter: string, name: string, value: string): Promise<void> {
  if (value === "") {
    await pool.query("DELETE FROM exporter_secret WHERE exporter = $1 AND name = $2", [exporter, name]);
    return;
  }
  await pool.query(
    `INSERT INTO exporter_secret (exporter, name, value) VALUES ($1, $2, $3)
     ON CONFLICT (exporter, name) DO UPDATE SET value = excluded.value`,
    [exporter, name, sealSecret(value)],
  );
}

/** Which secrets are set: names of headers by exporter. */
export async function listExporterSecrets(pool: pg.Pool): Promise<{ exporter: string; name: string }[]> {
  const { rows } = await pool.query<{ exporter: string; name: string }>(
    "SELECT exporter, name FROM exporter_secret ORDER BY 1, 2",
  );
  return rows;
}

/** The values of an exporter's secrets, by name. @throws where they were saved under another key */
export async function openExporterSecrets(pool: pg.Pool, exporter: string): Promise<Record<string, string>> {
  const { rows } = await pool.query<{ name: string; value: Buffer }>(
    "SELECT name, value FROM exporter_secret WHERE exporter = $1",
    [exporter],
  );
  return Object.fromEntries(rows.map(({ name, value }) => [name, openSecret(value)]));
}
