import { labelsOf } from "../metric/labels";
import { FLAG, type PointSet } from "../metric/model";
import { attributesText } from "../metric/text";
import type { KnownMetric, KnownSeries } from "../otlp/dictionary";
import { amountAt, countOf } from "../pipeline/amount";
import { trace } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";

/** Chosen series with their points, before a lane and behind it. */

/** A point as people read it. Times in Unix ms. */
export interface ShownPoint {
  time: number;
  /** Since when it counts; 0: it does not say. */
  start: number;
  /** A number's value. */
  value: number | null;
  /** Of a histogram: how many, and how much together. */
  count: number | null;
  sum: number | null;
}

/** What a series is called. */
export interface Named {
  metric: string;
  unit: string;
  attributes: Record<string, string>;
}

export interface FollowedEnd extends Named {
  /** Whether it met others on the way. */
  met: boolean;
  points: ShownPoint[];
}

export interface Followed extends Named {
  /** The newest last. */
  points: ShownPoint[];
  ends: FollowedEnd[];
}

/** Which series are wanted: of a metric, or of one that changes where none is named; with words in their attributes. */
export interface FollowAsked {
  metric: string;
  find: string;
}

export interface FollowAnswer {
  /** The metric that was followed; "" where there is none. */
  metric: string;
  metrics: string[];
  /** How many series have the words. */
  matching: number;
  /** Some of them: those of which something else becomes first, and of those that look alike one. */
  series: Followed[];
}

const MAX_SERIES = 8;
/** Series that are looked at to choose some of them. */
const MAX_TRACED = 300;
const MAX_POINTS = 60;

/** Points of series, by the metric that they are of. */
export interface PointsOf {
  metric: KnownMetric;
  set: PointSet;
  /** The series of a row's number. */
  seriesOf: (id: number) => KnownSeries;
}

function pairs(attributes: Readonly<Record<string, string>>): string {
  return Object.entries(attributes)
    .map(([key, value]) => `${key}=${value}`)
    .sort()
    .join(" ");
}

function shownPoint(set: PointSet, row: number): ShownPoint {
  const amount = amountAt(set, row);
  const number = amount?.kind === "number" ? amount.value : null;
  const buckets = amount && amount.kind !== "number" ? amount : null;
  return {
    time: set.timeMs[row],
    start: set.startMs[row],
    value: number,
    count: buckets ? countOf(buckets) : null,
    sum: buckets?.sum ?? null,
  };
}

/** The newest points of some series, by series. */
function newest(wanted: ReadonlySet<KnownSeries>, all: Iterable<PointsOf>): Map<KnownSeries, ShownPoint[]> {
  const metrics = new Set([...wanted].map(({ metric }) => metric));
  const found = new Map<KnownSeries, ShownPoint[]>();
  for (const { metric, set, seriesOf } of all) {
    if (!metrics.has(metric)) continue;
    for (let row = 0; row < set.count; row++) {
      const series = seriesOf(set.series[row]);
      if (!wanted.has(series) || set.flags[row] & FLAG.noRecordedValue) continue;
      const points = found.get(series);
      if (points) points.push(shownPoint(set, row));
      else found.set(series, [shownPoint(set, row)]);
    }
  }
  for (const [series, points] of found) found.set(series, points.sort((a, b) => a.time - b.time).slice(-MAX_POINTS));
  return found;
}

type Ends = readonly { series: KnownSeries; met: boolean }[];

/** How much becomes of a series: another name tells most, then meeting others or going nowhere. */
function changeOf(series: KnownSeries, ends: Ends): number {
  if (ends.length === 0) return 1;
  const other = ends.some(({ series: end }) => end.key !== series.key || end.metric !== series.metric);
  return other ? 2 : ends.some(({ met }) => met) ? 1 : 0;
}

function named({ metric, identity }: KnownSeries): Named {
  const { name, unit } = metric.identity;
  return { metric: name, unit, attributes: attributesText(identity.attributes) };
}

/** Series in the order in which they are worth looking at. */
function choose(all: readonly KnownSeries[], lane: Lane): { series: KnownSeries; ends: Ends }[] {
  const apart = Math.max(1, Math.ceil(all.length / MAX_TRACED));
  const traced = all.filter((_, i) => i % apart === 0).map((series) => ({ series, ends: trace(lane, series) }));
  const text = ({ series, ends }: (typeof traced)[number]) =>
    JSON.stringify([
      pairs(named(series).attributes),
      ends.map(({ series: end, met }) => [end.metric.identity.name, pairs(named(end).attributes), met]),
    ]);
  const unlike = new Map(traced.map((one) => [text(one), one]));
  return [...unlike.values()].sort((a, b) => changeOf(b.series, b.ends) - changeOf(a.series, a.ends));
}

/** The metric whose series change most. */
function firstChanged(byMetric: ReadonlyMap<string, readonly KnownSeries[]>, lane: Lane): string {
  let best = { metric: "", change: -1 };
  for (const [metric, all] of byMetric) {
    const change = Math.max(...all.slice(0, 12).map((series) => changeOf(series, trace(lane, series))));
    if (change > best.change) best = { metric, change };
    if (change === 2) break;
  }
  return best.metric;
}

/**
 * Follows series through a lane.
 *
 * @param all every series that came in
 * @param came their points, and `stored` the points that came out
 */
export function followed(
  lane: Lane,
  all: Iterable<KnownSeries>,
  { metric: wanted, find }: FollowAsked,
  came: Iterable<PointsOf>,
  stored: Iterable<PointsOf>,
): FollowAnswer {
  const byMetric = new Map<string, KnownSeries[]>();
  for (const series of all) {
    const { name } = series.metric.identity;
    const known = byMetric.get(name);
    if (known) known.push(series);
    else byMetric.set(name, [series]);
  }
  const metrics = [...byMetric.keys()].sort();
  const metric = byMetric.has(wanted)
    ? wanted
    : firstChanged(new Map(metrics.map((one) => [one, byMetric.get(one)!])), lane);
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const having = (byMetric.get(metric) ?? []).filter(({ identity }) => {
    const text = pairs(attributesText(labelsOf(identity))).toLowerCase();
    return words.every((word) => text.includes(word));
  });
  const chosen = choose(having, lane).slice(0, MAX_SERIES);
  const before = newest(new Set(chosen.map(({ series }) => series)), came);
  const after = newest(new Set(chosen.flatMap(({ ends }) => ends.map(({ series }) => series))), stored);
  return {
    metric,
    metrics,
    matching: having.length,
    series: chosen.map(({ series, ends }) => ({
      ...named(series),
      points: before.get(series) ?? [],
      ends: ends.map(({ series: end, met }) => ({ ...named(end), met, points: after.get(end) ?? [] })),
    })),
  };
}
