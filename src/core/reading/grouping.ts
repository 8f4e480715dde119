import type { Attributes, MetricIdentity } from "../metric/model";
import { valueText } from "../metric/text";
import type { Source, SourceSeries } from "./source";

/** Series that share the values of the attributes they are grouped by. */
export interface SeriesGroup {
  labels: Record<string, string | null>;
  members: { identity: MetricIdentity; series: SourceSeries }[];
}

/** The value of an attribute as a text; null where there is none. */
export function labelOf(attributes: Attributes, name: string): string | null {
  if (!Object.hasOwn(attributes, name)) return null;
  return valueText(attributes[name]);
}

/** Groups the series of a source that pass, by attribute values; null stands where a series lacks the attribute. */
export function groupSeries(
  source: Source,
  passes: (attributes: Attributes) => boolean,
  by: readonly string[],
): SeriesGroup[] {
  const groups = new Map<string, SeriesGroup>();
  for (const { identity, series } of source.metrics) {
    for (const one of series) {
      if (!passes(one.attributes)) continue;
      const values = by.map((name) => labelOf(one.attributes, name));
      const key = JSON.stringify(values);
      let group = groups.get(key);
      if (!group) {
        group = { labels: Object.fromEntries(by.map((name, i) => [name, values[i]])), members: [] };
        groups.set(key, group);
      }
      group.members.push({ identity, series: one });
    }
  }
  return [...groups.values()];
}
