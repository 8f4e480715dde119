import type { KnownSeries } from "../otlp/dictionary";
import { eachStep } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";
import { comparable, lenientUnit } from "../unit/unit";

/** Metrics that come to a step that changes units and cannot be said in its unit: they go through as they are. */

const MAX_NAMED = 3;

function reasonOf({ metric }: KnownSeries, to: string): string | null {
  const { name, unit, kind } = metric.identity;
  if (unit === to) return null;
  if (!comparable(lenientUnit(unit), lenientUnit(to)))
    return `${name} is in ${unit === "" ? "no unit" : unit}, which is nothing that ${to} measures`;
  // Its buckets lie at powers of a base, and those of another unit between them.
  return kind === "exponential" ? `${name} is an exponential histogram, whose buckets cannot be moved` : null;
}

/** Why some metrics keep their unit, by the ids of the steps. */
export function unchangedUnits(lane: Lane, all: Iterable<KnownSeries>): Record<string, string> {
  const { steps } = lane.routes;
  if (!steps.some(({ config }) => config.type === "unit")) return {};
  const found = new Map<string, Set<string>>();
  for (const one of all)
    eachStep(lane, one, (i, series) => {
      const { config } = steps[i];
      const reason = config.type === "unit" ? reasonOf(series, config.to) : null;
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
