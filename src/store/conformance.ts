import type pg from "pg";
import { type ArrivedSeries, conform, type Finding, type FindingCode } from "@/core/contract/conform";
import type { ContractBody } from "@/core/contract/contract";
import { fallsOf } from "@/core/contract/falls";
import { renames, type Trait } from "@/core/contract/rename";
import type { Attributes, Kind, Temporality } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { decodeStrip } from "@/core/strip/strip";
import { OWN_SERVICE } from "./catalogue";
import { listContracts } from "./contracts";
import { endOrphans, noteFindings } from "./findings";
import { REPORTING } from "./instruments";
import { type Done, holding } from "./jobs";
import { RAW } from "./partitions";
import { listStrips, readPayloads } from "./strips";

/** Holds arrivals against contracts, and metrics of a release against those of the release before. */

export const CONFORM_EVERY = 10_000;
const MINUTE = 60_000;
/** Series of a contract that are looked at. */
const MOST_SERIES = 50_000;
/** Points of the last minutes are looked at for counters that fall. */
const BACK = 5 * MINUTE;
/** Bytes of strips that one look may read. */
const MOST_BYTES = 16 * 1024 * 1024;

const HELD: readonly FindingCode[] = [
  "kind",
  "unit",
  "missing-attribute",
  "undeclared-attribute",
  "value",
  "too-many-values",
  "temporality",
  "negative",
  "silent",
];

interface SeriesRow {
  id: string;
  service: string;
  environment: string;
  release: string;
  instance: string;
  kind: Kind;
  unit: string;
  temporality: Temporality;
  monotonic: boolean;
  attributes: Attributes;
}

async function arrivedSeries(pool: pg.Pool, name: string, now: number): Promise<Map<number, ArrivedSeries>> {
  const { rows } = await pool.query<SeriesRow>(
    `SELECT s.id, r.service, r.environment, r.release, r.instance, m.kind, m.unit, m.temporality, m.monotonic, s.attributes
     FROM metric m JOIN series s ON s.metric_id = m.id JOIN resource r ON r.id = s.resource_id
     JOIN heard h ON h.resource_id = r.id WHERE m.name = $1 AND h.last_at >= $2 LIMIT ${MOST_SERIES}`,
    [name, now - REPORTING],
  );
  return new Map(
    rows.map(({ id, attributes, ...rest }) => [Number(id), { ...rest, attributes: attributesText(attributes) }]),
  );
}

/** Findings of counters that fell lately without starting anew. */
async function negativeFindings(
  pool: pg.Pool,
  name: string,
  series: ReadonlyMap<number, ArrivedSeries>,
  now: number,
): Promise<Finding[]> {
  const { rows } = await pool.query<{ id: number; temporality: Temporality }>(
    "SELECT id, temporality FROM metric WHERE name = $1 AND monotonic AND kind = 'sum'",
    [name],
  );
  const found = new Map<string, Finding>();
  for (const { id, temporality } of rows) {
    const client = await pool.connect();
    try {
      const notes = await listStrips(client, { metricIds: [id], resolution: RAW, from: now - BACK, to: now });
      let bytes = 0;
      const some = notes.filter(({ size }) => {
        bytes += size;
        return bytes <= MOST_BYTES;
      });
      const payloads = await readPayloads(client, some);
      const sets = [...payloads.values()].flatMap((payload) => decodeStrip(payload));
      for (const { series: at, by, time } of fallsOf(sets, temporality)) {
        const one = series.get(at);
        if (!one || time < now - BACK) continue;
        const { service, environment, release, instance } = one;
        const detail = `it fell by ${by} without starting anew, which a counter must not`;
        found.set(JSON.stringify([service, environment, release, instance]), {
          code: "negative",
          subject: "",
          service,
          environment,
          release,
          instance,
          detail,
        });
      }
    } finally {
      client.release();
    }
  }
  return [...found.values()];
}

async function silentFinding(
  pool: pg.Pool,
  { name, silentAfter, service }: ContractBody,
  now: number,
): Promise<Finding[]> {
  if (silentAfter === null) return [];
  const { rows } = await pool.query<{ last: string | null }>(
    `SELECT max(s.t_to) AS last FROM strip s JOIN metric m ON m.id = s.metric_id WHERE m.name = $1 AND s.resolution = ${RAW}`,
    [name],
  );
  const last = rows[0].last === null ? null : Number(rows[0].last);
  if (last !== null && now - last <= silentAfter * MINUTE) return [];
  const since = last === null ? "never seen" : `not seen since ${new Date(last).toISOString()}`;
  return [
    {
      code: "silent",
      subject: "",
      service,
      environment: "",
      release: "",
      instance: "",
      detail: `${since}; the contract allows ${silentAfter} ${silentAfter === 1 ? "minute" : "minutes"} of silence`,
    },
  ];
}

interface TraitRow extends Omit<Trait, "level"> {
  service: string;
  environment: string;
  release: string;
}

/** How long a release must have reported before what it lacks counts as gone. */
const SETTLED = 5 * MINUTE;

/** Metrics that the newest release of a service lacks and the one before had, with what they may have become. */
async function vanishedFindings(pool: pg.Pool, now: number): Promise<Map<string, Finding[]>> {
  const { rows } = await pool.query<{ service: string; environment: string; newest: string; before: string }>(
    `SELECT service, environment, newest, before FROM (
       SELECT service, environment, version AS newest, first_at, last_at,
         lead(version) OVER w AS before, row_number() OVER w AS place
       FROM release WHERE version <> '' AND service <> $3 WINDOW w AS (PARTITION BY service, environment ORDER BY first_at DESC)
     ) AS ranked WHERE place = 1 AND before IS NOT NULL AND first_at <= $1 AND last_at >= $2`,
    [now - SETTLED, now - REPORTING, OWN_SERVICE],
  );
  const found = new Map<string, Finding[]>();
  for (const { service, environment, newest, before } of rows) {
    const traits = await pool.query<TraitRow>(
      `SELECT r.release, m.name, m.kind, m.unit, m.monotonic,
         coalesce(array_agg(DISTINCT k.key) FILTER (WHERE k.key IS NOT NULL), '{}') AS attributes
       FROM series s JOIN resource r ON r.id = s.resource_id JOIN metric m ON m.id = s.metric_id
       LEFT JOIN LATERAL jsonb_object_keys(s.attributes) AS k(key) ON true
       WHERE r.service = $1 AND r.environment = $2 AND r.release = ANY($3::text[]) GROUP BY 1, 2, 3, 4, 5`,
      [service, environment, [newest, before]],
    );
    const of = (release: string) =>
      traits.rows.filter((row) => row.release === release).map((row): Trait => ({ ...row, level: null }));
    const [had, has] = [of(before), of(newest)];
    const gone = had.filter(({ name }) => !has.some((other) => other.name === name));
    const came = has.filter(({ name }) => !had.some((other) => other.name === name));
    const pairs = renames(gone, came);
    for (const { name } of gone) {
      const to = pairs.find(({ from }) => from === name)?.to ?? "";
      const detail = `${before} had it, ${newest} does not${to === "" ? "" : `; probably renamed to ${to}`}`;
      const one: Finding = {
        code: "vanished",
        subject: to,
        service,
        environment,
        release: newest,
        instance: "",
        detail,
      };
      found.set(name, [...(found.get(name) ?? []), one]);
    }
  }
  return found;
}

/** Looks at everything that arrives now. @returns null where another process is at it */
export function conformDue(pool: pg.Pool, stopped: () => boolean = () => false): Promise<Done | null> {
  return holding(pool, "conformance", async () => {
    const now = Date.now();
    const contracts = await listContracts(pool);
    let done = 0;
    for (const { name, body } of contracts) {
      if (stopped()) break;
      const series = await arrivedSeries(pool, name, now);
      const found = [
        ...conform(body, [...series.values()]),
        ...(body.kind === "counter" ? await negativeFindings(pool, name, series, now) : []),
        ...(await silentFinding(pool, body, now)),
      ];
      await noteFindings(pool, name, HELD, found, now);
      done++;
    }
    const names = contracts.map(({ name }) => name);
    await endOrphans(pool, names, HELD, now);
    const vanished = await vanishedFindings(pool, now);
    for (const [name, found] of vanished) await noteFindings(pool, name, ["vanished"], found, now);
    await endOrphans(pool, [...vanished.keys()], ["vanished"], now);
    return { done, backlog: contracts.length - done, waitingSince: null };
  });
}
