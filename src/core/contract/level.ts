import { bucketColumns, FLAG, isLevel, type MetricIdentity, type PointSet } from "../metric/model";

/**
 * How much of a metric there usually is: of levels the mean of what was reported, of counts the increase per second of
 * all series together. null where too little is known.
 */
export function levelOf(identity: MetricIdentity, sets: readonly PointSet[]): number | null {
  if (identity.kind === "summary") return null;
  const bySeries = new Map<number, { time: number; amount: number }[]>();
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  for (const { layout, columns, count, series, timeMs, flags } of sets) {
    if (layout.kind === "levels" || layout.kind === "summary") continue;
    const width = layout.kind === "number" ? 1 : bucketColumns(layout);
    for (let row = 0; row < count; row++) {
      if (flags[row] & FLAG.noRecordedValue) continue;
      let amount = 0;
      for (let c = 0; c < width; c++) amount += columns[c][row];
      if (!Number.isFinite(amount)) continue;
      const list = bySeries.get(series[row]) ?? [];
      list.push({ time: timeMs[row], amount });
      bySeries.set(series[row], list);
      from = Math.min(from, timeMs[row]);
      to = Math.max(to, timeMs[row]);
    }
  }
  const all = [...bySeries.values()];
  if (isLevel(identity)) {
    const values = all.flat();
    return values.length === 0 ? null : values.reduce((sum, { amount }) => sum + amount, 0) / values.length;
  }
  if (!(to > from)) return null;
  let increase = 0;
  for (const list of all) {
    list.sort((a, b) => a.time - b.time);
    list.forEach(({ time, amount }, i) => {
      if (identity.temporality === "delta") increase += time > from ? amount : 0;
      // A fall is a new start: all since then is increase.
      else if (i > 0) increase += amount >= list[i - 1].amount ? amount - list[i - 1].amount : amount;
    });
  }
  return (increase / (to - from)) * 1000;
}
