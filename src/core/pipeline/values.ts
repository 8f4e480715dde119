import type { MetricIdentity } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import type { ValueChange } from "./steps/definition";

/** Steps that change the values of points one by one: another unit, fewer buckets. */

/** A series behind a change. */
export function valued({ unit }: ValueChange, series: KnownSeries, dictionary: Dictionary): KnownSeries {
  const { identity, description } = series.metric;
  if (unit === undefined || unit === identity.unit) return series;
  return dictionary.series(dictionary.metric({ ...identity, unit }, description), series.identity);
}

/** The points of a batch as a change makes them. */
export function changeValues(change: ValueChange, batch: Batch, dictionary: Dictionary): Batch {
  const out = new Batch();
  const targets = new Map<KnownSeries, KnownSeries>();
  const targetOf = (series: KnownSeries): KnownSeries => {
    let target = targets.get(series);
    if (!target) {
      target = valued(change, series, dictionary);
      targets.set(series, target);
    }
    return target;
  };
  const points = new Map<MetricIdentity, ReturnType<ValueChange["point"]>>();
  const { all, sets } = batch.inColumns();
  for (const { metric, set } of sets) {
    const point = points.get(metric.identity) ?? change.point(metric.identity);
    points.set(metric.identity, point);
    const { timeMs, timeNs, startMs, startNs, flags } = set;
    for (let row = 0; row < set.count; row++) {
      const series = targetOf(all[set.series[row]]);
      const head = { timeMs: timeMs[row], timeNs: timeNs[row], startMs: startMs[row], startNs: startNs[row] };
      const { layout, values } = point(set, row);
      out.addPoint(series.metric, layout, series, { ...head, flags: flags[row] }, values);
    }
  }
  for (const exemplar of batch.exemplars) {
    const { series, value } = exemplar;
    const by = change.factor(series.metric.identity);
    out.exemplars.push({ ...exemplar, series: targetOf(series), value: value * by });
  }
  return out;
}
