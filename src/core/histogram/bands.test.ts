import fc from "fast-check";
import { bandsOf, countsIn } from "./bands";
import type { Interval } from "./intervals";

const between = (low: number, high: number, count: number, logarithmic = false): Interval => ({
  low,
  high,
  count,
  logarithmic,
  closed: false,
});

test("buckets with bounds of their own keep them, and their counts", () => {
  const buckets = [
    between(0.1, 0.25, 3),
    between(0.25, 0.5, 0),
    between(0.5, 1, 4),
    between(1, Number.POSITIVE_INFINITY, 2),
  ];
  const bands = bandsOf(buckets);
  expect(bands).toEqual([
    { low: 0.1, high: 0.25 },
    { low: 0.25, high: 0.5 },
    { low: 0.5, high: 1 },
    { low: 1, high: Number.POSITIVE_INFINITY },
  ]);
  expect(countsIn(buckets, bands)).toEqual([3, 0, 4, 2]);
  expect(countsIn([between(0.5, 1, 4)], bands)).toEqual([0, 0, 4, 0]);
  expect(bandsOf([between(7, 7, 5)])).toEqual([{ low: 7, high: 7 }]);
  expect(countsIn([between(7, 7, 5)], [{ low: 7, high: 7 }])).toEqual([5]);
  expect(bandsOf([])).toEqual([]);
});

test("whatever the buckets, the bands follow each other, span all of them, are few, and hold every observation", () => {
  const bucket = fc
    .record({
      low: fc.oneof(
        fc.double({ min: -5, max: 1e6, noNaN: true }),
        fc.constantFrom(0, 0.1, 5, Number.NEGATIVE_INFINITY),
      ),
      width: fc.oneof(fc.double({ min: 0, max: 1e4, noNaN: true }), fc.constant(Number.POSITIVE_INFINITY)),
      count: fc.integer({ min: 1, max: 50 }),
      logarithmic: fc.boolean(),
    })
    .map(({ low, width, count, logarithmic }) =>
      between(low, Number.isNaN(low + width) ? 1 : low + width, count, logarithmic),
    );
  fc.assert(
    fc.property(fc.array(bucket, { minLength: 1, maxLength: 90 }), (all) => {
      const bands = bandsOf(all);
      expect(bands.length).toBeLessThanOrEqual(64);
      for (let i = 1; i < bands.length; i++) {
        expect(bands[i].low).toBe(bands[i - 1].high);
        expect(bands[i].high).toBeGreaterThan(bands[i].low);
      }
      const [least, most] = [Math.min(...all.map(({ low }) => low)), Math.max(...all.map(({ high }) => high))];
      const slack = (value: number) => (Number.isFinite(value) ? 1e-9 * (Math.abs(value) + 1) : 0);
      expect(bands[0].low).toBeLessThanOrEqual(least + slack(least));
      expect(bands.at(-1)!.high).toBeGreaterThanOrEqual(most - slack(most));
      const counts = countsIn(all, bands);
      const total = all.reduce((sum, { count }) => sum + count, 0);
      expect(counts.reduce((a, c) => a + c, 0)).toBeCloseTo(total, 6);
      for (const count of counts) expect(count).toBeGreaterThanOrEqual(-1e-9);
    }),
  );
});
