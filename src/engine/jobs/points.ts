import type pg from "pg";
import { labelOf } from "@/core/metric/labels";
import type { MetricIdentity, PointSet, SeriesIdentity } from "@/core/metric/model";
import { valueText } from "@/core/metric/text";
import { accumulated } from "@/core/openmetrics/accumulate";
import { familyName, type WrittenPoint, writeFamily } from "@/core/openmetrics/write";
import { type FurtherParts, withFurther } from "@/core/otlp/dictionary";
import type { OutgoingExemplar, OutgoingMetric } from "@/core/otlp/outgoing";
import { metricsRequest } from "@/core/otlp/writeJson";
import { TooMuchError } from "@/core/reading/distribution";
import { takeRows } from "@/core/strip/strip";
import { RAW } from "@/store/database/partitions";
import { listStrips, type StripNote } from "@/store/strips/strips";
import { collect } from "../collect";
import { fill, openAll, seriesIn } from "../fetch";
import type { Surroundings } from "../surroundings";

/** Points of a metric as they arrived, to be written out. */
export interface PointsJob {
  type: "points";
  format: "otlp" | "openmetrics";
  metric: string;
  from: number;
  to: number;
  /** Attributes that a series must have. */
  where: { name: string; value: string }[];
  /** Families that the text holds already. */
  families: string[];
}

/** A piece of what was asked for. */
export interface PointsAnswer {
  text: string;
  points: number;
  /** Where the next piece begins; null where this is the last. */
  next: number | null;
  /** Families that the piece holds. */
  families: string[];
}

/** Points as they arrived, on their way out: OTLP JSON lines piece by piece, or one text of OpenMetrics. */

/** Points of one line of OTLP. */
const TOGETHER = 20_000;
/** Points of one text: a family cannot be cut. */
const MAX_IN_TEXT = 500_000;

interface Metric {
  id: number;
  identity: MetricIdentity;
  description: string;
}

async function metricsNamed(client: pg.PoolClient, name: string): Promise<Metric[]> {
  const { rows } = await client.query<MetricIdentity & { id: number; description: string }>(
    "SELECT id, name, kind, unit, temporality, monotonic, description FROM metric WHERE name = $1 ORDER BY id",
    [name],
  );
  return rows.map(({ id, description, ...identity }) => ({ id, identity, description }));
}

async function identitiesOf(client: pg.PoolClient, ids: Iterable<number>): Promise<Map<number, SeriesIdentity>> {
  const { rows } = await client.query<
    SeriesIdentity & { id: string; scopeName: string; scopeVersion: string; further: FurtherParts | null }
  >(
    `SELECT s.id, s.attributes, s.scope_name AS "scopeName", s.scope_version AS "scopeVersion", s.further,
       r.attributes AS resource
     FROM series s JOIN resource r ON r.id = s.resource_id WHERE s.id = ANY($1::bigint[])`,
    [[...ids]],
  );
  return new Map(
    rows.map(({ id, attributes, resource, scopeName, scopeVersion, further }) => [
      Number(id),
      withFurther({ attributes, resource, scope: { name: scopeName, version: scopeVersion } }, further),
    ]),
  );
}

function passes(identity: SeriesIdentity, where: PointsJob["where"]): boolean {
  return where.every(({ name, value }) => {
    const held = labelOf(identity, name);
    return held !== undefined && valueText(held) === value;
  });
}

/** Where to cut so that about `most` points lie before it; `to` where all do. */
function cutAfter(notes: readonly StripNote[], from: number, to: number, most: number): number {
  let points = 0;
  for (const note of notes) {
    if (points >= most && note.from > from) return note.from;
    points += note.pointCount;
  }
  return to;
}

function within(set: PointSet, from: number, to: number): PointSet {
  const rows: number[] = [];
  for (let row = 0; row < set.count; row++) if (set.timeMs[row] > from && set.timeMs[row] <= to) rows.push(row);
  return rows.length === set.count ? set : takeRows(set, Int32Array.from(rows));
}

async function exemplarsOf(
  client: pg.PoolClient,
  metricId: number,
  from: number,
  to: number,
): Promise<OutgoingExemplar[]> {
  const { rows } = await client.query<Omit<OutgoingExemplar, "series" | "ms"> & { series: string; ms: string }>(
    `SELECT series_id AS series, ms, ns, value, trace_id AS "traceId", span_id AS "spanId", attributes FROM exemplar
     WHERE metric_id = $1 AND ms > $2 AND ms <= $3 ORDER BY ms, ns`,
    [metricId, from, to],
  );
  return rows.map(({ series, ms, ...rest }) => ({ ...rest, series: Number(series), ms: Number(ms) }));
}

/** Points of a metric in (from, to], with who their series are. */
async function read(
  { client, caches, stillWanted }: Surroundings,
  { id, identity, description }: Metric,
  notes: readonly StripNote[],
  { where }: PointsJob,
  from: number,
  to: number,
) {
  const plan = { notes: notes.map((strip) => ({ strip, part: null })), coarse: false };
  const strips = await openAll(client, caches.strips, plan, false);
  stillWanted();
  const names = await identitiesOf(client, seriesIn(strips));
  const wanted = new Set([...names].filter(([, one]) => passes(one, where)).map(([series]) => series));
  await fill(client, strips, wanted);
  stillWanted();
  const sets = [...collect(strips, wanted, "all", caches.strips).values()].flatMap((load) =>
    load()
      .map((set) => within(set, from, to))
      .filter(({ count }) => count > 0),
  );
  const exemplars = (await exemplarsOf(client, id, from, to)).filter(({ series }) => wanted.has(series));
  const metric: OutgoingMetric = { identity, description, sets, exemplars };
  return { metric, names, points: sets.reduce((sum, { count }) => sum + count, 0) };
}

/** A piece of what a job asks for. @throws TooMuchError where a text would be too long */
export async function answerPoints(around: Surroundings, job: PointsJob): Promise<PointsAnswer> {
  const metrics = await metricsNamed(around.client, job.metric);
  const { from, to } = job;
  return job.format === "otlp" ? otlp(around, metrics, job, from, to) : openMetrics(around, metrics, job, from, to);
}

async function otlp(
  around: Surroundings,
  metrics: readonly Metric[],
  job: PointsJob,
  from: number,
  to: number,
): Promise<PointsAnswer> {
  const metricIds = metrics.map(({ id }) => id);
  const notes = await listStrips(around.client, { metricIds, resolution: RAW, from, to });
  const cut = cutAfter(notes, from, to, TOGETHER);
  const answer: PointsAnswer = { text: "", points: 0, next: cut < to ? cut : null, families: [] };
  for (const metric of metrics) {
    const own = notes.filter(({ metricId, from: begins }) => metricId === metric.id && begins <= cut);
    const { metric: out, names, points } = await read(around, metric, own, job, from, cut);
    if (points === 0) continue;
    answer.text += `${JSON.stringify(metricsRequest([out], (series) => names.get(series)!))}\n`;
    answer.points += points;
  }
  return answer;
}

async function openMetrics(
  around: Surroundings,
  metrics: readonly Metric[],
  job: PointsJob,
  from: number,
  to: number,
): Promise<PointsAnswer> {
  const metricIds = metrics.map(({ id }) => id);
  const notes = await listStrips(around.client, { metricIds, resolution: RAW, from, to });
  const stored = notes.reduce((sum, { pointCount }) => sum + pointCount, 0);
  if (stored > MAX_IN_TEXT * 2)
    throw new TooMuchError(
      `about ${stored} points of ${job.metric} lie in this span, a text takes ${MAX_IN_TEXT}; take a shorter span, or OTLP lines`,
    );
  const answer: PointsAnswer = { text: "", points: 0, next: null, families: [] };
  const taken = new Set(job.families);
  for (const metric of metrics) {
    const own = notes.filter(({ metricId }) => metricId === metric.id);
    const { metric: out, names, points } = await read(around, metric, own, job, from, to);
    if (points === 0) continue;
    if (points > MAX_IN_TEXT)
      throw new TooMuchError(`${points} points of ${job.metric} lie in this span, a text takes ${MAX_IN_TEXT}`);
    const totals = accumulated(out);
    const written = totals.sets.flatMap((set) =>
      Array.from({ length: set.count }, (_, row): WrittenPoint => {
        const { resource, attributes } = names.get(set.series[row])!;
        return { resource, attributes, set, row };
      }),
    );
    const identity = freeName(totals.identity, taken);
    taken.add(familyName(identity));
    answer.families.push(familyName(identity));
    answer.text += writeFamily(identity, metric.description, written);
    answer.points += points;
  }
  return answer;
}

/** A text must not hold a family twice: a metric that would be called like another has its kind added. */
function freeName(identity: MetricIdentity, taken: ReadonlySet<string>): MetricIdentity {
  let name = identity.name;
  for (const more of [identity.kind, identity.temporality, "again", "2", "3", "4", "5"]) {
    if (!taken.has(familyName({ ...identity, name }))) break;
    name = `${name}_${more}`;
  }
  return { ...identity, name };
}
