import { isLevel, type MetricIdentity } from "../metric/model";
import { valueText } from "../metric/text";
import { comparable, lenientUnit } from "../unit/unit";
import { canAnswer, kindInWords } from "./aggregations";
import type { Aggregation } from "./language/tree";
import { inOtherUnit } from "./rescale";
import type { Warning } from "./result";
import type { MetricSource } from "./source";

/** Kinds of one family are read together. */
function familyOf(identity: MetricIdentity): string {
  return isLevel(identity) ? "level" : kindInWords(identity);
}

/** The key of most points; of equal ones the first. */
function ofMost<T extends { points: number }>(all: readonly T[], key: (one: T) => string): string {
  const sums = new Map<string, number>();
  for (const one of all) sums.set(key(one), (sums.get(key(one)) ?? 0) + one.points);
  let best = "";
  let most = -1;
  for (const [name, points] of sums) {
    if (points <= most) continue;
    best = name;
    most = points;
  }
  return best;
}

const MAX_NAMED = 3;

function sendersOf({ series }: MetricSource): string {
  const names = new Set<string>();
  for (const { attributes } of series)
    names.add(Object.hasOwn(attributes, "service.name") ? valueText(attributes["service.name"]) : "no named service");
  const more = names.size - MAX_NAMED;
  return [...names].slice(0, MAX_NAMED).join(", ") + (more > 0 ? ` and ${more} more` : "");
}

function seriesWords({ series }: MetricSource): string {
  return `${series.length} series`;
}

/** Several metrics of one name: those that a measure reads together, in one unit, and what is said of the others. */
export interface Chosen {
  metrics: MetricSource[];
  warnings: Warning[];
}

/**
 * Of metrics that share a name, those that a measure reads: of the kind that it asks for and, where several answer it,
 * of the kind with most points; then of the unit with most points and of those that convert to it.
 *
 * @param metrics all of the name, the one that was defined last first; `points`: how many of each lie in what is read
 */
export function chooseMetrics(how: Aggregation, metrics: readonly MetricSource[]): Chosen {
  const warnings: Warning[] = [];
  if (metrics.length === 0) return { metrics: [], warnings };
  const able = metrics.filter(({ identity }) => canAnswer(how, identity));
  const candidates = able.length > 0 ? able : metrics;
  const family = ofMost(candidates, ({ identity }) => familyOf(identity));
  const own = candidates.filter(({ identity }) => familyOf(identity) === family);
  const read = kindInWords(own[0].identity);
  for (const other of metrics) {
    if (own.includes(other) || other.series.length === 0) continue;
    warnings.push({
      code: "mixed-kinds",
      message: `${other.identity.name} also arrives as a ${kindInWords(other.identity)} from ${sendersOf(other)} (${seriesWords(other)}), which is left out: this reads the ${read}`,
    });
  }
  const unit = ofMost(own, ({ identity }) => identity.unit);
  const main = lenientUnit(unit);
  const converted = own.flatMap((metric): MetricSource[] => {
    if (metric.identity.unit === unit) return [metric];
    const from = lenientUnit(metric.identity.unit);
    const scaled = comparable(from, main) ? inOtherUnit(metric, unit, from.scale / main.scale) : null;
    if (scaled) return [scaled];
    if (metric.series.length > 0)
      warnings.push({
        code: "mixed-units",
        message: `${metric.identity.name} also arrives in ${metric.identity.unit || "no unit"} from ${sendersOf(metric)} (${seriesWords(metric)}), which is left out beside ${unit || "no unit"}`,
      });
    return [];
  });
  return { metrics: converted, warnings };
}
