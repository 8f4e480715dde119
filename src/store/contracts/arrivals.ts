import type pg from "pg";
import type { ArrivedSeries } from "@/core/contract/finding";
import type { Attributes } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { REPORTING } from "../registry/reporting";

/** Series of a contract that are looked at. */
const MAX_SERIES = 50_000;

interface SeriesRow extends Omit<ArrivedSeries, "attributes"> {
  id: string;
  attributes: Attributes;
}

/** The series of a metric whose instances report now, by their ids. */
export async function arrivedSeries(pool: pg.Pool, name: string, now: number): Promise<Map<number, ArrivedSeries>> {
  const { rows } = await pool.query<SeriesRow>(
    `SELECT s.id, r.service, r.environment, r.release, r.instance, m.kind, m.unit, m.temporality, m.monotonic, s.attributes
     FROM metric m JOIN series s ON s.metric_id = m.id JOIN resource r ON r.id = s.resource_id
     JOIN activity h ON h.resource_id = r.id WHERE m.name = $1 AND h.last_at >= $2 LIMIT ${MAX_SERIES}`,
    [name, now - REPORTING],
  );
  return new Map(
    rows.map(({ id, attributes, ...rest }) => [Number(id), { ...rest, attributes: attributesText(attributes) }]),
  );
}
