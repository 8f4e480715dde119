import { type Side, sum } from "./side";

/** How far two distributions lie apart, whatever their percentiles say. */
export interface Distance {
  /** The greatest difference between the shares of calls at or below a value (Kolmogorov and Smirnov), and that value. */
  greatest: number;
  at: number;
  /**
   * How far calls would have to move for one to become the other, on average, in the metric's unit (Wasserstein, of the
   * first order); calls beyond the last bound count as at it.
   */
  moved: number;
}

/** The share of a side's calls at or below a value: even between edges. */
function shareBelow({ edges, minutes, below, logarithmic }: Side, total: number): (value: number) => number {
  const counts = Array.from(edges, (_, edge) => sum(below.subarray(edge * minutes, (edge + 1) * minutes)) / total);
  return (value) => {
    let high = 0;
    while (high < edges.length && edges[high] < value) high++;
    if (high === edges.length) return 1;
    if (edges[high] === value || high === 0) return edges[high] === value ? counts[high] : 0;
    const [from, to] = [edges[high - 1], edges[high]];
    if (!Number.isFinite(to)) return counts[high - 1];
    const part = logarithmic && from > 0 ? Math.log(value / from) / Math.log(to / from) : (value - from) / (to - from);
    return counts[high - 1] + part * (counts[high] - counts[high - 1]);
  };
}

/** @returns null where a side had no calls */
export function distanceOf(candidate: Side, baseline: Side): Distance | null {
  const [ours, theirs] = [sum(candidate.calls), sum(baseline.calls)];
  if (ours <= 0 || theirs <= 0) return null;
  const edges = Float64Array.from(new Set([...candidate.edges, ...baseline.edges]))
    .sort()
    .filter(Number.isFinite);
  const [one, other] = [shareBelow(candidate, ours), shareBelow(baseline, theirs)];
  const apart = Array.from(edges, (edge) => one(edge) - other(edge));
  const found: Distance = { greatest: 0, at: edges[0] ?? 0, moved: 0 };
  apart.forEach((difference, i) => {
    if (Math.abs(difference) > found.greatest) Object.assign(found, { greatest: Math.abs(difference), at: edges[i] });
    if (i === 0) return;
    // Between two edges the difference runs straight; where it changes its side, both triangles count.
    const [from, to] = [apart[i - 1], difference];
    const mean = from * to >= 0 ? Math.abs(from + to) / 2 : (from * from + to * to) / (2 * Math.abs(to - from));
    found.moved += mean * (edges[i] - edges[i - 1]);
  });
  return found;
}
