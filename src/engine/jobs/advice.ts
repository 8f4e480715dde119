import { advise } from "@/core/advice/advise";
import type { AdviceAnswer } from "@/core/api/instruments";
import type { Layout } from "@/core/metric/model";
import { makeCells } from "@/core/reading/cells";
import { distributionOf } from "@/core/reading/distribution";
import { groupSeries } from "@/core/reading/grouping";
import { parseReading } from "@/core/reading/language/parse";
import { metricText } from "@/core/reading/language/quote";
import { type MeasureNode, ReadingError } from "@/core/reading/language/tree";
import { MINUTE } from "@/core/window/lengths";
import { defaultStep, stepBounds } from "@/core/window/steps";
import { loaderOf, type Surroundings } from "../surroundings";

/** Bucket bounds for a histogram, from what was observed. */
export interface AdviceJob {
  type: "advice";
  metric: string;
  from: number;
  to: number;
  zone: string;
  percents: number[];
  count: number;
}

const SHORTEST_STEP = MINUTE;

/** The bounds that all explicit histograms share; null where they differ or are exponential. */
function sharedBounds(layouts: ReadonlySet<Layout>): number[] | null {
  const explicit = [...layouts].filter((layout) => layout.kind === "explicit");
  if (explicit.length === 0 || explicit.length < layouts.size) return null;
  const [first] = explicit;
  return explicit.every(({ bounds }) => bounds.join() === first.bounds.join()) ? [...first.bounds] : null;
}

/** Advises bucket bounds from what was observed in a window. @throws ReadingError where the metric is no histogram */
export async function answerAdvice(
  around: Surroundings,
  { metric, from, to, zone, percents, count }: AdviceJob,
): Promise<AdviceAnswer> {
  const node = parseReading(`p50 of ${metricText(metric)}`).expression as MeasureNode;
  const steps = stepBounds(from, to, defaultStep(from, to, SHORTEST_STEP), zone);
  const source = await loaderOf(around).source(node, from, to, steps);
  const unit = source.metrics[0]?.identity.unit ?? "";
  if (source.metrics.some(({ identity }) => !["histogram", "exponential"].includes(identity.kind)))
    throw new ReadingError(`${metric} is no histogram: it has no buckets`, 0, "choose a histogram", metric.length);
  const [group] = groupSeries(source, () => true, []);
  if (!group) return { advice: null, unit };
  const layouts = new Set<Layout>();
  for (const { series } of group.members) for (const { layout } of series.parts) layouts.add(layout);
  const distribution = distributionOf(group, makeCells(steps, null), source.earliest);
  const each = Array.from({ length: steps.length - 1 }, (_, i) => distribution.step(i) ?? []);
  return {
    advice: advise(each, distribution.window() ?? [], percents, count, unit, sharedBounds(layouts)),
    unit,
  };
}
