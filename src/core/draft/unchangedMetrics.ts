import type { MetricIdentity } from "../metric/model";
import type { KnownSeries } from "../otlp/dictionary";
import { eachStep } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";

/** Metrics that come to a step that cannot change them, as one that cannot be said in its unit: they go through as they are. */

const MAX_NAMED = 3;

/** Why some metrics go through as they are, by the ids of the steps. */
export function unchangedMetrics(lane: Lane, all: Iterable<KnownSeries>): Record<string, string> {
  const { steps } = lane.routes;
  const wanted = steps.map(({ config, kind }) => {
    const unchanged = kind?.unchanged;
    if (!unchanged || config.type === "counted") return null;
    return (identity: MetricIdentity) => unchanged(config, identity);
  });
  if (wanted.every((one) => one === null)) return {};
  const found = new Map<string, Set<string>>();
  for (const one of all)
    eachStep(lane, one, (i, series) => {
      const { config } = steps[i];
      const reason = wanted[i]?.(series.metric.identity) ?? null;
      if (reason === null) return;
      const reasons = found.get(config.id) ?? new Set<string>();
      found.set(config.id, reasons.add(reason));
    });
  return Object.fromEntries(
    [...found].map(([id, reasons]) => {
      const named = [...reasons].sort().slice(0, MAX_NAMED).join("; ");
      const more = reasons.size > MAX_NAMED ? `; and ${reasons.size - MAX_NAMED} more` : "";
      return [id, `goes through as it is: ${named}${more}`];
    }),
  );
}
