import { type Draw, MinuteColumn } from "./resample";
import type { Side } from "./side";

/** Where a quantile lies: in a cell between two edges, and how far into it. */
export interface Place {
  cell: number;
  /** The part of the cell's calls that lie at or below it. */
  part: number;
}

/** Reads quantiles off sums over minutes, without making the sums that it does not need. */
export class QuantileReader {
  /** Where the quantile was found last: the next sample's is near. */
  private near = 0;

  /** Of each edge that was looked at, the calls below it, side by side. */
  private readonly columns: MinuteColumn[][] = [];

  /** @param sides whose calls are put together, all with the same edges; each with a weight of its own a sample */
  constructor(private readonly sides: readonly Side[]) {}

  private below(edge: number, draw: Draw, weights: ArrayLike<number>): number {
    this.columns[edge] ??= this.sides.map(
      ({ below, minutes }) => new MinuteColumn(below.subarray(edge * minutes, (edge + 1) * minutes)),
    );
    const columns = this.columns[edge];
    let total = 0;
    for (let place = 0; place < columns.length; place++) total += weights[place] * columns[place].sum(draw);
    return total;
  }

  /** @returns null without calls */
  place(q: number, draw: Draw, weights: ArrayLike<number>): Place | null {
    const last = this.sides[0].edges.length - 1;
    const total = last < 0 ? 0 : this.below(last, draw, weights);
    if (total <= 0) return null;
    const rank = q * total * (1 - 1e-12);
    // The rank is reached between two edges: steps that double bring them near, halves bring them together.
    let [low, high] = [-1, last];
    let [under, upTo] = [0, total];
    let [probe, step] = [Math.min(this.near, last), 1];
    while (high - low > 1) {
      if (probe <= low || probe >= high) probe = (low + high) >> 1;
      const found = this.below(probe, draw, weights);
      if (found >= rank) {
        [high, upTo] = [probe, found];
        probe -= step;
      } else {
        [low, under] = [probe, found];
        probe += step;
      }
      step *= 2;
    }
    this.near = high;
    if (high === 0) return { cell: 0, part: 1 };
    return { cell: high, part: Math.min(1, Math.max(0, (q * total - under) / (upTo - under))) };
  }

  /** Calls in a cell and in those beside it, in the order of their values. */
  around(cell: number, draw: Draw, weights: ArrayLike<number>): [number, number, number] {
    const at = (edge: number) =>
      edge < 0 ? 0 : this.below(Math.min(edge, this.sides[0].edges.length - 1), draw, weights);
    const [a, b, c, d] = [at(cell - 2), at(cell - 1), at(cell), at(cell + 1)];
    return [b - a, c - b, d - c];
  }
}

/** The value at a place; the lower edge of a cell that has no upper one. */
export function valueAt({ edges, logarithmic }: Side, { cell, part }: Place): number {
  if (cell === 0) return edges[0];
  const [low, high] = [edges[cell - 1], edges[cell]];
  if (high === Number.POSITIVE_INFINITY) return low;
  return logarithmic && low > 0 ? low * (high / low) ** part : low + (high - low) * part;
}
