import { labelOf } from "../metric/labels";
import type { KnownSeries } from "../otlp/dictionary";
import { canAnswer, kindInWords, printAggregation } from "../reading/aggregations";
import { type Picks, passes } from "../reading/language/conditions";
import { attributesOf } from "../reading/language/needs";
import { parseReading } from "../reading/language/parse";
import { type MeasureNode, measuresOf, ReadingError, shortAttribute } from "../reading/language/tree";

/** What a draft does to the plates of sheets: those that will have nothing to show, or less. */

/** A reading that stands on a sheet. */
export interface PlateReading {
  sheet: string;
  /** What the sheet is called. */
  name: string;
  id: string;
  /** The plate in words. */
  plate: string;
  text: string;
  /** What is picked where nobody chooses. */
  picks: Picks;
}

/** A plate that a draft breaks. */
export interface BrokenPlate extends Omit<PlateReading, "picks" | "text"> {
  /** Of each of its readings that loses something. */
  why: string[];
}

type SeriesByMetric = ReadonlyMap<string, readonly KnownSeries[]>;

/** Gives a series' attributes, its own before those of its resource. */
const lookUp =
  ({ identity }: KnownSeries) =>
  (name: string) =>
    labelOf(identity, name);

function has(series: readonly KnownSeries[], attribute: string): boolean {
  return series.some((one) => lookUp(one)(attribute) !== undefined);
}

/** What a measure loses, in words; nothing where it goes on as it does. */
function lossesOf(node: MeasureNode, picks: Picks, live: SeriesByMetric, draft: SeriesByMetric): string[] {
  const { metric, aggregation, where, numerator, by } = node;
  const before = live.get(metric);
  // It loses nothing; or nothing of it comes in these minutes, and nothing can be said.
  if (!before) return [];
  const after = draft.get(metric) ?? [];
  if (after.length === 0) return [`nothing called ${metric} is stored any more`];
  const able = (series: readonly KnownSeries[]) => series.filter((one) => canAnswer(aggregation, one.metric.identity));
  if (able(before).length > 0 && able(after).length === 0)
    return [
      `${metric} becomes a ${kindInWords(after[0].metric.identity)}, which cannot be asked for ${printAggregation(aggregation)}`,
    ];
  const asked = new Set([...attributesOf(where), ...attributesOf(numerator), ...by]);
  const gone = [...asked].filter((attribute) => has(before, attribute) && !has(after, attribute));
  if (gone.length > 0) return gone.map((attribute) => `${metric} has no ${shortAttribute(attribute)} any more`);
  const test = passes(where, picks);
  const passing = (series: readonly KnownSeries[]) => series.some((one) => test(lookUp(one)));
  return passing(before) && !passing(after) ? [`no series of ${metric} passes its tests any more`] : [];
}

/**
 * The plates that a draft breaks.
 *
 * @param live and draft: the series of some minutes as they are stored either way, by metric
 */
export function brokenPlates(
  plates: readonly PlateReading[],
  live: SeriesByMetric,
  draft: SeriesByMetric,
): BrokenPlate[] {
  const changed = changedMetrics(live, draft);
  const broken = new Map<string, BrokenPlate>();
  for (const { picks, text, ...plate } of plates) {
    const why = lossesIn(text, picks, changed, draft);
    if (why.length === 0) continue;
    const key = JSON.stringify([plate.sheet, plate.id]);
    broken.set(key, { ...plate, why: [...new Set([...(broken.get(key)?.why ?? []), ...why])] });
  }
  return [...broken.values()];
}

/** The metrics of which a draft does not store the very series that are stored now; most drafts touch few. */
function changedMetrics(live: SeriesByMetric, draft: SeriesByMetric): SeriesByMetric {
  return new Map(
    [...live].filter(([metric, before]) => {
      const after = new Set(draft.get(metric));
      return after.size !== before.length || before.some((one) => !after.has(one));
    }),
  );
}

function lossesIn(text: string, picks: Picks, live: SeriesByMetric, draft: SeriesByMetric): string[] {
  try {
    return measuresOf(parseReading(text).expression).flatMap((node) => lossesOf(node, picks, live, draft));
  } catch (error) {
    // One that is not understood is broken already.
    if (error instanceof ReadingError) return [];
    throw error;
  }
}
