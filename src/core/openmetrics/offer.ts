import { isTargetInfo } from "./convert";
import type { Family, FamilyType } from "./model";
import { unitFromText } from "./units";

/** What a target offers, as a tree: metric, then its attributes with values. */
export interface OfferedMetric {
  name: string;
  type: FamilyType;
  /** UCUM. */
  unit: string;
  help: string;
  /** Series that collecting it makes: a histogram with all its buckets is one. */
  series: number;
  attributes: OfferedAttribute[];
}

export interface OfferedAttribute {
  name: string;
  distinct: number;
  /** The most frequent values, with the series that have them. */
  values: { value: string; series: number }[];
}

/** Values told of an attribute. */
const MAX_VALUES = 40;

/** The label whose values are parts of one point rather than series of their own. */
function innerLabel({ type }: Family): string | null {
  return type === "histogram" ? "le" : type === "summary" ? "quantile" : null;
}

/** The tree of what families offer, by name. */
export function offerOf(families: readonly Family[]): OfferedMetric[] {
  const byName = new Map<string, Family[]>();
  for (const family of families) {
    if (isTargetInfo(family)) continue;
    byName.set(family.name, [...(byName.get(family.name) ?? []), family]);
  }
  return [...byName.values()].map(offered).sort((a, b) => (a.name < b.name ? -1 : 1));
}

function offered(same: readonly Family[]): OfferedMetric {
  const [first] = same;
  const inner = innerLabel(first);
  const sets = new Map<string, [string, string][]>();
  for (const { samples } of same) {
    for (const { labels, name } of samples) {
      const pairs: [string, string][] = [];
      for (let i = 0; i < labels.length; i += 2)
        if (labels[i] !== inner && labels[i + 1] !== "") pairs.push([labels[i], labels[i + 1]]);
      const parts = pairs.map(([key, value]) => `${key}\u0000${value}`).sort();
      sets.set(first.type === "gaugehistogram" ? `${name}\u0001${parts}` : parts.join("\u0001"), pairs);
    }
  }
  const counts = new Map<string, Map<string, number>>();
  for (const pairs of sets.values()) {
    for (const [key, value] of pairs) {
      const values = counts.get(key) ?? new Map<string, number>();
      counts.set(key, values.set(value, (values.get(value) ?? 0) + 1));
    }
  }
  return {
    name: first.name,
    type: first.type,
    unit: unitFromText(first.unit, first.name),
    help: first.help,
    series: sets.size,
    attributes: [...counts]
      .map(([name, values]) => ({
        name,
        distinct: values.size,
        values: [...values]
          .map(([value, series]) => ({ value, series }))
          .sort((a, b) => b.series - a.series || (a.value < b.value ? -1 : 1))
          .slice(0, MAX_VALUES),
      }))
      .sort((a, b) => (a.name < b.name ? -1 : 1)),
  };
}
