import type pg from "pg";
import { type ArrivedSeries, conform, type Finding, type FindingCode } from "@/core/contract/conform";
import type { ContractBody } from "@/core/contract/contract";
import type { Attributes, Kind, Temporality } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { MINUTE } from "@/core/window/lengths";
import { RAW } from "../database/partitions";
import type { BackgroundJob } from "../jobs/job";
import { REPORTING } from "../registry/instruments";
import { listContracts } from "./contracts";
import { counterDecreaseFindings } from "./counterDecreases";
import { endOrphans, noteFindings } from "./findings";
import { missingMetricFindings } from "./missingMetrics";
import { doubledFindings, mixedFindings } from "./mixed";

/** Holds arrivals against contracts, and metrics of a release against those of the release before. */

/** Series of a contract that are looked at. */
const MAX_SERIES = 50_000;

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
     JOIN heard h ON h.resource_id = r.id WHERE m.name = $1 AND h.last_at >= $2 LIMIT ${MAX_SERIES}`,
    [name, now - REPORTING],
  );
  return new Map(
    rows.map(({ id, attributes, ...rest }) => [Number(id), { ...rest, attributes: attributesText(attributes) }]),
  );
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

/** Looks at everything that arrives now. */
export const CONFORMANCE: BackgroundJob = {
  name: "conformance",
  does: "hold arrivals against contracts",
  every: 10_000,
  looksAtAll: true,
  pass: async (pool, now, stopped) => {
    const contracts = await listContracts(pool);
    let done = 0;
    for (const { name, body } of contracts) {
      if (stopped()) break;
      const series = await arrivedSeries(pool, name, now);
      const found = [
        ...conform(body, [...series.values()]),
        ...(body.kind === "counter" ? await counterDecreaseFindings(pool, name, series, now) : []),
        ...(await silentFinding(pool, body, now)),
      ];
      await noteFindings(pool, name, HELD, found, now);
      done++;
    }
    const names = contracts.map(({ name }) => name);
    await endOrphans(pool, names, HELD, now);
    for (const [code, find] of [
      ["vanished", missingMetricFindings],
      ["mixed", mixedFindings],
      ["two-writers", doubledFindings],
    ] as const) {
      const all = await find(pool, now);
      for (const [name, found] of all) await noteFindings(pool, name, [code], found, now);
      await endOrphans(pool, [...all.keys()], [code], now);
    }
    return { done, backlog: contracts.length - done, waitingSince: null };
  },
};
