import fc from "fast-check";
import { exponentialBound } from "../histogram/intervals";
import {
  emptyPointSet,
  FLAG,
  type Layout,
  type MetricIdentity,
  type PointSet,
  type Temporality,
} from "../metric/model";
import { rollUp } from "../rollup/rollUp";
import { assemble } from "../strip/assemble";
import { decodeStrip, encodeStrip } from "../strip/strip";
import { evaluate, REACH } from "./evaluate";
import { parseReading } from "./language/parse";
import { measuresOf } from "./language/tree";
import type { ReadingResult } from "./result";
import type { Source, SourceSeries } from "./source";

/** Histograms whose layout changes on the way, and series that two processes write, against the observations themselves. */

const ORIGIN = 1_764_000_000_000;
const EXPORT = 10_000;
const EXPORTS = 12;

function metricOf(kind: MetricIdentity["kind"], temporality: Temporality): MetricIdentity {
  return { name: "m", kind, unit: "s", temporality, monotonic: true };
}

function sourceOf(identity: MetricIdentity, series: SourceSeries[]): Source {
  return { metrics: [{ identity, series, points: 1 }], earliest: ORIGIN - REACH, resolutions: [0], warnings: [] };
}

function read(text: string, source: Source, every = EXPORT, length = EXPORT * EXPORTS): ReadingResult {
  const tree = parseReading(text);
  const sources = new Map(measuresOf(tree.expression).map((node) => [node, source]));
  const asked = { from: ORIGIN, to: ORIGIN + length, every, zone: "UTC", picks: {} };
  return evaluate(tree, asked, every, sources);
}

/** Observations as one point: in the buckets of an SDK that takes the finest scale at which so many buckets hold them. */
function exponentialPoint(observed: readonly number[], finest: number, most = 160): PointSet {
  const index = (value: number, scale: number) => Math.ceil(Math.log2(Math.abs(value)) * 2 ** scale) - 1;
  const side = (sign: number, scale: number) =>
    observed.filter((value) => value * sign > 0).map((value) => index(value, scale));
  let scale = finest;
  const width = (list: number[]) => (list.length === 0 ? 0 : Math.max(...list) - Math.min(...list) + 1);
  while (width(side(1, scale)) > most || width(side(-1, scale)) > most) scale--;
  const range = (list: number[]) => ({ from: list.length === 0 ? 0 : Math.min(...list), width: width(list) });
  const [positive, negative] = [side(1, scale), side(-1, scale)];
  const layout: Layout = {
    kind: "exponential",
    scale,
    zeroThreshold: 0,
    negative: range(negative),
    positive: range(positive),
  };
  const set = emptyPointSet(layout, 1);
  set.columns[0][0] = observed.filter((value) => value === 0).length;
  for (const i of negative) set.columns[1 + i - layout.negative.from][0]++;
  for (const i of positive) set.columns[1 + layout.negative.width + i - layout.positive.from][0]++;
  return withEnds(set, observed);
}

function explicitPoint(observed: readonly number[], bounds: readonly number[]): PointSet {
  const set = emptyPointSet({ kind: "explicit", bounds }, 1);
  for (const value of observed) {
    const place = bounds.findIndex((bound) => value <= bound);
    set.columns[place < 0 ? bounds.length : place][0]++;
  }
  return withEnds(set, observed);
}

function withEnds(set: PointSet, observed: readonly number[]): PointSet {
  const { length } = set.columns;
  set.series.fill(1);
  set.columns[length - 3][0] = observed.length > 0 ? Math.min(...observed) : 0;
  set.columns[length - 2][0] = observed.length > 0 ? Math.max(...observed) : 0;
  set.columns[length - 1][0] = observed.reduce((sum, value) => sum + value, 0);
  if (observed.some((value) => value < 0)) set.flags[0] |= FLAG.noSum;
  return set;
}

/** Exports at their times: of each interval by itself, or of all since the last restart. */
function exported(
  intervals: readonly (readonly number[])[],
  temporality: Temporality,
  restarts: readonly number[],
  pointOf: (observed: readonly number[], i: number) => PointSet,
): PointSet[] {
  let since = 0;
  return intervals.map((_, i) => {
    if (restarts.includes(i)) since = i;
    const from = temporality === "delta" ? i : since;
    const point = pointOf(intervals.slice(from, i + 1).flat(), i);
    point.startMs[0] = ORIGIN + from * EXPORT;
    point.timeMs[0] = ORIGIN + (i + 1) * EXPORT;
    return point;
  });
}

/** Points as the store hands them out: put in order, through the format, and perhaps rolled up on the way. */
function stored(points: readonly PointSet[], identity: MetricIdentity, rolled: boolean): PointSet[] {
  const parts = assemble(points.map((set, arrived) => ({ set, arrived }))).get(1) ?? [];
  return decodeStrip(encodeStrip(rolled ? rollUp(identity, parts, EXPORT) : parts));
}

/** The smallest value at or below which a part of all lies. */
function truth(observed: readonly number[], part: number): number {
  const sorted = [...observed].sort((a, b) => a - b);
  return sorted[Math.max(0, Math.ceil(part * sorted.length * (1 - 1e-12)) - 1)];
}

function expectTrue(result: ReadingResult, intervals: readonly (readonly number[])[], part: number): void {
  const [series] = result.series;
  const check = (value: number | null, low: number | null, high: number | null, observed: readonly number[]) => {
    if (observed.length === 0) return expect(value).toBeNull();
    const wanted = truth(observed, part);
    const slack = 1e-9 * Math.abs(wanted);
    expect(low ?? Number.NEGATIVE_INFINITY).toBeLessThanOrEqual(wanted + slack);
    expect(high ?? Number.POSITIVE_INFINITY).toBeGreaterThanOrEqual(wanted - slack);
  };
  intervals.forEach((observed, i) => {
    check(series?.values[i] ?? null, series?.low?.[i] ?? null, series?.high?.[i] ?? null, observed);
  });
  check(series?.total ?? null, series?.totalLow ?? null, series?.totalHigh ?? null, intervals.flat());
}

const magnitude = fc.double({ min: -14, max: 11, noNaN: true }).map((power) => 2 ** power);
const observation = fc.oneof(
  { weight: 6, arbitrary: magnitude },
  { weight: 1, arbitrary: magnitude.map((value) => -value) },
  { weight: 1, arbitrary: fc.constant(0) },
);
const intervalsOf = (value: fc.Arbitrary<number>) =>
  fc.array(fc.array(value, { maxLength: 6 }), { minLength: EXPORTS, maxLength: EXPORTS });
const restarts = fc.uniqueArray(fc.nat(EXPORTS - 1), { maxLength: 3 });
const eachWay = [
  ["delta", false],
  ["delta", true],
  ["cumulative", false],
  ["cumulative", true],
] as const;

describe.each(eachWay)("%s, rolled up: %s", (temporality, rolled) => {
  test("exponential histograms that change scale and range with every export", () => {
    const identity = metricOf("exponential", temporality);
    fc.assert(
      fc.property(
        intervalsOf(observation),
        restarts,
        fc.constantFrom(2, 8, 20),
        fc.constantFrom(0.25, 0.5, 0.95),
        (intervals, anew, finest, part) => {
          const points = exported(intervals, temporality, anew, (observed) => exponentialPoint(observed, finest));
          const source = sourceOf(identity, [{ attributes: {}, parts: stored(points, identity, rolled) }]);
          const counts = read("count of m", source).series[0];
          expect(counts.values).toEqual(intervals.map(({ length }) => length));
          expect(counts.total).toBe(intervals.flat().length);
          expectTrue(read(`p${part * 100} of m`, source), intervals, part);
        },
      ),
      { numRuns: 60 },
    );
  });

  test("explicit bounds that change on the way: every count, and no percentile outside its bounds", () => {
    const identity = metricOf("histogram", temporality);
    const bounds = fc.constantFrom([1, 2, 4, 8], [2, 8], [1, 2, 3, 4, 8, 16], [3, 5], []);
    fc.assert(
      fc.property(
        intervalsOf(fc.integer({ min: 1, max: 18 })),
        restarts,
        fc.array(bounds, { minLength: EXPORTS, maxLength: EXPORTS }),
        fc.constantFrom(0.25, 0.5, 0.95),
        (intervals, anew, layouts, part) => {
          const points = exported(intervals, temporality, anew, (observed, i) => explicitPoint(observed, layouts[i]));
          const source = sourceOf(identity, [{ attributes: {}, parts: stored(points, identity, rolled) }]);
          const counts = read("count of m", source).series[0];
          expect(counts.values).toEqual(intervals.map(({ length }) => length));
          expect(read("sum of m", source).series[0].total).toBe(intervals.flat().reduce((a, b) => a + b, 0));
          expectTrue(read(`p${part * 100} of m`, source), intervals, part);
          for (const [how, at] of [
            ["min", 0],
            ["max", 1],
          ] as const)
            expectTrue(read(`${how} of m`, source), intervals, at);
        },
      ),
      { numRuns: 60 },
    );
  });
});

test("a running histogram of 50 µs, a restart and 90 s at the finest scale is joined in some hundred buckets", () => {
  const identity = metricOf("exponential", "cumulative");
  const points = exported([[50e-6], [90]], "cumulative", [1], (observed) => exponentialPoint(observed, 20));
  const source = sourceOf(identity, [{ attributes: {}, parts: stored(points, identity, false) }]);
  expect(read("count of m", source).series[0].total).toBe(2);
  expectTrue(read("p95 of m", source), [[50e-6], [90], ...Array.from({ length: EXPORTS - 2 }, () => [])], 0.95);
});

test("a zero bucket that grows without a restart takes the buckets inside it along", () => {
  const identity = metricOf("exponential", "cumulative");
  const pointOf = (zeroThreshold: number, from: number, counts: number[], zero: number): PointSet => {
    const positive = { from, width: counts.length };
    const set = emptyPointSet(
      { kind: "exponential", scale: 0, zeroThreshold, negative: { from: 0, width: 0 }, positive },
      1,
    );
    set.series.fill(1);
    set.columns[0][0] = zero;
    counts.forEach((count, i) => {
      set.columns[1 + i][0] = count;
    });
    set.flags[0] = FLAG.noMin | FLAG.noMax;
    return set;
  };
  // 6 observations in (1/4, 1/2], (1/2, 1] and (1, 2]; then 11, those up to 1/2 told as zero.
  const points = [pointOf(0, -2, [1, 2, 3], 0), pointOf(0.5, -1, [4, 5], 2)];
  points.forEach((set, i) => {
    set.startMs[0] = ORIGIN;
    set.timeMs[0] = ORIGIN + (i + 1) * EXPORT;
  });
  const source = sourceOf(identity, [{ attributes: {}, parts: stored(points, identity, false) }]);
  expect(read("count of m", source).series[0].values.slice(0, 2)).toEqual([6, 5]);
  expect(read("share under 0.5 of m", source).series[0].values.slice(0, 2)).toEqual([1 / 6, 1 / 5]);
  expect(exponentialBound(0, -1)).toBe(0.5);
});

describe("what belongs to the whole life of a process says nothing of a step", () => {
  const bounds = [100, 250, 500];
  const lasting = (intervals: number[][], temporality: Temporality) =>
    sourceOf(metricOf("histogram", temporality), [
      {
        attributes: {},
        parts: stored(
          exported(intervals, temporality, [], (observed) => explicitPoint(observed, bounds)),
          metricOf("histogram", temporality),
          false,
        ),
      },
    ]);

  test("one slow call does not move the percentiles after it", () => {
    const calm = Array.from({ length: EXPORTS }, () => [120, 135, 150]);
    const slow = calm.map((list, i) => (i === 2 ? [...list, 439] : list));
    const [before, after] = [calm, slow].map((all) => read("p95 of m", lasting(all, "cumulative")).series[0].values);
    expect(after.slice(3)).toEqual(before.slice(3));
  });

  test("max is the bucket's bound where the greatest did not move, and says so", () => {
    const { series, warnings } = read("max of m", lasting([[120], [439], [130], [480]], "cumulative"));
    expect(series[0].values.slice(0, 4)).toEqual([120, 439, 250, 480]);
    expect(series[0].low?.slice(0, 4)).toEqual([120, 439, 100, 480]);
    expect(warnings.map(({ message }) => message)).toEqual([
      "of some of these the bucket is all that is known: the true value is at most what is shown",
    ]);
    const delta = read("max of m", lasting([[120], [439], [130], [480]], "delta"));
    expect(delta.series[0].values.slice(0, 4)).toEqual([120, 439, 130, 480]);
    expect(delta.warnings).toEqual([]);
  });
});

describe("several processes that write one series", () => {
  /** A process: when it began, s after the origin, and its exports with what each added. */
  const writer = fc.record({
    since: fc.integer({ min: -9000, max: 60 }),
    first: fc.nat(20),
    adds: fc.array(fc.record({ wait: fc.integer({ min: 2, max: 20 }), add: fc.nat(30) }), {
      minLength: 2,
      maxLength: 8,
    }),
  });

  function pointsOf(
    { since, first, adds }: { since: number; first: number; adds: { wait: number; add: number }[] },
    of: number,
  ) {
    let t = Math.max(since, -200) + first + of / 8;
    let value = 0;
    return adds.map(({ wait, add }) => {
      t += wait;
      value += add;
      const set = emptyPointSet({ kind: "number" }, 1);
      set.series.fill(1);
      set.timeMs[0] = ORIGIN + t * 1000;
      set.startMs[0] = ORIGIN + since * 1000 + of;
      set.columns[0][0] = value;
      return set;
    });
  }

  test("each is counted by its own start: together they answer what they answer alone", () => {
    const identity = metricOf("sum", "cumulative");
    fc.assert(
      fc.property(fc.array(writer, { minLength: 2, maxLength: 3 }), fc.boolean(), (writers, rolled) => {
        const all = writers.map(pointsOf);
        const overlap = (one: PointSet[], other: PointSet[]) =>
          one[0].timeMs[0] < other[other.length - 1].timeMs[0] && other[0].timeMs[0] < one[one.length - 1].timeMs[0];
        fc.pre(all.every((one, i) => all.every((other, j) => i === j || overlap(one, other))));
        const alone = all.map((points) => ({ attributes: {}, parts: stored(points, identity, false) }));
        const parts = stored(all.flat(), identity, rolled);
        const together = read("count of m", sourceOf(identity, [{ attributes: { "service.name": "kiln" }, parts }]));
        const apart = read("count of m", sourceOf(identity, alone));
        expect(together.series.length).toBe(apart.series.length);
        if (apart.series.length === 0) return;
        expect(together.series[0].total).toBeCloseTo(apart.series[0].total!, 6);
        together.series[0].values.forEach((value, i) => {
          const wanted = apart.series[0].values[i];
          if (wanted === null) expect(value).toBeNull();
          else expect(value).toBeCloseTo(wanted, 6);
        });
      }),
      { numRuns: 300 },
    );
  });

  test("the answer says so, and what to set", () => {
    const identity = metricOf("sum", "cumulative");
    const adds = [5, 5, 5].map((add) => ({ wait: 10, add }));
    const points = [0, 1].flatMap((of) => pointsOf({ since: of, first: 0, adds }, of));
    const parts = stored(points, identity, false);
    const { warnings } = read("count of m", sourceOf(identity, [{ attributes: { "service.name": "kiln" }, parts }]));
    expect(warnings).toEqual([
      {
        code: "two-writers",
        message:
          "2 processes of kiln write the same series of m at the same time; each is counted by its own start. Give each process a service.instance.id of its own",
      },
    ]);
  });
});
