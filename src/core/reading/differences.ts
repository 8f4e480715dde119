import { type ReadingResult, type ReadingSeries, seriesKey, settledSteps } from "./result";

/** Two answers to one question, side by side. */

export interface SideBySide {
  labels: Record<string, string | null>;
  /** Null where one side has no such series. */
  left: ReadingSeries | null;
  right: ReadingSeries | null;
  /** The step in which the two are furthest apart; null where they are nowhere both there, or nowhere apart. */
  furthest: { at: number; left: number; right: number } | null;
}

/** Differences below this part of the larger value are those of adding up in another order. */
const TINY = 1e-9;

function furthestOf(times: readonly number[], left: ReadingSeries, right: ReadingSeries): SideBySide["furthest"] {
  let found: SideBySide["furthest"] = null;
  let most = 0;
  const steps = Math.min(settledSteps(times, left), settledSteps(times, right));
  left.values.forEach((one, i) => {
    const other = right.values[i];
    if (i >= steps || one === null || other === null || other === undefined) return;
    const apart = Math.abs(one - other);
    if (apart <= TINY * Math.max(Math.abs(one), Math.abs(other)) || apart <= most) return;
    most = apart;
    found = { at: times[i], left: one, right: other };
  });
  return found;
}

/** The series of two answers by their labels, those that are furthest apart first, as far as both are settled. */
export function sideBySide(left: ReadingResult, right: ReadingResult): SideBySide[] {
  const rights = new Map(right.series.map((series) => [seriesKey(series), series]));
  const pairs = left.series.map((series): SideBySide => {
    const key = seriesKey(series);
    const other = rights.get(key) ?? null;
    rights.delete(key);
    return {
      labels: series.labels,
      left: series,
      right: other,
      furthest: other && furthestOf(left.times, series, other),
    };
  });
  for (const series of rights.values())
    pairs.push({ labels: series.labels, left: null, right: series, furthest: null });
  const size = ({ left: a, right: b, furthest }: SideBySide) =>
    a && b ? (furthest ? Math.abs(furthest.left - furthest.right) : 0) : Number.POSITIVE_INFINITY;
  return pairs.sort((a, b) => size(b) - size(a));
}
