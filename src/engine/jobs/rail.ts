import type pg from "pg";
import type { DriftShift } from "@/core/api/drift";
import type { RailAnswer } from "@/core/api/releases";
import { parseReading } from "@/core/reading/language/parse";
import { metricText, serviceTests } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { evaluateMeasure } from "@/core/reading/measure";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { defaultStep, stepBounds } from "@/core/window/steps";
import { loaderOf, type Surroundings } from "../surroundings";
import { callMetrics, releasesSeen } from "./callsOf";

/**
 * From this length on, traffic is told by the hour, ms: days that are over are kept by the hour, and there are sixty times fewer of
 * them. What lies around a window of half a day is shorter, and shows an outage of minutes.
 */
const BY_THE_HOUR = 2.5 * DAY;

/** Traffic and releases along the time rail. */
export interface RailJob {
  type: "rail";
  service: string;
  environment: string;
  from: number;
  to: number;
}

/** What changed between two moments without a release. */
async function shiftsBetween(
  client: pg.PoolClient,
  service: string,
  environment: string,
  from: number,
  to: number,
): Promise<DriftShift[]> {
  const { rows } = await client.query<{ shifts: DriftShift[] }>(
    "SELECT content -> 'shifts' AS shifts FROM service_drift WHERE service = $1 AND environment = $2",
    [service, environment],
  );
  return (rows[0]?.shifts ?? []).filter(({ at, release }) => release === null && at > from && at <= to);
}

export async function answerRail(around: Surroundings, job: RailJob): Promise<RailAnswer> {
  const { client } = around;
  const { service, environment, from, to } = job;
  const marks = (await releasesSeen(client, service, environment, job))
    .filter(({ release, firstAt }) => release !== "" && firstAt > from && firstAt <= to)
    .map(({ release, firstAt }) => ({ release, at: firstAt }));
  const shifts = await shiftsBetween(client, service, environment, from, to);
  const every = defaultStep(from, to, to - from < BY_THE_HOUR ? 2 * MINUTE : HOUR);
  const steps = stepBounds(from, to, every);
  const times = Array.from(steps.subarray(1));
  const [chosen] = await callMetrics(client, service, environment);
  if (!chosen) return { from, to, times, traffic: times.map(() => null), marks, shifts };
  const tests = `${metricText(chosen.name)} where ${serviceTests(service, environment)}`;
  // What has percentiles is a histogram of calls, whatever else goes by its name.
  const calls = parseReading(`p50 of ${tests}`).expression as MeasureNode;
  const node = parseReading(`rate of ${tests}`).expression as MeasureNode;
  const source = await loaderOf(around).source(calls, from, to, steps);
  const { rows } = evaluateMeasure(node, source, steps, {});
  const values = rows[0]?.values;
  const settled = rows[0]?.settledTo ?? Number.POSITIVE_INFINITY;
  return {
    from,
    to,
    times,
    traffic: times.map((_, i) => (values && steps[i] < settled && Number.isFinite(values[i]) ? values[i] : null)),
    marks,
    shifts,
  };
}
