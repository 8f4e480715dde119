import type pg from "pg";
import { originOf } from "@/core/http/origin";
import { openSecret, sealSecret } from "../database/secrets";

/**
 * Secret headers of exporters. They can be set and forgotten, never read out, and are sent to the address only that they
 * were given for: whoever changes that has to know them.
 */

/** A secret that was given for another address. */
export class OtherOriginError extends Error {
  override name = "OtherOriginError";
}

/** @param address what the exporter sends to; "" where it sends nothing */
export async function setExporterSecret(
  pool: pg.Pool,
  { exporter, name, value, address }: { exporter: string; name: string; value: string; address: string },
): Promise<void> {
  if (value === "") {
    await pool.query("DELETE FROM exporter_secret WHERE exporter = $1 AND name = $2", [exporter, name]);
    return;
  }
  await pool.query(
    `INSERT INTO exporter_secret (exporter, name, value, origin) VALUES ($1, $2, $3, $4)
     ON CONFLICT (exporter, name) DO UPDATE SET value = excluded.value, origin = excluded.origin`,
    [exporter, name, sealSecret(value), originOf(address)],
  );
}

/** Which secrets are set: names of headers by exporter, and for which origin. */
export async function listExporterSecrets(
  pool: pg.Pool,
): Promise<{ exporter: string; name: string; origin: string }[]> {
  const { rows } = await pool.query<{ exporter: string; name: string; origin: string }>(
    "SELECT exporter, name, origin FROM exporter_secret ORDER BY 1, 2",
  );
  return rows;
}

/**
 * The values of an exporter's secrets, by name.
 *
 * @param address where they will be sent; "" where nowhere
 * @throws OtherOriginError where one was given for another; an error where they were saved under another key
 */
export async function openExporterSecrets(
  pool: pg.Pool,
  exporter: string,
  address: string,
): Promise<Record<string, string>> {
  const { rows } = await pool.query<{ name: string; value: Buffer; origin: string }>(
    "SELECT name, value, origin FROM exporter_secret WHERE exporter = $1",
    [exporter],
  );
  const to = originOf(address);
  const other = rows.find(({ origin }) => origin !== to);
  if (other)
    throw new OtherOriginError(
      `${other.name} was given for ${other.origin || "no address"} and is not sent to ${to || "any"}: enter it again`,
    );
  return Object.fromEntries(rows.map(({ name, value }) => [name, openSecret(value)]));
}
