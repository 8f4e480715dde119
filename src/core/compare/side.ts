import type { Interval } from "../histogram/intervals";
import { countUpTo } from "../histogram/quantile";

/**
 * What one side of a comparison did, minute by minute: its calls by how long they took, and how many failed. Minutes of
 * both sides are paired: the same index is the same minute, or the same time of another day.
 */
export interface Side {
  /** Rising bounds between which calls are told apart, in the metric's unit; the last may be Infinity. */
  edges: Float64Array;
  /** Of each edge whether it lies inside no bucket: beside one that does, calls of a bucket are taken as even. */
  known: Uint8Array;
  /** Whether calls between two edges are taken as even on a logarithmic axis, not a linear one. */
  logarithmic: boolean;
  minutes: number;
  /** Calls at or below each edge, by edge, then minute. */
  below: Float64Array;
  /** Calls by minute. */
  calls: Float64Array;
  /** Failed calls by minute. */
  failed: Float64Array;
}

/** Bounds between which calls are told apart, and which of them lie inside no bucket (1, else 0). */
export interface Edges {
  bounds: Float64Array;
  known: Uint8Array;
}

/** The bounds of all intervals, rising. Nothing takes less than no time, so that no edge lies below 0. */
export function edgesOf(histograms: Iterable<readonly Interval[]>): Edges {
  const found = new Set<number>();
  for (const intervals of histograms) {
    for (const { low, high } of intervals) {
      found.add(Math.max(0, low));
      found.add(Math.max(0, high));
    }
  }
  const bounds = Float64Array.from(found).sort();
  return { bounds, known: new Uint8Array(bounds.length).fill(1) };
}

/** The first edge that is not below a value; the last one for what lies beyond. */
export function cellOf(edges: Float64Array, value: number): number {
  let [low, high] = [0, edges.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (edges[middle] >= value) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** A side in the making: histograms are added to it minute by minute, as many to one minute as there are. */
export class SideBuilder {
  private readonly below: Float64Array;
  private readonly calls: Float64Array;
  private readonly failed: Float64Array;
  private logarithmic = true;

  /** @param edges where calls are to be told apart; with the edges of several sides, these share their cells */
  constructor(
    private readonly edges: Edges,
    private readonly minutes: number,
  ) {
    this.below = new Float64Array(edges.bounds.length * minutes);
    this.calls = new Float64Array(minutes);
    this.failed = new Float64Array(minutes);
  }

  /** @param failed how many of these calls failed */
  add(minute: number, intervals: readonly Interval[], failed: number): void {
    const { minutes, below } = this;
    const edges = this.edges.bounds;
    this.failed[minute] += failed;
    for (const interval of intervals) {
      const { low, high, count } = interval;
      this.calls[minute] += count;
      this.logarithmic &&= interval.logarithmic || low === high;
      const cell = cellOf(edges, high);
      // Most lie in a cell of their own; what reaches over several is divided among them.
      let [upTo, at] = [count, cell];
      for (; at > 0 && low < edges[at - 1]; at--) {
        const under = countUpTo([interval], edges[at - 1]);
        below[at * minutes + minute] += upTo - under;
        upTo = under;
      }
      below[at * minutes + minute] += upTo;
    }
  }

  /** The side, once all is added; nothing may be added afterwards. */
  finished(): Side {
    const { minutes, below, calls, failed, logarithmic } = this;
    const { bounds: edges, known } = this.edges;
    for (let at = minutes; at < below.length; at++) below[at] += below[at - minutes];
    return { edges, known, logarithmic, minutes, below, calls, failed };
  }
}

/**
 * A side from one histogram a minute.
 *
 * @param edges where calls are to be told apart
 * @param failed failed calls of each minute
 */
export function sideOf(
  histograms: readonly (readonly Interval[])[],
  failed: ArrayLike<number>,
  edges: Edges = edgesOf(histograms),
): Side {
  const building = new SideBuilder(edges, histograms.length);
  histograms.forEach((intervals, minute) => {
    building.add(minute, intervals, failed[minute] ?? 0);
  });
  return building.finished();
}

/** The same side with some of its minutes only, in the order in which they are named. */
export function minutesOf(side: Side, wanted: readonly number[]): Side {
  const { edges, minutes, below } = side;
  const chosen = new Float64Array(edges.length * wanted.length);
  for (let edge = 0; edge < edges.length; edge++)
    wanted.forEach((minute, i) => {
      chosen[edge * wanted.length + i] = below[edge * minutes + minute];
    });
  const pick = (all: Float64Array) => Float64Array.from(wanted, (minute) => all[minute]);
  return { ...side, minutes: wanted.length, below: chosen, calls: pick(side.calls), failed: pick(side.failed) };
}

/** All calls of a side as intervals, rising. */
export function intervalsOf({ edges, minutes, below, logarithmic }: Side): Interval[] {
  const upTo = Array.from(edges, (_, edge) => sum(below.subarray(edge * minutes, (edge + 1) * minutes)));
  return upTo.flatMap((count, edge): Interval[] => {
    const own = count - (edge === 0 ? 0 : upTo[edge - 1]);
    const low = edge === 0 ? edges[0] : edges[edge - 1];
    return own > 1e-9 ? [{ low, high: edges[edge], count: own, logarithmic, closed: edge === 0 }] : [];
  });
}

/** Minutes in which both sides had calls: what a comparison side by side counts. */
export function sharedMinutes(candidate: Side, baseline: Side): number[] {
  return Array.from({ length: candidate.minutes }, (_, minute) => minute).filter(
    (minute) => candidate.calls[minute] > 0 && baseline.calls[minute] > 0,
  );
}

export function sum(values: Float64Array): number {
  let total = 0;
  for (const value of values) total += value;
  return total;
}
