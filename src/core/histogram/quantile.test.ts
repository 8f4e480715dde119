import fc from "fast-check";
import type { Layout } from "../metric/model";
import { bucketMap, coarserLayout } from "./common";
import { bucketBounds, exponentialBound, toIntervals } from "./intervals";
import { quantile, shareUnder } from "./quantile";

const explicit: Layout = { kind: "explicit", bounds: [1, 2, 5, 10] };

function exponentialLayout(scale: number, from: number, width: number): Extract<Layout, { kind: "exponential" }> {
  return { kind: "exponential", scale, zeroThreshold: 0, negative: { from: 0, width: 0 }, positive: { from, width } };
}

function bucketise(layout: Layout, values: readonly number[]): number[] {
  const { low, high } = bucketBounds(layout);
  const counts = new Array<number>(low.length).fill(0);
  for (const value of values) {
    const place = high.findIndex((to, i) => value <= to && value > low[i]);
    counts[place]++;
  }
  return counts;
}

/** The smallest observation at or below which at least q of them lie. */
function trueQuantile(values: readonly number[], q: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.max(0, Math.ceil(q * sorted.length - 1e-9) - 1)];
}

test.each([
  // counts by bucket (0,1] (1,2] (2,5] (5,10] (10,∞), quantile, value, low, high
  [[10, 0, 0, 0, 0], 0.5, 0.5, 0, 1],
  [[0, 10, 0, 0, 0], 0.95, 1.95, 1, 2],
  [[1, 1, 2, 0, 0], 0.5, 2, 1, 2],
  [[1, 1, 2, 0, 0], 0.75, 3.5, 2, 5],
  [[0, 0, 0, 0, 4], 0.5, 10, 10, Number.POSITIVE_INFINITY],
])("%j at %d is %d, between %d and %d", (counts, q, value, low, high) => {
  const found = quantile(toIntervals(explicit, counts, 0), q)!;
  expect(found.value).toBeCloseTo(value, 9);
  expect([found.low, found.high]).toEqual([low, high]);
});

test("min and max tighten the buckets they fall into", () => {
  const found = quantile(toIntervals(explicit, [0, 0, 0, 0, 4], 12, 20), 0.5)!;
  expect(found).toEqual({ value: 16, low: 12, high: 20 });
});

test("a first bucket reaches down to a minimum below zero", () => {
  expect(quantile(toIntervals(explicit, [4, 0, 0, 0, 0], -3, 1), 0.5)).toEqual({ value: -1, low: -3, high: 1 });
});

test("an exponential bucket is interpolated on the logarithmic axis", () => {
  const layout = exponentialLayout(0, 3, 1);
  expect(quantile(toIntervals(layout, [0, 8]), 0.5)!.value).toBeCloseTo(8 * Math.SQRT2, 9);
});

test("no observations, no percentile", () => {
  expect(quantile(toIntervals(explicit, [0, 0, 0, 0, 0]), 0.5)).toBeNull();
});

const values = fc.array(fc.double({ min: 0.001, max: 60, noNaN: true }), { minLength: 1, maxLength: 80 });
const q = fc.double({ min: 0.01, max: 0.999, noNaN: true });
const bounds = fc
  .uniqueArray(fc.integer({ min: 1, max: 80 }), { minLength: 1, maxLength: 12 })
  .map((list): Layout => ({ kind: "explicit", bounds: list.sort((a, b) => a - b) }));
const exponential = fc.integer({ min: -1, max: 6 }).map((scale): Layout => {
  const from = Math.floor(Math.log2(0.001) * 2 ** scale) - 1;
  return exponentialLayout(scale, from, Math.ceil(Math.log2(60) * 2 ** scale) - from + 1);
});
const anyLayout = fc.oneof(bounds, exponential);

describe("the stated bounds hold the true value", () => {
  test("of a percentile, tightened or not", () => {
    fc.assert(
      fc.property(values, q, anyLayout, fc.boolean(), (observed, at, layout, tighten) => {
        const counts = bucketise(layout, observed);
        const intervals = tighten
          ? toIntervals(layout, counts, Math.min(...observed), Math.max(...observed))
          : toIntervals(layout, counts);
        const found = quantile(intervals, at)!;
        const truth = trueQuantile(observed, at);
        expect(found.low).toBeLessThanOrEqual(truth * (1 + 1e-12));
        expect(found.high).toBeGreaterThanOrEqual(truth * (1 - 1e-12));
        expect(found.value).toBeGreaterThanOrEqual(found.low);
        expect(found.value).toBeLessThanOrEqual(found.high);
      }),
      { numRuns: 500 },
    );
  });

  test("of a percentile, in whatever order the buckets stand", () => {
    fc.assert(
      fc.property(values, q, anyLayout, (observed, at, layout) => {
        const intervals = toIntervals(
          layout,
          bucketise(layout, observed),
          Math.min(...observed),
          Math.max(...observed),
        );
        expect(quantile(intervals.toReversed(), at)).toEqual(quantile(intervals, at));
      }),
      { numRuns: 500 },
    );
  });

  test("of a percentile over histograms with different bounds", () => {
    fc.assert(
      fc.property(values, values, q, anyLayout, anyLayout, (a, b, at, layoutA, layoutB) => {
        const merged = [...toIntervals(layoutA, bucketise(layoutA, a)), ...toIntervals(layoutB, bucketise(layoutB, b))];
        const found = quantile(merged, at)!;
        const truth = trueQuantile([...a, ...b], at);
        expect(found.low).toBeLessThanOrEqual(truth * (1 + 1e-12));
        expect(found.high).toBeGreaterThanOrEqual(truth * (1 - 1e-12));
      }),
      { numRuns: 500 },
    );
  });

  test("of a share under a bound", () => {
    fc.assert(
      fc.property(values, fc.double({ min: 0.01, max: 70, noNaN: true }), anyLayout, (observed, bound, layout) => {
        const found = shareUnder(toIntervals(layout, bucketise(layout, observed)), bound)!;
        const truth = observed.filter((value) => value <= bound).length / observed.length;
        expect(found.low).toBeLessThanOrEqual(truth + 1e-12);
        expect(found.high).toBeGreaterThanOrEqual(truth - 1e-12);
        expect(found.value).toBeGreaterThanOrEqual(found.low - 1e-12);
        expect(found.value).toBeLessThanOrEqual(found.high + 1e-12);
      }),
      { numRuns: 500 },
    );
  });
});

test("a coarser scale holds the same observations in the buckets that a coarse histogram would have had", () => {
  fc.assert(
    fc.property(values, fc.integer({ min: 1, max: 3 }), (observed, down) => {
      const fine = exponentialLayout(4, -200, 400);
      const coarse = coarserLayout(fine, 4 - down);
      const counts = new Array<number>(1 + coarse.positive.width).fill(0);
      const fineCounts = bucketise(fine, observed);
      bucketMap(fine, coarse).forEach((to, from) => {
        counts[to] += fineCounts[from];
      });
      expect(counts).toEqual(bucketise(coarse, observed));
    }),
  );
});

test("bounds of exponential buckets double after 2^scale of them", () => {
  fc.assert(
    fc.property(fc.integer({ min: -4, max: 8 }), fc.integer({ min: -50, max: 50 }), (scale, index) => {
      const per = 2 ** Math.max(0, scale);
      const factor = scale >= 0 ? 2 : 2 ** (2 ** -scale);
      expect(exponentialBound(scale, index + per) / exponentialBound(scale, index)).toBeCloseTo(factor, 9);
    }),
  );
});
