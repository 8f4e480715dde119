import type pg from "pg";
import type { LadderAnswer, RailAnswer } from "@/core/api/answers";
import { evaluate } from "@/core/reading/evaluate";
import { ladderOf } from "@/core/reading/ladder";
import { evaluateMeasure } from "@/core/reading/measure";
import { parseReading } from "@/core/reading/parse";
import type { ReadingResult } from "@/core/reading/result";
import type { Source } from "@/core/reading/source";
import { type MeasureNode, measuresOf } from "@/core/reading/tree";
import { defaultStep, stepBounds } from "@/core/window/steps";
import type { Answers, Job, LadderJob, RailJob, ReadingJob } from "./jobs";
import { Loader } from "./load";
import type { SeriesCache } from "./seriesCache";

/** Answers jobs: fetches what a job needs and computes. Runs in a worker thread. */

/** Histograms of calls in the order in which a ladder prefers them (semantic conventions for servers and consumers). */
const CALL_METRICS = [
  "http.server.request.duration",
  "rpc.server.call.duration",
  "rpc.server.duration",
  "messaging.process.duration",
];
const RECENT = 5 * 60_000;

/** A quoted text for use in a reading. */
function quoted(text: string): string {
  return JSON.stringify(text);
}

async function answerReading(client: pg.PoolClient, cache: SeriesCache, job: ReadingJob): Promise<ReadingResult> {
  const tree = parseReading(job.text);
  const loader = new Loader(client, cache, job.picks);
  const sources = new Map<MeasureNode, Source>();
  for (const node of measuresOf(tree.expression)) sources.set(node, await loader.source(node, job.from, job.to));
  return evaluate(tree, job, sources);
}

/** The histograms that a service has, best for a ladder first. */
async function callMetrics(
  client: pg.PoolClient,
  service: string,
  environment: string,
): Promise<{ name: string; unit: string }[]> {
  const { rows } = await client.query<{ name: string; unit: string }>(
    `SELECT DISTINCT m.name, m.unit FROM metric m
     WHERE m.kind IN ('histogram', 'exponential') AND EXISTS (
       SELECT FROM series s JOIN resource r ON r.id = s.resource_id
       WHERE s.metric_id = m.id AND r.service = $1 AND r.environment = $2)`,
    [service, environment],
  );
  const rank = ({ name, unit }: { name: string; unit: string }) => {
    const place = CALL_METRICS.indexOf(name);
    return place >= 0 ? place : unit === "s" || unit === "ms" ? 100 : 200;
  };
  return rows.sort((a, b) => rank(a) - rank(b) || (a.name < b.name ? -1 : 1));
}

/** Which calls count as failed (semantic conventions: error.type is set on failures; HTTP 5xx are the server's). */
function failedCondition(metric: string): string {
  return metric.startsWith("http.server.")
    ? "http.response.status_code >= 500 or error.type is there"
    : "error.type is there";
}

function whereService(service: string, environment: string): string {
  const inEnvironment = environment === "" ? "environment is missing" : `environment is ${quoted(environment)}`;
  return `service is ${quoted(service)} and ${inEnvironment}`;
}

async function heardReleases(client: pg.PoolClient, service: string, environment: string) {
  const { rows } = await client.query<{ version: string; first_at: string; last_at: string }>(
    "SELECT version, first_at, last_at FROM release WHERE service = $1 AND environment = $2 ORDER BY first_at DESC LIMIT 200",
    [service, environment],
  );
  return rows.map((row) => ({ release: row.version, firstAt: Number(row.first_at), lastAt: Number(row.last_at) }));
}

async function answerLadder(client: pg.PoolClient, cache: SeriesCache, job: LadderJob): Promise<LadderAnswer> {
  const { service, environment, from, to, zone } = job;
  const found = await callMetrics(client, service, environment);
  const chosen = found.find(({ name }) => name === job.metric) ?? found[0];
  const every = defaultStep(from, to, 60_000);
  const heard = await heardReleases(client, service, environment);
  const common = { service, environment, metrics: found.map(({ name }) => name), from, to, every, heard };
  if (!chosen) return { ...common, metric: null, unit: "", failed: "", times: [], axis: [], rungs: [], recentFrom: to };
  const text = `count of ${quoted(chosen.name)} where ${whereService(service, environment)}`;
  const node = parseReading(text).expression as MeasureNode;
  const source = await new Loader(client, cache, {}).source(node, from, to);
  const failed = failedCondition(chosen.name);
  const ladder = ladderOf(source, stepBounds(from, to, every, zone), { metric: chosen.name, failed }, RECENT);
  const first = new Map(heard.map(({ release, firstAt }) => [release, firstAt]));
  const order = (release: string | null) => first.get(release ?? "") ?? 0;
  ladder.rungs.sort((a, b) => order(b.release) - order(a.release));
  return { ...common, ...ladder, metric: chosen.name, unit: chosen.unit, failed };
}

async function answerRail(client: pg.PoolClient, cache: SeriesCache, job: RailJob): Promise<RailAnswer> {
  const { service, environment, from, to } = job;
  const marks = (await heardReleases(client, service, environment))
    .filter(({ release, firstAt }) => release !== "" && firstAt > from && firstAt <= to)
    .map(({ release, firstAt }) => ({ release, at: firstAt }));
  const every = defaultStep(from, to, 120_000);
  const steps = stepBounds(from, to, every);
  const times = Array.from(steps.subarray(1));
  const [chosen] = await callMetrics(client, service, environment);
  if (!chosen) return { from, to, times, traffic: times.map(() => null), marks };
  const node = parseReading(`rate of ${quoted(chosen.name)} where ${whereService(service, environment)}`)
    .expression as MeasureNode;
  const source = await new Loader(client, cache, {}).source(node, from, to);
  const { rows } = evaluateMeasure(node, source, steps, {});
  const values = rows[0]?.values;
  return {
    from,
    to,
    times,
    traffic: times.map((_, i) => (values && Number.isFinite(values[i]) ? values[i] : null)),
    marks,
  };
}

/** Answers any job on a connection. */
export function answer(client: pg.PoolClient, cache: SeriesCache, job: Job): Promise<Answers[Job["type"]]> {
  switch (job.type) {
    case "reading":
      return answerReading(client, cache, job);
    case "ladder":
      return answerLadder(client, cache, job);
    case "rail":
      return answerRail(client, cache, job);
  }
}
