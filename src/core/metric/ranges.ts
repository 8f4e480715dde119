import type { BucketRange, Layout } from "./model";

type Exponential = Extract<Layout, { kind: "exponential" }>;

/** The smallest range that holds both; an empty range holds nothing. */
function unionRange(a: BucketRange, b: BucketRange): BucketRange {
  if (a.width === 0) return b;
  if (b.width === 0) return a;
  const from = Math.min(a.from, b.from);
  return { from, width: Math.max(a.from + a.width, b.from + b.width) - from };
}

/** One exponential layout wide enough for two of the same scale. */
export function unionLayout(a: Exponential, b: Exponential): Exponential {
  return {
    ...a,
    negative: unionRange(a.negative, b.negative),
    positive: unionRange(a.positive, b.positive),
  };
}

/**
 * Where each column of an exponential layout stands in a wider one of the same scale.
 * Columns: zero, negative, positive, min, max, sum.
 */
export function columnMap(narrow: Exponential, wide: Exponential): Int32Array {
  const { negative: n, positive: p } = narrow;
  const map = new Int32Array(1 + n.width + p.width + 3);
  for (let i = 0; i < n.width; i++) map[1 + i] = 1 + n.from - wide.negative.from + i;
  const wideBase = 1 + wide.negative.width;
  for (let i = 0; i < p.width; i++) map[1 + n.width + i] = wideBase + p.from - wide.positive.from + i;
  const tail = 1 + n.width + p.width;
  for (let i = 0; i < 3; i++) map[tail + i] = wideBase + wide.positive.width + i;
  return map;
}
