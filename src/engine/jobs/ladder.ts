import type { LadderAnswer } from "@/core/api/releases";
import { ladderOf } from "@/core/reading/ladder";
import { parseReading } from "@/core/reading/language/parse";
import { metricText, serviceTests } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { MINUTE } from "@/core/window/lengths";
import { defaultStep, stepBounds } from "@/core/window/steps";
import { loaderOf, type Surroundings } from "../surroundings";
import { callMetrics, releasesSeen } from "./callsOf";

const RECENT = 5 * MINUTE;

/** The releases of a service, side by side. */
export interface LadderJob {
  type: "ladder";
  service: string;
  environment: string;
  /** "" lets the engine choose. */
  metric: string;
  from: number;
  to: number;
  zone: string;
}

/** Which calls count as failed (semantic conventions: error.type is set on failures; HTTP 5xx are the server's). */
function failedCondition(metric: string): string {
  return metric.startsWith("http.server.")
    ? "http.response.status_code >= 500 or error.type is there"
    : "error.type is there";
}

export async function answerLadder(around: Surroundings, job: LadderJob): Promise<LadderAnswer> {
  const { client } = around;
  const { service, environment, from, to, zone } = job;
  const found = await callMetrics(client, service, environment);
  const chosen = found.find(({ name }) => name === job.metric) ?? found[0];
  const every = defaultStep(from, to, 60_000);
  const heard = await releasesSeen(client, service, environment);
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
  const source = await loaderOf(around).source(node, from, to, bounds);
  const failed = failedCondition(chosen.name);
  const ladder = ladderOf(source, steps, { metric: chosen.name, failed }, RECENT);
  const first = new Map(heard.map(({ release, firstAt }) => [release, firstAt]));
  const order = (release: string | null) => first.get(release ?? "") ?? 0;
  ladder.rungs.sort((a, b) => order(b.release) - order(a.release));
  return { ...common, ...ladder, metric: chosen.name, unit: chosen.unit, failed };
}
