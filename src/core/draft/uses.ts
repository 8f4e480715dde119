import type { MetricIdentity } from "../metric/model";
import type { PipelineConfig } from "../pipeline/config";
import { kindOf, type StepConfig } from "../pipeline/steps";
import { mayMatch } from "../reading/language/mayMatch";
import { parseCondition } from "../reading/language/parse";

/** What a pipeline has to do with a metric. */

/** A step of the lane for metrics that the metric may come to, or comes out of. */
export interface Use {
  step: StepConfig;
  /** From 1, as people count. */
  place: number;
  how: "reads" | "makes" | "may change";
}

function useOf(step: StepConfig, metric: Pick<MetricIdentity, "name" | "unit">): Use["how"] | null {
  const { makes, reads } = kindOf(step);
  if (makes?.(step) === metric.name) return "makes";
  if (!mayMatch(parseCondition(step.where), { metric: metric.name, unit: metric.unit })) return null;
  if (!reads) return "may change";
  return reads(step).has(metric.name) ? "reads" : null;
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
