import type pg from "pg";
import { nameLikeness } from "@/core/contract/rename";
import { canonicalAttribute, shortAttribute } from "@/core/reading/language/tree";
import { REPORTING } from "../registry/reporting";
import type { Replacement } from "./repairs";

/** What an attribute of a metric has probably become. */

/** Series of the instances that reported last whose attributes are looked at, the latest. */
const LOOKED_AT = 5000;
/** Values of the old attribute that others are held against. */
const VALUES = 1000;
const OFFERED = 4;
/** Names less alike than this, and attributes with a smaller part of the old one's values, are no offer. */
const ALIKE = 0.5;

/** Attributes that a metric had last and that may be what it had as another; nothing while it still had that one. */
export async function attributeReplacements(pool: pg.Pool, metric: string, given: string): Promise<Replacement[]> {
  const attribute = canonicalAttribute(given);
  const { rows: metrics } = await pool.query<{ id: number }>("SELECT id FROM metric WHERE name = $1", [metric]);
  const ids = metrics.map(({ id }) => id);
  const { rows: keys } = await pool.query<{ key: string }>(
    `WITH heard AS (
       SELECT a.resource_id, a.last_at FROM activity a
       WHERE a.resource_id IN (SELECT DISTINCT resource_id FROM series WHERE metric_id = ANY($1)))
     SELECT DISTINCT key FROM (
       SELECT s.attributes FROM series s WHERE s.metric_id = ANY($1)
         AND s.resource_id IN (SELECT resource_id FROM heard WHERE last_at >= (SELECT max(last_at) FROM heard) - $2)
       ORDER BY s.id DESC LIMIT $3
     ) AS latest, jsonb_object_keys(latest.attributes) AS key`,
    [ids, REPORTING, LOOKED_AT],
  );
  if (keys.length === 0 || keys.some(({ key }) => key === attribute)) return [];
  const { rows: shared } = await pool.query<{ key: string; part: number }>(
    `WITH old AS (SELECT DISTINCT value FROM known_value WHERE metric_id = ANY($1) AND key = $2 LIMIT $4)
     SELECT k.key, count(DISTINCT k.value)::float8 / (SELECT count(*) FROM old) AS part
     FROM known_value k JOIN old USING (value) WHERE k.metric_id = ANY($1) AND k.key = ANY($3) GROUP BY 1`,
    [ids, attribute, keys.map(({ key }) => key), VALUES],
  );
  const parts = new Map(shared.map(({ key, part }) => [key, part]));
  return keys
    .map(({ key }) => {
      const [part, likeness] = [parts.get(key) ?? 0, nameLikeness(attribute, key)];
      const why =
        part >= likeness ? `it has ${Math.round(100 * part)} % of the values that it had` : "its name is like it";
      return { to: shortAttribute(key), why, rank: Math.max(part, likeness) };
    })
    .filter(({ rank }) => rank >= ALIKE)
    .sort((a, b) => b.rank - a.rank)
    .slice(0, OFFERED)
    .map(({ to, why }) => ({ to, why }));
}
