import type { Attributes } from "../../metric/model";
import type { Batch } from "../batch/batch";

/** What came out of a batch, as plain data in one order: a line per point. */
export function flat(batch: Batch): string[] {
  for (const series of batch.series()) series.id = 1;
  const byKey = new Map<unknown, number>();
  const lines: string[] = [];
  let next = 1;
  const names = new Map<number, string>();
  for (const series of batch.series()) {
    if (!byKey.has(series)) {
      byKey.set(series, next);
      const { identity } = series;
      names.set(
        next,
        JSON.stringify([
          series.metric.identity,
          sorted(identity.resource),
          identity.scope,
          sorted(identity.attributes),
        ]),
      );
      series.id = next++;
    } else series.id = byKey.get(series)!;
  }
  for (const { sets } of batch.pointSets()) {
    for (const set of sets) {
      for (let i = 0; i < set.count; i++) {
        lines.push(
          JSON.stringify([
            names.get(set.series[i]),
            set.timeMs[i],
            set.timeNs[i],
            set.startMs[i],
            set.startNs[i],
            set.flags[i],
            set.layout,
            set.columns.map((column) => special(column[i])),
          ]),
        );
      }
    }
  }
  return lines.sort();
}

export function special(value: number): number | string {
  return Number.isFinite(value) && !Object.is(value, -0) ? value : Object.is(value, -0) ? "-0" : String(value);
}

export function sorted(attributes: Attributes) {
  return Object.entries(attributes).sort(([a], [b]) => (a < b ? -1 : 1));
}
