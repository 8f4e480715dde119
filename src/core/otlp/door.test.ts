import fc from "fast-check";
import { bucketColumns, type Layout, type MetricIdentity, type PointSet } from "../metric/model";
import { layoutProblem, MAX_STORED_WIDTH, MAX_WIDTH } from "../metric/pointLimits";
import { evaluate, REACH } from "../reading/evaluate";
import { chooseMetrics } from "../reading/kinds";
import { parseReading } from "../reading/language/parse";
import { measuresOf } from "../reading/language/tree";
import { rollUp } from "../rollup/rollUp";
import { assemble } from "../strip/assemble";
import { decodeStrip, encodeStrip } from "../strip/strip";
import { Dictionary } from "./dictionary";
import { decodeMetricsJson } from "./json";
import { JsonError } from "./jsonError";

/** What is let in can be written, read, merged, rolled up and answered; what cannot is refused in words. */

const extremes = fc.oneof(
  fc.constantFrom(0, -0, 1, -1, 2 ** 31 - 1, 2 ** 31, -(2 ** 31), 2 ** 32, 2 ** 53, 1e17, 1e300, -1e300, 5e-324),
  fc.constantFrom(
    "NaN",
    "Infinity",
    "-Infinity",
    "18446744073709551615",
    "18446744073709551616",
    "-1",
    "abc",
    "",
    "1e3",
  ),
  fc.integer({ min: -3, max: 30 }),
  fc.double(),
);
const NOW = 1_764_000_000_000;
const instant = fc.oneof(
  { weight: 8, arbitrary: fc.integer({ min: -60, max: 60 }).map((s) => `${NOW + s * 1000}000000`) },
  { weight: 1, arbitrary: extremes },
);
const lot = <T>(one: fc.Arbitrary<T>) => fc.array(one, { maxLength: 6 });
const counts = lot(fc.oneof({ weight: 6, arbitrary: fc.nat(9) }, { weight: 1, arbitrary: extremes }));
const many = fc.constantFrom(0, 1, MAX_WIDTH, MAX_WIDTH + 1, 5000);
const buckets = fc.record({ offset: extremes, bucketCounts: counts });
const head = { timeUnixNano: instant, startTimeUnixNano: fc.option(instant, { nil: undefined }), flags: fc.nat(3) };
const ends = { sum: fc.option(extremes), min: fc.option(extremes), max: fc.option(extremes) };
const number = fc.record({ ...head, asDouble: extremes });
const explicit = fc
  .record({ ...head, ...ends, bucketCounts: counts, explicitBounds: lot(extremes), right: fc.boolean(), many })
  .map(({ right, many: width, ...point }) => {
    if (!right) return { ...point, count: "3" };
    const bounds = Array.from({ length: width }, (_, i) => i);
    return { ...point, explicitBounds: bounds, bucketCounts: [...bounds.map(() => 1), 1], count: width + 1 };
  });
const exponential = fc
  .record({
    ...head,
    ...ends,
    scale: fc.oneof(fc.integer({ min: -12, max: 22 }), extremes),
    zeroThreshold: extremes,
    positive: buckets,
    negative: buckets,
  })
  .map((point) => {
    const all = [...point.positive.bucketCounts, ...point.negative.bucketCounts].map(Number);
    return { ...point, zeroCount: 0, count: all.reduce((a, b) => a + b, 0) };
  });
const summary = fc
  .record({
    ...head,
    count: extremes,
    sum: extremes,
    quantileValues: lot(fc.record({ quantile: extremes, value: extremes })),
    many,
  })
  .map(({ many: width, ...point }) =>
    width < 2
      ? point
      : { ...point, quantileValues: Array.from({ length: width }, (_, i) => ({ quantile: i / width, value: i })) },
  );
const temporality = fc.constantFrom(1, 2);
const content = fc.oneof(
  lot(number).map((dataPoints) => ({ gauge: { dataPoints } })),
  fc
    .record({ dataPoints: lot(number), aggregationTemporality: temporality, isMonotonic: fc.boolean() })
    .map((sum) => ({ sum })),
  fc.record({ dataPoints: lot(explicit), aggregationTemporality: temporality }).map((histogram) => ({ histogram })),
  fc
    .record({ dataPoints: lot(exponential), aggregationTemporality: temporality })
    .map((exponentialHistogram) => ({ exponentialHistogram })),
  lot(summary).map((dataPoints) => ({ summary: { dataPoints } })),
);

/** Everything that may happen to points of a metric after they were let in. */
function live(identity: MetricIdentity, sets: readonly PointSet[]): void {
  const parts = assemble(sets.map((set, arrived) => ({ set, arrived })));
  for (const one of parts.values()) {
    const merged = decodeStrip(encodeStrip(one));
    const minutes = decodeStrip(encodeStrip(rollUp(identity, merged, 60_000)));
    for (const set of [...merged, ...minutes]) expect(bucketColumns(set.layout)).toBeLessThanOrEqual(MAX_STORED_WIDTH);
    for (const how of ["rate", "count", "sum", "mean", "max", "min", "last", "p95", "share under 5"]) {
      const tree = parseReading(`${how} of m`);
      const metrics = [{ identity, series: [{ attributes: {}, parts: minutes }], points: 1 }];
      const [node] = measuresOf(tree.expression);
      const source = { ...chooseMetrics(node.aggregation, metrics), earliest: NOW - REACH, resolutions: [0] };
      const asked = { from: NOW - 60_000, to: NOW + 60_000, every: 10_000, zone: "UTC", picks: {} };
      try {
        evaluate(tree, asked, 10_000, new Map([[node, source]]));
      } catch (error) {
        expect((error as Error).name).toBe("ReadingError");
      }
    }
  }
}

test("every point that is let in goes all the way", () => {
  fc.assert(
    fc.property(lot(content), (metrics) => {
      const scopeMetrics = [{ metrics: metrics.map((one) => ({ name: "m", unit: "s", ...one })) }];
      const body = JSON.stringify({ resourceMetrics: [{ scopeMetrics }] });
      let batch: ReturnType<typeof decodeMetricsJson>;
      try {
        batch = decodeMetricsJson(body, new Dictionary());
      } catch (error) {
        expect(error).toBeInstanceOf(JsonError);
        return;
      }
      let id = 1;
      for (const series of batch.series()) series.id ||= id++;
      for (const { metric, sets } of batch.pointSets()) live(metric.identity, sets);
    }),
    { numRuns: 1500 },
  );
});

test.each<[string, Layout]>([
  ["one bucket too many", { kind: "explicit", bounds: Array.from({ length: MAX_WIDTH + 1 }, (_, i) => i) }],
  ["bounds that fall", { kind: "explicit", bounds: [2, 1] }],
  ["an infinite bound", { kind: "explicit", bounds: [1, Number.POSITIVE_INFINITY] }],
  ["4,097 quantiles", { kind: "summary", quantiles: Array.from({ length: 4097 }, (_, i) => i / 4097) }],
  ["a quantile of 2", { kind: "summary", quantiles: [2] }],
  [
    "an offset where no number is",
    {
      kind: "exponential",
      scale: 0,
      zeroThreshold: 0,
      negative: { from: 0, width: 0 },
      positive: { from: 1e17, width: 1 },
    },
  ],
  [
    "an infinite zero threshold",
    {
      kind: "exponential",
      scale: 0,
      zeroThreshold: Number.POSITIVE_INFINITY,
      negative: { from: 0, width: 0 },
      positive: { from: 0, width: 0 },
    },
  ],
])("%s is refused", (_, layout) => {
  expect(layoutProblem(layout)).not.toBeNull();
});

test.each<[string, Layout]>([
  [
    "the least number that there is",
    {
      kind: "exponential",
      scale: 20,
      zeroThreshold: 0,
      negative: { from: 0, width: 0 },
      positive: { from: -1074 * 2 ** 20 - 1, width: 1 },
    },
  ],
  [
    "the greatest at the coarsest scale",
    {
      kind: "exponential",
      scale: -10,
      zeroThreshold: 0,
      negative: { from: -2, width: 3 },
      positive: { from: -2, width: 3 },
    },
  ],
])("%s is let in", (_, layout) => {
  expect(layoutProblem(layout)).toBeNull();
});
