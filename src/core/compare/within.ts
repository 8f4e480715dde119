import { type Place, valueAt } from "./quantileReader";
import type { Side } from "./side";

/** How far a value may be from where it is read, because its bucket does not say where in it calls lie. */
export interface Reach {
  low: number;
  high: number;
}

/** The width of a cell on the axis on which calls in it are taken as even. */
function width({ edges, logarithmic }: Side, cell: number): number {
  if (cell <= 0 || cell >= edges.length) return Number.NaN;
  const [low, high] = [edges[cell - 1], edges[cell]];
  return logarithmic && low > 0 ? Math.log(high / low) : high - low;
}

/**
 * The least and the greatest density inside a bucket, against its mean: as in the buckets beside it. Where these are both
 * sparser, it may rise inside by as much again; where both are denser, it may fall by as much.
 */
function densities(
  side: Side,
  cell: number,
  calls: readonly [number, number, number],
): { least: number; most: number } {
  const [left, own, right] = calls.map((count, i) => count / width(side, cell - 1 + i));
  const [low, high] = [Math.min(left, right) / own, Math.max(left, right) / own];
  return { least: low <= 1 ? low : 1 / low, most: high >= 1 ? high : 1 / high };
}

/** The edges that lie inside no bucket, right before a cell and right behind it. */
function bucketOf({ known }: Side, cell: number): { from: number; to: number } {
  let [from, to] = [Math.max(0, cell - 1), cell];
  while (from > 0 && !known[from]) from--;
  while (to < known.length - 1 && !known[to]) to++;
  return { from, to };
}

/**
 * Bounds of a value inside its bucket. How densely calls lie there is taken to be somewhere between how densely they lie
 * in the buckets beside it; of all distributions like that, the bounds are the lowest and the highest place at which the
 * same part of the bucket's calls is reached. Narrow buckets say almost where a value lies, and wide ones between others
 * that differ much say nearly nothing. The first and the last bucket, one between empty ones, and one that bounds of other
 * buckets lie in, say only themselves.
 *
 * @param calls in the bucket before it, in it, and in the one behind it
 */
export function within(side: Side, place: Place, calls: readonly [number, number, number]): Reach {
  const { cell, part } = place;
  const bucket = bucketOf(side, cell);
  if (bucket.to > bucket.from + 1) return { low: side.edges[bucket.from], high: side.edges[bucket.to] };
  const { least, most } = densities(side, cell, calls);
  const { edges } = side;
  if (!Number.isFinite(least) || !Number.isFinite(most))
    return { low: edges[Math.max(0, cell - 1)], high: edges[cell] };
  if (most - least < 1e-9) return { low: valueAt(side, place), high: valueAt(side, place) };
  // Most densely first, or last: the share of the width that has it, so that all of the bucket's calls are in it.
  const dense = (1 - least) / (most - least);
  const early = part <= most * dense ? part / most : 1 - (1 - part) / least;
  const late = part <= least * (1 - dense) ? part / least : 1 - (1 - part) / most;
  const at = (inside: number) => valueAt(side, { cell, part: Math.min(1, Math.max(0, inside)) });
  return { low: at(early), high: at(late) };
}
