import type pg from "pg";
import type { Finding } from "@/core/contract/finding";
import { levelOf } from "@/core/contract/level";
import { wouldHaveCome } from "@/core/contract/missed";
import { renames, type Trait } from "@/core/contract/rename";
import type { MetricIdentity } from "@/core/metric/model";
import { decodeStrip, takeRows } from "@/core/strip/strip";
import { MINUTE } from "@/core/window/lengths";
import { RAW } from "../database/partitions";
import { OWN_SERVICE } from "../registry/catalogue";
import { REPORTING } from "../registry/reporting";
import { listStrips, readPayloads } from "../strips/strips";

/** Metrics that the newest release of a service lacks and the one before had, with what they may have become. */

/** How long a release must have reported before what it lacks counts as gone. */
const SETTLED = 5 * MINUTE;
/** The span at the end of a release's time that its levels are taken from. */
const LEVEL_SPAN = 10 * MINUTE;
/** Bytes of strips that one level may take to read. */
const MAX_BYTES = 8 * 1024 * 1024;

interface Pair {
  service: string;
  environment: string;
  newest: string;
  newestLastAt: number;
  /** Since when the newest reports here, Unix ms. */
  newestSince: number;
  before: string;
  beforeLastAt: number;
}

async function pairsOf(pool: pg.Pool, now: number): Promise<Pair[]> {
  const { rows } = await pool.query<Pair>(
    `SELECT service, environment, newest, before, last_at::float8 AS "newestLastAt", before_last::float8 AS "beforeLastAt",
       greatest(first_at, (SELECT min(h.first_at) FROM activity h JOIN resource r ON r.id = h.resource_id
         WHERE r.service = ranked.service AND r.environment = ranked.environment AND r.release = newest))::float8 AS "newestSince"
     FROM (
       SELECT service, environment, version AS newest, first_at, last_at,
         lead(version) OVER w AS before, lead(last_at) OVER w AS before_last, row_number() OVER w AS place
       FROM release WHERE version <> '' AND service <> $3 WINDOW w AS (PARTITION BY service, environment ORDER BY first_at DESC)
     ) AS ranked WHERE place = 1 AND before IS NOT NULL AND first_at <= $1 AND last_at >= $2
       -- A release may be known from before it sent anything here.
       AND EXISTS (SELECT 1 FROM activity h JOIN resource r ON r.id = h.resource_id
         WHERE r.service = ranked.service AND r.environment = ranked.environment AND r.release = newest AND h.first_at <= $1)`,
    [now - SETTLED, now - REPORTING, OWN_SERVICE],
  );
  return rows;
}

type TraitRow = Omit<Trait, "level" | "kind"> & {
  release: string;
  kind: MetricIdentity["kind"];
  /** Of a metric that comes in several, one of them. */
  temporality: MetricIdentity["temporality"];
  /** Since when its first series is known, Unix ms. */
  since: number;
};

/** What was learnt of a release: traits of its metrics, from the series that there were. */
interface Learnt {
  /** All series up to this one were looked at twice: one that was committed late is not passed by. */
  upTo: bigint;
  /** The last series that was seen. */
  seen: bigint;
  traits: Map<string, TraitRow>;
  since: number;
}

/** By service, environment and release, so that only new series are looked at. */
const learnt = new Map<string, Learnt>();
const MAX_LEARNT = 2000;
/** After this long a release is learnt anew, ms: series may have been deleted. */
const LEARN_AGAIN = 10 * MINUTE;

/** What the metrics of a release are like. Looks only at series that came since it was asked last. */
async function traitsOf(pool: pg.Pool, service: string, environment: string, release: string): Promise<TraitRow[]> {
  const key = JSON.stringify([service, environment, release]);
  if (learnt.size > MAX_LEARNT) learnt.clear();
  const kept = learnt.get(key);
  const fresh = kept && Date.now() - kept.since < LEARN_AGAIN;
  const known = fresh ? kept : { upTo: 0n, seen: 0n, traits: new Map<string, TraitRow>(), since: Date.now() };
  const { rows } = await pool.query<TraitRow & { last: string }>(
    `SELECT r.release, m.name, m.kind, m.unit, m.monotonic, max(m.temporality) AS temporality, max(s.id) AS last, min(s.first_at)::float8 AS since,
       coalesce(array_agg(DISTINCT k.key) FILTER (WHERE k.key IS NOT NULL), '{}') AS attributes
     FROM series s JOIN resource r ON r.id = s.resource_id JOIN metric m ON m.id = s.metric_id
     LEFT JOIN LATERAL jsonb_object_keys(s.attributes) AS k(key) ON true
     WHERE r.service = $1 AND r.environment = $2 AND r.release = $3 AND s.id > $4 GROUP BY 1, 2, 3, 4, 5`,
    [service, environment, release, String(known.upTo)],
  );
  known.upTo = known.seen;
  for (const { last, ...row } of rows) {
    if (BigInt(last) > known.seen) known.seen = BigInt(last);
    const kind = JSON.stringify([row.name, row.kind, row.unit, row.monotonic]);
    const before = known.traits.get(kind);
    known.traits.set(kind, {
      ...row,
      since: Math.min(row.since, before?.since ?? row.since),
      attributes: [...new Set([...(before?.attributes ?? []), ...row.attributes])],
    });
  }
  learnt.set(key, known);
  return [...known.traits.values()];
}

/** Levels by service, environment, release and metric. They are taken once: a release does not change what it measures. What is not known yet is looked for again. */
const levels = new Map<string, number | null>();
const MAX_LEVELS = 10_000;

async function levelIn(
  pool: pg.Pool,
  { service, environment }: Pair,
  { release, name }: TraitRow,
  end: number,
): Promise<number | null> {
  const key = JSON.stringify([service, environment, release, name]);
  const known = levels.get(key);
  if (known !== undefined) return known;
  if (levels.size > MAX_LEVELS) levels.clear();
  const level = await readLevel(pool, [service, environment, release, name], end);
  if (level !== null || end < Date.now() - LEVEL_SPAN) levels.set(key, level);
  return level;
}

async function readLevel(pool: pg.Pool, place: readonly string[], end: number): Promise<number | null> {
  const { rows } = await pool.query<MetricIdentity & { id: number; series: string[] }>(
    `SELECT m.id, m.name, m.kind, m.unit, m.temporality, m.monotonic, array_agg(s.id) AS series
     FROM series s JOIN resource r ON r.id = s.resource_id JOIN metric m ON m.id = s.metric_id
     WHERE r.service = $1 AND r.environment = $2 AND r.release = $3 AND m.name = $4
     GROUP BY m.id ORDER BY m.id DESC LIMIT 1`,
    [...place],
  );
  if (rows.length === 0) return null;
  const [{ id, series, ...identity }] = rows;
  const own = new Set(series.map(Number));
  const client = await pool.connect();
  try {
    const from = end - LEVEL_SPAN;
    let bytes = 0;
    const notes = (await listStrips(client, { metricIds: [id], resolution: RAW, from, to: end })).filter(({ size }) => {
      bytes += size;
      return bytes <= MAX_BYTES;
    });
    const payloads = await readPayloads(client, notes);
    const sets = [...payloads.values()].flatMap((payload) => decodeStrip(payload));
    const wanted = sets.map((set) => {
      const rowsOf = Array.from({ length: set.count }, (_, row) => row);
      const stays = (row: number) => own.has(set.series[row]) && set.timeMs[row] >= from && set.timeMs[row] <= end;
      return takeRows(set, Int32Array.from(rowsOf.filter(stays)));
    });
    return levelOf(identity, wanted);
  } finally {
    client.release();
  }
}

/** Findings of metrics that went with a release, by their names. */
export async function missingMetricFindings(pool: pg.Pool, now: number): Promise<Map<string, Finding[]>> {
  const found = new Map<string, Finding[]>();
  for (const pair of await pairsOf(pool, now)) {
    const { service, environment, newest, before } = pair;
    const had = await traitsOf(pool, service, environment, before);
    const has = await traitsOf(pool, service, environment, newest);
    const lacks = (list: readonly TraitRow[], name: string) => !list.some((other) => other.name === name);
    const went = had.filter(({ name }) => lacks(has, name));
    if (went.length === 0) continue;
    const gone: (TraitRow & Trait)[] = [];
    for (const row of went) gone.push({ ...row, level: await levelIn(pool, pair, row, pair.beforeLastAt) });
    const came: Trait[] = [];
    for (const row of has.filter(({ name }) => lacks(had, name)))
      came.push({ ...row, level: await levelIn(pool, pair, row, pair.newestLastAt) });
    const pairs = renames(gone, came);
    for (const metric of gone) {
      const { name } = metric;
      const to = pairs.find(({ from }) => from === name)?.to ?? "";
      if (to === "" && !wouldHaveCome(metric, now - Math.max(pair.newestSince, metric.since))) continue;
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
