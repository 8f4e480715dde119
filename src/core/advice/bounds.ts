/**
 * The best bucket bounds for a number of buckets. Where percentiles fell is known from finer buckets; the bounds are
 * chosen so that the bucket around each of these places is narrow relative to the place itself, on average over all of
 * them. Solved exactly by dynamic programming over the finer edges: O(edges² · bounds).
 */

/** Where one percentile fell once, in the unit of the metric; above 0. */
export type Place = number;

/** A choice of bounds with what it costs. */
export interface Bounds {
  bounds: number[];
  /** The mean over all places of the width of the bucket around a place, relative to the place. */
  width: number;
}

/** Index of the first edge at or above x. */
function edgeAbove(edges: readonly number[], x: number): number {
  let from = 0;
  let to = edges.length;
  while (from < to) {
    const middle = (from + to) >> 1;
    if (edges[middle] < x) from = middle + 1;
    else to = middle;
  }
  return from;
}

/** The mean relative width of the buckets around places, for bounds with a floor below and a ceiling above them. */
export function meanWidth(bounds: readonly number[], places: readonly Place[], floor: number, ceiling: number): number {
  const edges = [floor, ...bounds.filter((bound) => bound > floor && bound < ceiling), ceiling];
  let sum = 0;
  for (const place of places) {
    const i = Math.min(edges.length - 1, Math.max(1, edgeAbove(edges, place)));
    sum += (edges[i] - edges[i - 1]) / place;
  }
  return places.length === 0 ? 0 : sum / places.length;
}

/**
 * The best `count` bounds among finer edges.
 *
 * @param edges ascending and finite; the first is the floor, the last the ceiling of what was observed
 * @param places where percentiles fell, each in (floor, ceiling]
 */
export function bestBounds(edges: readonly number[], places: readonly Place[], count: number): Bounds {
  const last = edges.length - 1;
  const size = Math.min(count, last - 1);
  if (last < 1 || size < 1 || places.length === 0)
    return { bounds: edges.slice(1, Math.max(1, size + 1)), width: meanWidth([], places, edges[0], edges[last]) };
  // weight[j]: the sum of 1/place over places at or below edge j.
  const weight = new Float64Array(last + 1);
  for (const place of places) weight[Math.min(last, Math.max(1, edgeAbove(edges, place)))] += 1 / place;
  for (let j = 1; j <= last; j++) weight[j] += weight[j - 1];
  const cost = (a: number, b: number) => (edges[b] - edges[a]) * (weight[b] - weight[a]);
  // least[j]: the least cost of all up to edge j with k bounds below it; from[k][j]: the edge of the last of these.
  let least = Float64Array.from(edges, (_, j) => cost(0, j));
  const from: Int32Array[] = [];
  for (let k = 1; k <= size; k++) {
    const next = new Float64Array(last + 1).fill(Number.POSITIVE_INFINITY);
    const via = new Int32Array(last + 1);
    for (let j = k + 1; j <= last; j++) {
      for (let i = k; i < j; i++) {
        const total = least[i] + cost(i, j);
        if (total < next[j]) {
          next[j] = total;
          via[j] = i;
        }
      }
    }
    least = next;
    from.push(via);
  }
  const bounds: number[] = [];
  for (let k = size, j = last; k >= 1; k--) {
    j = from[k - 1][j];
    bounds.unshift(edges[j]);
  }
  return { bounds, width: least[last] / places.length };
}

/** A number with so many significant digits. */
export function rounded(value: number, digits: number): number {
  return Number(value.toPrecision(digits));
}

/** Bounds that a person can read: rounded, without those that fall together. */
export function readable(bounds: readonly number[], digits = 2): number[] {
  return [...new Set(bounds.map((bound) => rounded(bound, digits)))].sort((a, b) => a - b);
}
