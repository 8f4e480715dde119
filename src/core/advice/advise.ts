import type { Interval } from "../histogram/intervals";
import { quantile } from "../histogram/quantile";
import { bestBounds, meanWidth, readable } from "./bounds";
import { type ExponentialOffer, exponentialOffer } from "./exponential";

/** What is known of a percentile with the buckets of now. */
export interface Sharpness {
  percent: number;
  value: number;
  low: number;
  /** null: no bound above. */
  high: number | null;
}

export interface Advice {
  unit: string;
  /** The bounds of now, where all series share them. */
  now: number[] | null;
  sharpness: Sharpness[];
  /** The mean width of the bucket around a percentile, relative to it: now, as advised, and exponential. */
  widthNow: number;
  advised: { bounds: number[]; width: number };
  /** An exponential histogram with as many buckets, and with the 160 that SDKs usually take. */
  exponential: ExponentialOffer;
  usualExponential: ExponentialOffer;
  /** Whether the buckets of now are so wide that places inside them had to be taken as evenly spread. */
  guessed: boolean;
  /** How many times a percentile was looked for, and how often it lay in the open bucket, where nothing is known. */
  places: number;
  open: number;
}

/** Finite edges of intervals, ascending. */
function edgesOf(intervals: readonly Interval[]): number[] {
  const all = new Set<number>();
  for (const { low, high } of intervals) {
    if (Number.isFinite(low)) all.add(low);
    if (Number.isFinite(high)) all.add(high);
  }
  return [...all].sort((a, b) => a - b);
}

/** Buckets that SDKs give an exponential histogram by default. */
const DEFAULT_SIZE = 160;
/** Edges enough to choose from. */
const ENOUGH = 80;
const WANTED = 160;

/** Where buckets are wide, edges inside them: evenly on the logarithmic axis, as far as nothing finer is known. */
function finer(edges: readonly number[]): number[] {
  if (edges.length >= ENOUGH) return [...edges];
  const parts = Math.ceil(WANTED / (edges.length - 1));
  const all: number[] = [edges[0]];
  for (let i = 1; i < edges.length; i++) {
    const [low, high] = [edges[i - 1], edges[i]];
    for (let k = 1; k < parts; k++)
      all.push(low > 0 ? low * (high / low) ** (k / parts) : low + ((high - low) * k) / parts);
    all.push(high);
  }
  return all;
}

/** Bounds without those that make nothing narrower. */
function useful(bounds: readonly number[], places: readonly number[], ceiling: number): number[] {
  let kept = [...bounds];
  let width = meanWidth(kept, places, 0, ceiling);
  for (const bound of bounds.slice(0, -1)) {
    const without = kept.filter((one) => one !== bound);
    const wider = meanWidth(without, places, 0, ceiling);
    if (wider <= width * (1 + 1e-12)) {
      kept = without;
      width = wider;
    }
  }
  return kept;
}

/**
 * Advises bounds from what was really observed.
 *
 * @param steps the merged buckets of each step of the window; percentiles move from step to step
 * @param whole the merged buckets of the window
 * @param percents such as 50, 95, 99
 * @param count how many bounds there may be
 * @returns null where nothing above 0 was observed
 */
export function advise(
  steps: readonly (readonly Interval[])[],
  whole: readonly Interval[],
  percents: readonly number[],
  count: number,
  unit: string,
  now: number[] | null,
): Advice | null {
  const edges = edgesOf(whole).filter((edge) => edge >= 0);
  if (edges[0] !== 0) edges.unshift(0);
  const ceiling = edges[edges.length - 1];
  if (edges.length < 2) return null;
  const places: number[] = [];
  let open = 0;
  for (const intervals of steps) {
    for (const percent of percents) {
      const found = quantile(intervals, percent / 100);
      if (!found || !(found.value > 0)) continue;
      if (Number.isFinite(found.high) && found.value <= ceiling) places.push(found.value);
      else open++;
    }
  }
  const sharpness = percents.flatMap((percent): Sharpness[] => {
    const found = quantile(whole, percent / 100);
    return found
      ? [{ percent, value: found.value, low: found.low, high: Number.isFinite(found.high) ? found.high : null }]
      : [];
  });
  // The last bound closes the bucket below it: beyond it nothing is known.
  const chosen = bestBounds(finer(edges), places, Math.max(0, count - 1)).bounds;
  const bounds = readable([...useful(chosen, places, ceiling), ceiling]);
  const lowest = edges.find((edge) => edge > 0) ?? ceiling;
  return {
    unit,
    now,
    sharpness,
    widthNow: meanWidth(now ?? edges, places, 0, ceiling),
    advised: { bounds, width: meanWidth(bounds, places, 0, ceiling) },
    exponential: exponentialOffer(lowest, ceiling, count + 1),
    usualExponential: exponentialOffer(lowest, ceiling, DEFAULT_SIZE),
    guessed: edges.length < ENOUGH,
    places: places.length,
    open,
  };
}
