import type pg from "pg";
import type { Finding } from "@/core/contract/finding";
import type { MetricIdentity, PointSet } from "@/core/metric/model";
import { kindInWords } from "@/core/reading/aggregations";
import { writersOf } from "@/core/reading/writers";
import { assemble } from "@/core/strip/assemble";
import { decodeStrip } from "@/core/strip/strip";
import { MINUTE } from "@/core/window/lengths";
import { isDamage } from "../database/contentError";
import { RAW } from "../database/partitions";
import { OWN_SERVICE } from "../registry/catalogue";
import { REPORTING } from "../registry/reporting";
import { listStrips, readPayloads } from "../strips/strips";

/** What readings have to take apart: several kinds or units under one name, and several processes under one identity. */

interface Sender extends Pick<MetricIdentity, "name" | "kind" | "unit" | "temporality" | "monotonic"> {
  service: string;
  environment: string;
  release: string;
  series: number;
}

const looksLike = (one: Sender) => `${kindInWords(one)}${one.unit ? ` in ${one.unit}` : ""}`;

/** Metrics whose name is sent as several kinds or in several units now, by name: whoever sends what fewer series have. */
export async function mixedFindings(pool: pg.Pool, now: number): Promise<Map<string, Finding[]>> {
  const { rows } = await pool.query<Sender>(
    `SELECT m.name, m.kind, m.unit, m.temporality, m.monotonic, r.service, r.environment, r.release, count(*)::int AS series
     FROM metric m JOIN series s ON s.metric_id = m.id JOIN resource r ON r.id = s.resource_id
     JOIN activity h ON h.resource_id = r.id
     WHERE m.name IN (SELECT name FROM metric GROUP BY name HAVING count(*) > 1) AND h.last_at >= $1 AND r.service <> $2
     GROUP BY m.id, r.service, r.environment, r.release ORDER BY m.name LIMIT 20000`,
    [now - REPORTING, OWN_SERVICE],
  );
  const byName = new Map<string, Sender[]>();
  for (const row of rows) byName.set(row.name, [...(byName.get(row.name) ?? []), row]);
  const found = new Map<string, Finding[]>();
  for (const [name, senders] of byName) {
    const series = new Map<string, number>();
    for (const one of senders) series.set(looksLike(one), (series.get(looksLike(one)) ?? 0) + one.series);
    if (series.size < 2) continue;
    const [usual] = [...series].sort(([, a], [, b]) => b - a)[0];
    found.set(
      name,
      senders
        .filter((one) => looksLike(one) !== usual)
        .map((one) => ({
          code: "mixed",
          subject: looksLike(one),
          service: one.service,
          environment: one.environment,
          release: one.release,
          instance: "",
          detail: `it is sent as a ${looksLike(one)}, elsewhere as a ${usual}; a reading takes one kind at a time and what converts to one unit`,
        })),
    );
  }
  return found;
}

/** Resources that are looked at in one pass, and how far back, ms. */
const MAX_LOOKED_AT = 20;
const BACK = 3 * MINUTE;

interface Suspect {
  metric_id: number;
  name: string;
  series_id: string;
  service: string;
  environment: string;
  release: string;
}

/** One running total of each resource that names no instance: only those can be two processes. */
async function suspects(pool: pg.Pool, now: number): Promise<Suspect[]> {
  const { rows } = await pool.query<Suspect>(
    `SELECT one.metric_id, one.name, one.id AS series_id, r.service, r.environment, r.release
     FROM resource r JOIN activity h ON h.resource_id = r.id
     JOIN LATERAL (
       SELECT s.metric_id, m.name, s.id FROM series s JOIN metric m ON m.id = s.metric_id
       WHERE s.resource_id = r.id AND m.temporality = 'cumulative' AND (m.monotonic OR m.kind <> 'sum')
       ORDER BY s.id LIMIT 1) one ON true
     WHERE h.last_at >= $1 AND r.instance = '' AND r.service <> $2 ORDER BY h.last_at DESC LIMIT ${MAX_LOOKED_AT}`,
    [now - BACK, OWN_SERVICE],
  );
  return rows;
}

async function pointsOf(pool: pg.Pool, { metric_id, series_id }: Suspect, now: number): Promise<PointSet[]> {
  const client = await pool.connect();
  try {
    const notes = await listStrips(client, { metricIds: [metric_id], resolution: RAW, from: now - BACK, to: now });
    const payloads = await readPayloads(client, notes);
    const sets = notes.flatMap(({ id, arrived }) => {
      try {
        return decodeStrip(payloads.get(id)!).map((set) => ({ set, arrived }));
      } catch (error) {
        if (!isDamage(error)) throw error;
        return [];
      }
    });
    return assemble(sets, (id) => id === Number(series_id)).get(Number(series_id)) ?? [];
  } finally {
    client.release();
  }
}

function begins(parts: readonly PointSet[]): string {
  const last = parts[parts.length - 1];
  return new Date(last.startMs[last.count - 1]).toISOString();
}

/** Metrics whose series several processes write at once under one identity, by name. */
export async function doubledFindings(pool: pg.Pool, now: number): Promise<Map<string, Finding[]>> {
  const found = new Map<string, Finding[]>();
  for (const suspect of await suspects(pool, now)) {
    const writers = writersOf(await pointsOf(pool, suspect, now));
    if (writers.length < 2) continue;
    const { name, service, environment, release } = suspect;
    const since = writers.map(begins).join(" and ");
    const finding: Finding = {
      code: "two-writers",
      subject: "",
      service,
      environment,
      release,
      instance: "",
      detail: `${writers.length} processes, begun ${since}, send the same series; set service.instance.id to another value in each`,
    };
    found.set(name, [...(found.get(name) ?? []), finding]);
  }
  return found;
}
