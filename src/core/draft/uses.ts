import type { MetricIdentity } from "../metric/model";
import { readMetrics } from "../pipeline/compute";
import type { PipelineConfig } from "../pipeline/config";
import type { StepConfig } from "../pipeline/metricSteps";
import { mayMatch } from "../reading/mayMatch";
import { parseCondition } from "../reading/parse";

/** What a pipeline has to do with a metric. */

/** A step of the lane for metrics that the metric may come to, or comes out of. */
export interface Use {
  step: StepConfig;
  /** From 1, as people count. */
  place: number;
  how: "reads" | "makes" | "may change";
}

/** Names of metrics that a step gives its points. */
function madeBy(step: StepConfig): string {
  return "to" in step && (step.type === "merge" || step.type === "metric" || step.type === "compute") ? step.to : "";
}

function useOf(step: StepConfig, metric: Pick<MetricIdentity, "name" | "unit">): Use["how"] | null {
  if (madeBy(step) === metric.name) return "makes";
  if (!mayMatch(parseCondition(step.where), { metric: metric.name, unit: metric.unit })) return null;
  if (step.type !== "compute") return "may change";
  return readMetrics(step).has(metric.name) ? "reads" : null;
}

/**
 * The steps that are on and have to do with a metric.
 *
 * @param config one that is valid
 */
export function usesOf({ metrics }: PipelineConfig, metric: Pick<MetricIdentity, "name" | "unit">): Use[] {
  return metrics.flatMap((step, i) => {
    const how = step.on ? useOf(step, metric) : null;
    return how === null ? [] : [{ step, place: i + 1, how }];
  });
}
