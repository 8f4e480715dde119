import type { Attributes, MetricIdentity, PointSet, SeriesIdentity } from "../metric/model";
import type { Batch } from "./batch/batch";
import type { KnownMetric } from "./dictionary";

/** Points on their way out: what the writers of OTLP and of text take. */

/** An exemplar of a series, by the series' id. */
export interface OutgoingExemplar {
  series: number;
  ms: number;
  ns: number;
  value: number;
  traceId: string;
  spanId: string;
  attributes: Attributes;
}

/** Points of one metric. Rolled-up gauges (layout "levels") are no points and are passed over. */
export interface OutgoingMetric {
  identity: MetricIdentity;
  description: string;
  sets: readonly PointSet[];
  exemplars: readonly OutgoingExemplar[];
}

/** Who a series is, by its id. */
export type Naming = (series: number) => SeriesIdentity;

/**
 * Hands each exemplar to the first point of its series that is not older, and what is newer than every point to the
 * last: a point covers the time up to its own.
 *
 * @returns exemplars by series and time of the point: `${series} ${ms} ${ns}`
 */
export function exemplarsByPoint({
  sets,
  exemplars,
}: Pick<OutgoingMetric, "sets" | "exemplars">): Map<string, OutgoingExemplar[]> {
  const found = new Map<string, OutgoingExemplar[]>();
  if (exemplars.length === 0) return found;
  const times = new Map<number, { ms: number; ns: number }[]>();
  for (const { series } of exemplars) times.set(series, []);
  for (const set of sets)
    for (let row = 0; row < set.count; row++)
      times.get(set.series[row])?.push({ ms: set.timeMs[row], ns: set.timeNs[row] });
  for (const list of times.values()) list.sort((a, b) => a.ms - b.ms || a.ns - b.ns);
  for (const exemplar of exemplars) {
    const list = times.get(exemplar.series)!;
    const covers = ({ ms, ns }: { ms: number; ns: number }) =>
      ms > exemplar.ms || (ms === exemplar.ms && ns >= exemplar.ns);
    const point = list.find(covers) ?? list[list.length - 1];
    if (!point) continue;
    const key = pointKey(exemplar.series, point.ms, point.ns);
    const own = found.get(key);
    if (own) own.push(exemplar);
    else found.set(key, [exemplar]);
  }
  return found;
}

export function pointKey(series: number, ms: number, ns: number): string {
  return `${series} ${ms} ${ns}`;
}

/** What a batch holds, ready to go out. Its series get numbers of this batch's own. */
export function outgoing(batch: Batch): { metrics: OutgoingMetric[]; naming: Naming } {
  const { all, sets } = batch.inColumns();
  const places = new Map(all.map((series, place) => [series, place]));
  const found = new Map<KnownMetric, { sets: PointSet[]; exemplars: OutgoingExemplar[] }>();
  for (const { metric, set } of sets) {
    const own = found.get(metric);
    if (own) own.sets.push(set);
    else found.set(metric, { sets: [set], exemplars: [] });
  }
  for (const { series, ...exemplar } of batch.exemplars) {
    const place = places.get(series);
    // An exemplar goes out with a point of its series.
    if (place !== undefined) found.get(series.metric)?.exemplars.push({ ...exemplar, series: place });
  }
  const metrics = [...found].map(([{ identity, description }, own]) => ({ identity, description, ...own }));
  return { metrics, naming: (id) => all[id].identity };
}
