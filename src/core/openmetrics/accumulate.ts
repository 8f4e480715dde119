import { bucketColumns, type PointSet } from "../metric/model";
import type { OutgoingMetric } from "../otlp/outgoing";

/**
 * The text format knows no deltas: each series becomes a total that starts at 0 with its first delta (OpenTelemetry
 * metrics data model, "Sums: Delta-to-Cumulative"). What has no temporality, or is cumulative, stays as it is.
 *
 * @param metric its sets hold one series each, in time order; of one series, all of one layout
 */
export function accumulated(metric: OutgoingMetric): OutgoingMetric {
  if (metric.identity.temporality !== "delta") return metric;
  const before = new Map<string, Total>();
  return {
    ...metric,
    identity: { ...metric.identity, temporality: "cumulative" },
    sets: metric.sets.map((set) => total(set, before)),
  };
}

interface Total {
  startMs: number;
  startNs: number;
  values: number[];
}

function total(set: PointSet, before: Map<string, Total>): PointSet {
  const { layout } = set;
  if (layout.kind === "levels" || layout.kind === "summary") return set;
  const buckets = layout.kind === "number" ? 1 : bucketColumns(layout);
  // Least and greatest of a delta say nothing of the total.
  const summed = set.columns.map((_, c) => c < buckets || c === buckets + 2);
  const columns = set.columns.map((column) => Float64Array.from(column));
  const startMs = Float64Array.from(set.startMs);
  const startNs = Float64Array.from(set.startNs);
  for (let row = 0; row < set.count; row++) {
    const key = `${set.series[row]} ${JSON.stringify(layout)}`;
    let known = before.get(key);
    if (!known) {
      const named = set.startMs[row] > 0;
      known = {
        startMs: named ? set.startMs[row] : set.timeMs[row],
        startNs: named ? set.startNs[row] : set.timeNs[row],
        values: new Array<number>(columns.length).fill(0),
      };
      before.set(key, known);
    }
    for (let c = 0; c < columns.length; c++) {
      if (!summed[c]) continue;
      known.values[c] += columns[c][row];
      columns[c][row] = known.values[c];
    }
    startMs[row] = known.startMs;
    startNs[row] = known.startNs;
  }
  return { ...set, columns, startMs, startNs, workings: undefined };
}
