import fc from "fast-check";
import type { Interval } from "../histogram/intervals";
import { advise } from "./advise";
import { bestBounds, meanWidth, readable } from "./bounds";
import { exponentialOffer } from "./exponential";

/** Every way to choose `count` of the inner edges. */
function choices(edges: readonly number[], count: number): number[][] {
  if (count === 0) return [[]];
  return edges.flatMap((edge, i) => choices(edges.slice(i + 1), count - 1).map((rest) => [edge, ...rest]));
}

test("the bounds are the best there are: every other choice was tried", () => {
  const edges = fc
    .uniqueArray(fc.integer({ min: 1, max: 200 }), { minLength: 2, maxLength: 8 })
    .map((list) => [0, ...list.sort((a, b) => a - b)]);
  fc.assert(
    fc.property(
      edges,
      fc.array(fc.double({ min: 0.001, max: 1, noNaN: true }), { minLength: 1, maxLength: 12 }),
      fc.integer({ min: 1, max: 4 }),
      (all, parts, count) => {
        const ceiling = all[all.length - 1];
        const places = parts.map((part) => part * ceiling);
        const { bounds, width } = bestBounds(all, places, count);
        const inner = all.slice(1, -1);
        const tried = choices(inner, Math.min(count, inner.length)).map((some) => meanWidth(some, places, 0, ceiling));
        const least = Math.min(...tried);
        expect(width).toBeCloseTo(least, 9);
        expect(meanWidth(bounds, places, 0, ceiling)).toBeCloseTo(least, 9);
      },
    ),
  );
});

test("an exponential histogram is as fine as its buckets allow", () => {
  fc.assert(
    fc.property(
      fc.double({ min: 1e-6, max: 10, noNaN: true }),
      fc.double({ min: 1.5, max: 1e6, noNaN: true }),
      fc.integer({ min: 4, max: 160 }),
      (low, times, most) => {
        const { scale, buckets, width } = exponentialOffer(low, low * times, most);
        expect(buckets).toBeLessThanOrEqual(most);
        expect(width).toBeCloseTo(2 ** (2 ** -scale) - 1, 12);
        if (scale < 20) {
          const per = 2 ** (scale + 1);
          expect(Math.ceil(Math.log2(low * times) * per) - Math.ceil(Math.log2(low) * per) + 1).toBeGreaterThan(most);
        }
      },
    ),
  );
});

test("bounds that a person can read", () => {
  expect(readable([0.012345, 0.0119, 1.26, 130.4])).toEqual([0.012, 1.3, 130]);
});

const interval = (low: number, high: number, count: number): Interval => ({
  low,
  high,
  count,
  logarithmic: false,
  closed: false,
});

test("advice on calls that crowd into one of the buckets of now", () => {
  // Fine buckets of 10 ms; now only two bounds, far from where percentiles lie.
  const fine = Array.from({ length: 50 }, (_, i) => interval(i * 0.01, (i + 1) * 0.01, i < 20 ? 50 : i < 30 ? 5 : 1));
  const advice = advise([fine, fine], fine, [50, 95, 99], 6, "s", [0.05, 0.5])!;
  expect(advice.places).toBe(6);
  expect(advice.open).toBe(0);
  expect(advice.advised.bounds.length).toBeLessThanOrEqual(6);
  expect(advice.advised.width).toBeLessThan(advice.widthNow / 5);
  expect(advice.sharpness.map(({ percent, low, high }) => [percent, low, high])).toEqual([
    [50, expect.closeTo(0.1), expect.closeTo(0.11)],
    [95, expect.closeTo(0.23), expect.closeTo(0.24)],
    [99, expect.closeTo(0.39), expect.closeTo(0.4)],
  ]);
});

test("a percentile in the open bucket is counted, not guessed", () => {
  const open = [interval(0, 1, 10), interval(1, Number.POSITIVE_INFINITY, 10)];
  const advice = advise([open], open, [50, 99], 4, "s", [1])!;
  expect([advice.places, advice.open]).toEqual([1, 1]);
  expect(advice.sharpness[1].high).toBeNull();
});

test("nothing observed: no advice", () => {
  expect(advise([], [], [50], 5, "s", null)).toBeNull();
});
