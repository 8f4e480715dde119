import type { LadderAnswer } from "@/core/api/releases";
import { prepareDistributions } from "@/core/compare/distributions";
import { judgeRung } from "@/core/compare/rungs";
import type { Side } from "@/core/compare/side";
import { ladderOf } from "@/core/reading/ladder";
import { parseReading } from "@/core/reading/language/parse";
import { metricText, serviceTests } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { sidesByRelease } from "@/core/reading/sides";
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

/** Bounds of pieces of a minute or more out of those of steps; what may still change is left out. */
function settledPieces(steps: Float64Array, settledTo: number, times: number): Float64Array {
  return steps.filter((bound, i) => i % times === 0 && bound <= settledTo);
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
  await prepareDistributions();
  const times = Math.max(1, Math.ceil(MINUTE / every));
  const pieces = settledPieces(steps, ladder.settledTo ?? to, times);
  const sides =
    pieces.length > 1
      ? sidesByRelease(source, { metric: chosen.name, failed }, pieces)
      : new Map<string | null, Side>();
  const rungs = ladder.rungs.map((rung, i) => {
    const before = ladder.rungs.at(i + 1);
    const change = before
      ? judgeRung(sides.get(rung.release), sides.get(before.release), before.release, every * times)
      : null;
    return { ...rung, change };
  });
  return { ...common, ...ladder, rungs, metric: chosen.name, unit: chosen.unit, failed };
}
