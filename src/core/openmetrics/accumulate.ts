import { commonLayout, onto } from "../histogram/common";
import { bucketColumns, emptyPointSet, type Layout, type PointSet } from "../metric/model";
import type { OutgoingMetric } from "../otlp/outgoing";

/**
 * The text format knows no deltas: each series becomes a total that starts at 0 with its first delta (OpenTelemetry
 * metrics data model, "Sums: Delta-to-Cumulative"). What has no temporality, or is cumulative, stays as it is.
 *
 * @param metric its sets hold one series each; where their layouts differ, the total is one of the buckets that all have
 */
export function accumulated(metric: OutgoingMetric): OutgoingMetric {
  if (metric.identity.temporality !== "delta") return metric;
  const bySeries = new Map<number, PointSet[]>();
  for (const set of metric.sets) {
    const own = bySeries.get(set.series[0]);
    if (own) own.push(set);
    else bySeries.set(set.series[0], [set]);
  }
  return {
    ...metric,
    identity: { ...metric.identity, temporality: "cumulative" },
    sets: [...bySeries.values()].flatMap((sets) => {
      const { layout } = sets[0];
      if (layout.kind === "levels" || layout.kind === "summary") return sets;
      return [total(inOrder(sets))];
    }),
  };
}

/** The points of one series as one set on one layout, oldest first. */
function inOrder(sets: readonly PointSet[]): PointSet {
  const layout = sets.reduce((all: Layout, set) => commonLayout(all, set.layout) ?? all, sets[0].layout);
  const rows = sets.flatMap((one) => {
    const set = onto(one, layout);
    return Array.from({ length: set.count }, (_, row) => ({ set, row }));
  });
  rows.sort((a, b) => a.set.timeMs[a.row] - b.set.timeMs[b.row] || a.set.timeNs[a.row] - b.set.timeNs[b.row]);
  const whole = emptyPointSet(layout, rows.length);
  rows.forEach(({ set, row }, at) => {
    for (const name of ["series", "timeMs", "timeNs", "startMs", "startNs", "flags"] as const)
      whole[name][at] = set[name][row];
    for (let c = 0; c < whole.columns.length; c++) whole.columns[c][at] = set.columns[c][row];
  });
  return whole;
}

/** Adds the points of a set of one series up, in place. */
function total(set: PointSet): PointSet {
  const buckets = set.layout.kind === "number" ? 1 : bucketColumns(set.layout);
  const start = set.startMs[0] > 0 ? [set.startMs[0], set.startNs[0]] : [set.timeMs[0], set.timeNs[0]];
  set.columns.forEach((column, c) => {
    // Least and greatest of a delta say nothing of the total.
    if (c >= buckets && c !== buckets + 2) return;
    for (let row = 1; row < set.count; row++) column[row] += column[row - 1];
  });
  set.startMs.fill(start[0]);
  set.startNs.fill(start[1]);
  return set;
}
