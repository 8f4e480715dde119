import { emptyPointSet, type MetricIdentity, type PointSet } from "../metric/model";
import { levelOf } from "./level";

const COUNTER: MetricIdentity = { name: "m", kind: "sum", unit: "", temporality: "cumulative", monotonic: true };

function numbers(rows: [series: number, seconds: number, value: number][]): PointSet {
  const set = emptyPointSet({ kind: "number" }, rows.length);
  rows.forEach(([series, seconds, value], i) => {
    set.series[i] = series;
    set.timeMs[i] = seconds * 1000;
    set.columns[0][i] = value;
  });
  return set;
}

test("a counter's level is its increase per second over all series, resets included", () => {
  const sets = [
    numbers([
      [1, 10, 5],
      [1, 20, 45],
      [1, 30, 10],
    ]),
    numbers([
      [2, 10, 100],
      [2, 30, 150],
    ]),
  ];
  // 40, and 10 since the reset, and 50: 100 in 20 s.
  expect(levelOf(COUNTER, sets)).toBe(5);
});

test("deltas add up after the first moment; one moment says nothing", () => {
  const delta = { ...COUNTER, temporality: "delta" as const };
  const set = numbers([
    [1, 10, 7],
    [1, 20, 30],
    [1, 30, 10],
  ]);
  expect(levelOf(delta, [set])).toBe(2);
  expect(levelOf(delta, [numbers([[1, 10, 7]])])).toBeNull();
});

test("a gauge's level is the mean of what it reported; a histogram counts what it recorded", () => {
  const gauge: MetricIdentity = { ...COUNTER, kind: "gauge", temporality: "none", monotonic: false };
  const set = numbers([
    [1, 10, 7],
    [2, 20, 9],
  ]);
  expect(levelOf(gauge, [set])).toBe(8);
  const histogram = emptyPointSet({ kind: "explicit", bounds: [1] }, 2);
  histogram.timeMs.set([1000, 11000]);
  histogram.columns[0].set([2, 12]);
  histogram.columns[1].set([1, 11]);
  expect(levelOf({ ...COUNTER, kind: "histogram" }, [histogram])).toBe(2);
});
