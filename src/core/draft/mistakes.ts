import type { KnownSeries } from "../otlp/dictionary";
import { readMetrics } from "../pipeline/compute";
import { trace } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";
import type { StepConfig } from "../pipeline/metricSteps";
import type { RecordStep } from "../pipeline/recordSteps";

/** Lanes whose counts would mislead: things counted twice, or only what a sample left. */

/** Steps whose originals go on under the name of what is made of them: what is counted there is counted twice. */
export function originalsBeside(steps: readonly StepConfig[]): string[] {
  return steps
    .filter((step) => {
      if (!step.on) return false;
      if (step.type === "merge") return step.originals && step.to === "" && step.how !== "distinct";
      return step.type === "compute" && step.originals && readsItself(step);
    })
    .map(({ id }) => id);
}

function readsItself(step: Extract<StepConfig, { type: "compute" }>): boolean {
  try {
    return readMetrics(step).has(step.to);
  } catch {
    // A reading that is not understood is told at its step.
    return false;
  }
}

/** Steps that make metrics behind a step that samples: what they count is only what was left. */
export function sampledBefore(steps: readonly RecordStep[]): string[] {
  const on = steps.filter((step) => step.on);
  const first = on.findIndex(({ type }) => type === "sample" || type === "tail");
  if (first < 0) return [];
  return on.slice(first).flatMap(({ id, type }) => (type === "spans" || type === "records" ? [id] : []));
}

/** Metrics of which series come out both by themselves and in what they were merged into: they would count twice. */
export function countedTwice(lane: Lane, all: Iterable<KnownSeries>): { metric: string; series: number }[] {
  const found = new Map<string, number>();
  // Only steps that send originals on split the way of a series.
  if (!lane.routes.steps.some(({ config }) => "originals" in config && config.originals)) return [];
  for (const series of all) {
    const ends = trace(lane, series);
    if (ends.length < 2) continue;
    const names = ends.map(({ series: { metric } }) => `${metric.identity.kind} ${metric.identity.name}`);
    const twice = ends.find((_, i) => names.indexOf(names[i]) !== i);
    if (!twice) continue;
    const { name } = twice.series.metric.identity;
    found.set(name, (found.get(name) ?? 0) + 1);
  }
  return [...found].map(([metric, count]) => ({ metric, series: count })).sort((a, b) => b.series - a.series);
}
