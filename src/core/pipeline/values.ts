import type { Layout, MetricIdentity } from "../metric/model";
import { Batch } from "../otlp/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { comparable, lenientUnit } from "../unit/unit";
import { type Amount, amountAt, atScale, columnsOf, onBounds } from "./amount";
import type { StepConfig } from "./metricSteps";

/** Steps that change the values of points one by one: another unit, fewer buckets. */

type ValueStep = Extract<StepConfig, { type: "unit" | "coarsen" }>;

/** Whether a step changes points of a metric at all. */
export function changesValues(step: ValueStep, { unit, kind }: MetricIdentity): boolean {
  if (step.type === "coarsen") return kind === "histogram" || kind === "exponential";
  return unit !== step.to && kind !== "exponential" && comparable(lenientUnit(unit), lenientUnit(step.to));
}

function scaled(layout: Layout, values: number[], factor: number): { layout: Layout; values: number[] } {
  const times = (value: number) => value * factor;
  switch (layout.kind) {
    case "explicit": {
      // Counts stay; bounds, least, greatest and sum are in the unit.
      const after = layout.bounds.length + 1;
      return {
        layout: { kind: "explicit", bounds: layout.bounds.map(times) },
        values: values.map((value, c) => (c < after ? value : times(value))),
      };
    }
    case "summary":
      return { layout, values: values.map((value, c) => (c === layout.quantiles.length ? value : times(value))) };
    default:
      return { layout, values: values.map(times) };
  }
}

function coarsened(amount: Amount, { bounds, scale }: Extract<StepConfig, { type: "coarsen" }>): Amount {
  if (amount.kind === "explicit" && bounds.length > 0) return onBounds(amount, (bound) => bounds.includes(bound));
  if (amount.kind === "exponential" && scale !== null) return atScale(amount, scale);
  return amount;
}

/** The points of a batch as a step changes them. */
export function changeValues(step: ValueStep, batch: Batch, dictionary: Dictionary): Batch {
  const out = new Batch();
  const targets = new Map<KnownSeries, KnownSeries>();
  const targetOf = (series: KnownSeries): KnownSeries => {
    if (step.type === "coarsen") return series;
    let target = targets.get(series);
    if (!target) {
      const { identity, description } = series.metric;
      target = dictionary.series(dictionary.metric({ ...identity, unit: step.to }, description), series.identity);
      targets.set(series, target);
    }
    return target;
  };
  const { all, sets } = batch.inColumns();
  for (const { metric, set } of sets) {
    const factor =
      step.type === "unit" ? lenientUnit(metric.identity.unit).scale / lenientUnit(step.to).scale : Number.NaN;
    const { layout, timeMs, timeNs, startMs, startNs, flags } = set;
    for (let row = 0; row < set.count; row++) {
      const series = targetOf(all[set.series[row]]);
      const head = { timeMs: timeMs[row], timeNs: timeNs[row], startMs: startMs[row], startNs: startNs[row] };
      let point = { layout, values: set.columns.map((column) => column[row]) };
      if (step.type === "unit") point = scaled(layout, point.values, factor);
      else {
        const amount = amountAt(set, row);
        if (amount) point = columnsOf(coarsened(amount, step));
      }
      out.addPoint(series.metric, point.layout, series, { ...head, flags: flags[row] }, point.values);
    }
  }
  for (const exemplar of batch.exemplars) {
    const { unit } = exemplar.series.metric.identity;
    const factor = step.type === "unit" ? lenientUnit(unit).scale / lenientUnit(step.to).scale : 1;
    out.exemplars.push({ ...exemplar, series: targetOf(exemplar.series), value: exemplar.value * factor });
  }
  return out;
}
