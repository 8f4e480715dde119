import { headProblem } from "../../metric/pointLimits";
import type { KnownMetric } from "../dictionary";
import type { PointHead } from "./group";

/** What a request may say. Times in Unix ms. */
export interface Admission {
  /** From when on points of any metric are taken. */
  surelyFrom: number;
  /** From when on those of one metric are. */
  from: (metric: KnownMetric) => number;
  to: number;
  /** The environment that its sender's token is for: stands in where a resource names none. null: any. */
  environment: string | null;
}

export const ADMIT_ALL: Admission = {
  environment: null,
  surelyFrom: Number.NEGATIVE_INFINITY,
  from: () => Number.NEGATIVE_INFINITY,
  to: Number.POSITIVE_INFINITY,
};

/** Why a point of a metric is refused for when it is said to be; null where it is not. */
export function refusedHead(allowed: Admission, metric: KnownMetric, head: PointHead): string | null {
  const problem = headProblem(head);
  if (problem) return problem;
  if (head.timeMs < allowed.surelyFrom && head.timeMs < allowed.from(metric))
    return `a point lies before what is still kept as it arrives (${new Date(Math.max(head.timeMs, -8.64e15)).toISOString()})`;
  if (head.timeMs > allowed.to)
    return `a point lies in the future (${new Date(Math.min(head.timeMs, 8.64e15)).toISOString()}); check the sender's clock`;
  return null;
}
