import type { KnownSeries } from "../otlp/dictionary";
import { trace } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";
import { isCounting, kindOf, type RecordStep, type StepConfig } from "../pipeline/steps";

/** Lanes whose counts would mislead: things counted twice, or only what a sample left. */

/** Steps whose originals go on under the name of what is made of them: what is counted there is counted twice. */
export function originalsBeside(steps: readonly StepConfig[]): string[] {
  return steps.filter((step) => step.on && kindOf(step).doubles?.(step)).map(({ id }) => id);
}

/** Steps that make metrics behind a step that samples: what they count is only what was left. */
export function sampledBefore(steps: readonly RecordStep[]): string[] {
  const on = steps.filter((step) => step.on);
  const first = on.findIndex((step) => kindOf(step).samples);
  if (first < 0) return [];
  return on.slice(first).flatMap((step) => (isCounting(step) ? [step.id] : []));
}

/** Metrics of which series come out both by themselves and in what they were merged into: they would count twice. */
export function countedTwice(lane: Lane, all: Iterable<KnownSeries>): { metric: string; series: number }[] {
  const found = new Map<string, number>();
  // Only steps that send originals on split the way of a series.
  if (!lane.routes.steps.some(({ originals }) => originals)) return [];
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
