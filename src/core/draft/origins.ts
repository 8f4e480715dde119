import { labelsOf } from "../metric/labels";
import type { SeriesIdentity } from "../metric/model";
import { valueText } from "../metric/text";
import type { KnownSeries } from "../otlp/dictionary";
import { folder } from "../pipeline/fold";
import type { Fold } from "../pipeline/parts";
import type { StepConfig } from "../pipeline/steps";

/** Where series come from: the metrics that make most of them, and the attributes that multiply them. */

/** An attribute of a metric, with those that change whenever it does: without one of them, the others keep series apart. */
export interface Multiplier {
  names: string[];
  /** Different values, and how many there would be if ids in them were folded. */
  values: number;
  folded: number;
  /** Series that would be left without the attributes, and with the first one folded. */
  without: number;
  whenFolded: number;
  /** Those that most series have. */
  examples: string[];
}

export interface Origin {
  metric: string;
  series: number;
  /** Releases that report it, the one with most series first. */
  releases: { release: string; series: number }[];
  /** The one that saves most, first. */
  multipliers: Multiplier[];
}

const MAX_METRICS = 8;
const MAX_MULTIPLIERS = 4;
const MAX_RELEASES = 3;
const MAX_EXAMPLES = 3;
/** Attributes that say who sends; they are not what a metric is divided by on purpose. */
const OF_SENDERS = new Set(["service.name", "service.version", "deployment.environment.name", "telemetry.sdk.name"]);
const FOLDED: readonly Fold[] = ["uuids", "hex", "numbers"];

/** A series' attributes by name, each as one text, so that series are told apart with one of them left out or changed. */
interface Told {
  names: string[];
  values: string[];
  pairs: string[];
}

function told(identity: SeriesIdentity): Told {
  const all = Object.entries(labelsOf(identity)).sort(([a], [b]) => (a < b ? -1 : 1));
  const values = all.map(([, value]) => valueText(value));
  return { names: all.map(([name]) => name), values, pairs: all.map(([name], i) => JSON.stringify([name, values[i]])) };
}

/** How many of some series are left without some attributes. */
function leftWithout(all: readonly Told[], gone: readonly string[]): number {
  return new Set(all.map(({ names, pairs }) => pairs.filter((_, i) => !gone.includes(names[i])).join())).size;
}

/** How many of some series are left where one attribute's values are changed. */
function leftOf(all: readonly Told[], name: string, change: (value: string) => string): number {
  const changed = new Map<string, string>();
  return new Set(
    all.map(({ names, values, pairs }) => {
      const place = names.indexOf(name);
      if (place < 0) return pairs.join();
      let text = changed.get(values[place]);
      if (text === undefined) {
        text = JSON.stringify([name, change(values[place])]);
        changed.set(values[place], text);
      }
      return [...pairs.slice(0, place), text, ...pairs.slice(place + 1)].join();
    }),
  ).size;
}

/** The metrics that most of some series are of. */
export function originsOf(all: Iterable<KnownSeries>): Origin[] {
  const metrics = new Map<string, KnownSeries[]>();
  for (const series of all) {
    const known = metrics.get(series.metric.identity.name);
    if (known) known.push(series);
    else metrics.set(series.metric.identity.name, [series]);
  }
  return [...metrics]
    .sort(([, a], [, b]) => b.length - a.length)
    .slice(0, MAX_METRICS)
    .map(([metric, series]) => ({
      metric,
      series: series.length,
      releases: frequent(series.map(({ identity }) => valueText(identity.resource["service.version"] ?? "")))
        .slice(0, MAX_RELEASES)
        .map(([release, count]) => ({ release, series: count })),
      multipliers: multipliersOf(series),
    }));
}

/** Texts with how often each stands there, the most frequent first. */
function frequent(all: readonly string[]): [text: string, count: number][] {
  const counts = new Map<string, number>();
  for (const text of all) counts.set(text, (counts.get(text) ?? 0) + 1);
  return [...counts].sort(([, a], [, b]) => b - a);
}

/** Attributes by name; those that divide the series in the same way stand together. */
function together(all: readonly Told[], names: Iterable<string>): string[][] {
  const groups = new Map<string, string[]>();
  for (const name of names) {
    // Each value by the place at which it came first: equal for attributes whose values go with each other.
    const places = new Map<string | undefined, number>();
    const divided = all.map((one) => {
      const place = one.names.indexOf(name);
      const value = place < 0 ? undefined : one.values[place];
      if (!places.has(value)) places.set(value, places.size);
      return places.get(value);
    });
    // What has one value divides nothing.
    const key = places.size === 1 ? `the same ${name}` : divided.join();
    const known = groups.get(key);
    if (known) known.push(name);
    else groups.set(key, [name]);
  }
  return [...groups.values()];
}

function multipliersOf(series: readonly KnownSeries[]): Multiplier[] {
  const all = series.map(({ identity }) => told(identity));
  const names = new Set(all.flatMap((one) => one.names));
  const fold = folder({ folds: [...FOLDED], own: [] });
  return together(
    all,
    [...names].filter((name) => !OF_SENDERS.has(name)),
  )
    .map((group): Multiplier => {
      const [name] = group;
      const values = frequent(
        all.flatMap((one) => {
          const place = one.names.indexOf(name);
          return place < 0 ? [] : [one.values[place]];
        }),
      );
      return {
        names: group,
        values: values.length,
        folded: new Set(values.map(([value]) => fold(value))).size,
        without: leftWithout(all, group),
        whenFolded: leftOf(all, name, fold),
        examples: values.slice(0, MAX_EXAMPLES).map(([value]) => value),
      };
    })
    .filter(({ without }) => without < all.length)
    .sort((a, b) => a.without - b.without)
    .slice(0, MAX_MULTIPLIERS);
}

/** A step that would take a multiplier away: folded where that does most of it, else removed, all of it. */
export function remedyFor(
  { metric, series }: Origin,
  { names, without, whenFolded }: Multiplier,
  id: string,
): StepConfig {
  const where = `metric is ${JSON.stringify(metric)}`;
  const common = { id, on: true, where, gauges: "sum" as const, every: 10 };
  const enough = series - whenFolded >= 0.8 * (series - without);
  return enough && whenFolded < series
    ? { ...common, type: "fold", attribute: names[0], folds: [...FOLDED], own: [] }
    : { ...common, type: "remove", attributes: [...names] };
}
