import { bucketBounds, exponentialBound } from "@/core/histogram/intervals";
import type { Layout } from "@/core/metric/model";
import { bucketChances } from "./lognormal";
import { HTTP_BOUNDS } from "./model";

const EXPONENTIAL_SCALE = 3;

export interface Chances {
  each: readonly number[];
  upTo: readonly number[];
}

/** How a histogram's observations fall into its buckets. */
export interface Shape {
  layout: Layout;
  /** For an instance that is so much slower than usual: the chance of each bucket, and of it and all below. */
  chances: (slow: number) => Chances;
  /** What an observation in each bucket counts as. */
  middles: Float64Array;
}

function shapeOf(layout: Layout, chancesAt: (slow: number) => number[]): Shape {
  const { low, high } = bucketBounds(layout);
  const middles = low.map((from, i) => (Number.isFinite(high[i]) ? (Math.max(0, from) + high[i]) / 2 : from * 1.2));
  const kept = new Map<number, Chances>();
  return {
    layout,
    middles,
    chances: (slow) => {
      const step = Math.round(slow * 20) / 20;
      let found = kept.get(step);
      if (!found) {
        let below = 0;
        const each = chancesAt(step);
        found = { each, upTo: each.map((chance) => (below += chance)) };
        kept.set(step, found);
      }
      return found;
    },
  };
}

/** Lognormal observations in the buckets that the conventions advise. */
export function explicitShape(median: number, sigma: number): Shape {
  return shapeOf({ kind: "explicit", bounds: HTTP_BOUNDS }, (slow) => bucketChances(median * slow, sigma, HTTP_BOUNDS));
}

/** Lognormal observations in exponential buckets that hold nearly all of them. */
export function exponentialShape(median: number, sigma: number): Shape {
  const per = 2 ** EXPONENTIAL_SCALE;
  const from = Math.floor(Math.log2(median * Math.exp(-3.2 * sigma)) * per);
  const width = Math.ceil(Math.log2(median * Math.exp(3.2 * sigma)) * per) - from;
  const layout: Layout = {
    kind: "exponential",
    scale: EXPONENTIAL_SCALE,
    zeroThreshold: 0,
    negative: { from: 0, width: 0 },
    positive: { from, width },
  };
  const bounds = Array.from({ length: width - 1 }, (_, i) => exponentialBound(EXPONENTIAL_SCALE, from + i + 1));
  return shapeOf(layout, (slow) => [0, ...bucketChances(median * slow, sigma, bounds)]);
}
