import type pg from "pg";
import type { Problem } from "@/core/api/readings";
import type { LadderAnswer, RailAnswer } from "@/core/api/releases";
import type { Picks } from "@/core/reading/conditions";
import { TooMuchError } from "@/core/reading/distribution";
import { boundsOf, evaluate, stepOf } from "@/core/reading/evaluate";
import { ladderOf } from "@/core/reading/ladder";
import { evaluateMeasure } from "@/core/reading/measure";
import { parseReading } from "@/core/reading/parse";
import { metricText, serviceTests } from "@/core/reading/quote";
import type { ReadingResult } from "@/core/reading/result";
import type { Source } from "@/core/reading/source";
import { type MeasureNode, measuresOf, ReadingError } from "@/core/reading/tree";
import { bestForLadder } from "@/core/service/callMetrics";
import { defaultStep, stepBounds } from "@/core/window/steps";
import { previewPurge } from "@/store/strips/purge";
import { answerAdvice } from "./advice";
import { isAway, noteFault } from "./faults";
import type { Answers, Job, LadderJob, RailJob, ReadingJob, ReadingOutcome, ReadingsJob } from "./jobs";
import { answerLatest } from "./latest";
import { type Caches, Loader, type StillWanted } from "./load";
import { answerPoints } from "./points";
import { faultProblem, STORE_AWAY } from "./problems";

/** Answers jobs: fetches what a job needs and computes. Runs in a worker thread. */

const RECENT = 5 * 60_000;

/** What answering has at hand. */
export interface Surroundings {
  client: pg.PoolClient;
  caches: Caches;
  stillWanted: StillWanted;
}

function loaderOf({ client, caches, stillWanted }: Surroundings, picks: Picks): Loader {
  return new Loader(client, caches, picks, stillWanted);
}

async function answerReading(loader: Loader, job: Omit<ReadingJob, "type">): Promise<ReadingResult> {
  const tree = parseReading(job.text);
  const measures = measuresOf(tree.expression);
  let interval = 0;
  if (job.every === null && measures.every(({ every }) => every === null)) {
    for (const node of measures) interval = Math.max(interval, await loader.interval(node, job.from, job.to));
  }
  const every = stepOf(tree, job, interval);
  const steps = stepBounds(job.from, job.to, every, job.zone);
  const sources = new Map<MeasureNode, Source>();
  for (const node of measures) sources.set(node, await loader.source(node, job.from, job.to, boundsOf(node, steps)));
  const result = evaluate(tree, job, every, sources);
  if (result.series.length === 0 && !result.warnings.some(({ code }) => code === "unmatched")) {
    for (const [node, source] of sources) result.warnings.push(await loader.whyEmpty(node, source, job));
  }
  return result;
}

/** Answers several readings over one window; what they share is fetched and decoded once. */
async function answerReadings(around: Surroundings, job: ReadingsJob): Promise<ReadingOutcome[]> {
  const { client } = around;
  const loader = loaderOf(around, job.picks);
  const results: ReadingOutcome[] = [];
  for (const { text, every } of job.readings) {
    // Each answers for itself: what one does to the transaction is taken back before the next.
    await client.query("SAVEPOINT reading");
    try {
      results.push({ ok: true, value: await answerReading(loader, { ...job, text, every }) });
    } catch (error) {
      if ((error as Error).name === "AbortError" || isAway(error)) throw error;
      results.push(refusalOf(error, { ...job, text }));
      await client.query("ROLLBACK TO SAVEPOINT reading");
    }
  }
  return results;
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
  return bestForLadder(rows);
}

/** Which calls count as failed (semantic conventions: error.type is set on failures; HTTP 5xx are the server's). */
function failedCondition(metric: string): string {
  return metric.startsWith("http.server.")
    ? "http.response.status_code >= 500 or error.type is there"
    : "error.type is there";
}

async function heardReleases(client: pg.PoolClient, service: string, environment: string) {
  const { rows } = await client.query<{ version: string; first_at: string; last_at: string }>(
    "SELECT version, first_at, last_at FROM release WHERE service = $1 AND environment = $2 ORDER BY first_at DESC LIMIT 200",
    [service, environment],
  );
  return rows.map((row) => ({ release: row.version, firstAt: Number(row.first_at), lastAt: Number(row.last_at) }));
}

async function answerLadder(around: Surroundings, job: LadderJob): Promise<LadderAnswer> {
  const { client } = around;
  const { service, environment, from, to, zone } = job;
  const found = await callMetrics(client, service, environment);
  const chosen = found.find(({ name }) => name === job.metric) ?? found[0];
  const every = defaultStep(from, to, 60_000);
  const heard = await heardReleases(client, service, environment);
  const common = { service, environment, metrics: found.map(({ name }) => name), from, to, every, heard };
  if (!chosen)
    return {
      ...common,
      metric: null,
      unit: "",
      failed: "",
      times: [],
      axis: [],
      rungs: [],
      recentFrom: to,
      settledTo: null,
    };
  const text = `p50 of ${metricText(chosen.name)} where ${serviceTests(service, environment)}`;
  const node = parseReading(text).expression as MeasureNode;
  const steps = stepBounds(from, to, every, zone);
  const recentFrom = Math.max(from, to - RECENT);
  const bounds = Float64Array.from(new Set([...steps, recentFrom])).sort();
  const source = await loaderOf(around, {}).source(node, from, to, bounds);
  const failed = failedCondition(chosen.name);
  const ladder = ladderOf(source, steps, { metric: chosen.name, failed }, RECENT);
  const first = new Map(heard.map(({ release, firstAt }) => [release, firstAt]));
  const order = (release: string | null) => first.get(release ?? "") ?? 0;
  ladder.rungs.sort((a, b) => order(b.release) - order(a.release));
  return { ...common, ...ladder, metric: chosen.name, unit: chosen.unit, failed };
}

async function answerRail(around: Surroundings, job: RailJob): Promise<RailAnswer> {
  const { client } = around;
  const { service, environment, from, to } = job;
  const marks = (await heardReleases(client, service, environment))
    .filter(({ release, firstAt }) => release !== "" && firstAt > from && firstAt <= to)
    .map(({ release, firstAt }) => ({ release, at: firstAt }));
  const every = defaultStep(from, to, 120_000);
  const steps = stepBounds(from, to, every);
  const times = Array.from(steps.subarray(1));
  const [chosen] = await callMetrics(client, service, environment);
  if (!chosen) return { from, to, times, traffic: times.map(() => null), marks };
  const tests = `${metricText(chosen.name)} where ${serviceTests(service, environment)}`;
  // What has percentiles is a histogram of calls, whatever else goes by its name.
  const calls = parseReading(`p50 of ${tests}`).expression as MeasureNode;
  const node = parseReading(`rate of ${tests}`).expression as MeasureNode;
  const source = await loaderOf(around, {}).source(calls, from, to, steps);
  const { rows } = evaluateMeasure(node, source, steps, {});
  const values = rows[0]?.values;
  const settled = rows[0]?.settledTo ?? Number.POSITIVE_INFINITY;
  return {
    from,
    to,
    times,
    traffic: times.map((_, i) => (values && steps[i] < settled && Number.isFinite(values[i]) ? values[i] : null)),
    marks,
  };
}

/** What the asker can mend, or null for anything else. */
export function problemOf(error: unknown): Problem | null {
  if (error instanceof ReadingError) {
    const { message, position, length, hint, instead } = error;
    const title = "The reading cannot be answered";
    return { title, detail: message, position, length, hint, instead: instead ?? undefined };
  }
  if (error instanceof TooMuchError) return { title: "The reading is too large", detail: error.message };
  return null;
}

/** What is told of a failure: the asker's mistake, the store being away, or a fault of ours, which is written down. */
export function refusalOf(error: unknown, about: object): Extract<ReadingOutcome, { ok: false }> {
  const problem = problemOf(error);
  if (problem) return { ok: false, status: 400, problem };
  if (isAway(error)) return { ok: false, status: 503, problem: STORE_AWAY };
  return { ok: false, status: 500, problem: faultProblem(noteFault(error, { job: about })) };
}

/** Answers any job. @throws ReadingError, TooMuchError */
export function answer(around: Surroundings, job: Job): Promise<Answers[Job["type"]]> {
  switch (job.type) {
    case "reading":
      return answerReading(loaderOf(around, job.picks), job);
    case "readings":
      return answerReadings(around, job);
    case "ladder":
      return answerLadder(around, job);
    case "rail":
      return answerRail(around, job);
    case "latest":
      return answerLatest(loaderOf(around, {}), around.client, job);
    case "advice":
      return answerAdvice(loaderOf(around, {}), job);
    case "points":
      return answerPoints(around, job);
    case "purge preview":
      return previewPurge(around.client, job.request, around.stillWanted);
  }
}
