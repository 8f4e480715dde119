import fc from "fast-check";
import {
  emptyPointSet,
  FLAG,
  type Kind,
  type Layout,
  type MetricIdentity,
  type PointSet,
  type Temporality,
} from "../metric/model";
import { rollUp } from "../rollup/rollUp";
import { assemble } from "../strip/assemble";
import { evaluate, REACH, stepOf } from "./evaluate";
import { parseReading } from "./language/parse";
import { measuresOf, ReadingError } from "./language/tree";
import type { Source, SourceSeries } from "./source";

/** Points as a person would write them down. Times in seconds after the origin; a start of null is unknown. */
interface Point {
  t: number;
  start: number | null;
  value: number;
}

const ORIGIN = 1_764_000_000_000;
const at = (seconds: number) => ORIGIN + seconds * 1000;
const NUMBER: Layout = { kind: "number" };

function numbers(points: readonly Point[]): PointSet {
  const set = emptyPointSet(NUMBER, points.length);
  set.series.fill(1);
  points.forEach(({ t, start, value }, i) => {
    set.timeMs[i] = at(t);
    set.startMs[i] = start === null ? 0 : at(start);
    set.columns[0][i] = value;
  });
  return set;
}

function identity(kind: Kind, temporality: Temporality, unit = "{loan}", monotonic = true): MetricIdentity {
  return { name: "m", kind, unit, temporality, monotonic };
}

function sourceOf(metric: MetricIdentity, series: SourceSeries[], from: number): Source {
  return { metrics: [{ identity: metric, series, points: 1 }], earliest: from - REACH, resolutions: [0], warnings: [] };
}

function read(text: string, source: Source, from: number, to: number, every: number) {
  const tree = parseReading(text);
  const sources = new Map(measuresOf(tree.expression).map((node) => [node, source]));
  const asked = { from: at(from), to: at(to), every: every * 1000, zone: "UTC", picks: {} };
  return evaluate(tree, asked, stepOf(tree, asked, 0), sources);
}

function counter(points: readonly Point[], temporality: Temporality = "cumulative", attributes = {}) {
  return sourceOf(
    identity("sum", temporality),
    [{ attributes, parts: points.length > 0 ? [numbers(points)] : [] }],
    at(0),
  );
}

describe("increases, worked by hand: steps of 60 s in (0, 240]", () => {
  test.each<[string, Temporality, Point[], (number | null)[], number | null]>([
    [
      "a difference is laid over its interval",
      "cumulative",
      [
        { t: 0, start: -60, value: 5 },
        { t: 60, start: -60, value: 11 },
      ],
      [6, null, null, null],
      6,
    ],
    [
      "an interval over two steps is cut in proportion",
      "cumulative",
      [
        { t: 30, start: -60, value: 0 },
        { t: 90, start: -60, value: 12 },
      ],
      [6, 6, null, null],
      12,
    ],
    [
      "an interval that began before the window counts in part",
      "cumulative",
      [
        { t: -60, start: -99, value: 0 },
        { t: 60, start: -99, value: 12 },
      ],
      [6, null, null, null],
      6,
    ],
    [
      "an interval that ends after the window counts in part",
      "cumulative",
      [
        { t: 180, start: -90_000, value: 0 },
        { t: 300, start: -90_000, value: 12 },
      ],
      [null, null, null, 6],
      6,
    ],
    [
      "a zero is not missing",
      "cumulative",
      [
        { t: 0, start: -60, value: 7 },
        { t: 60, start: -60, value: 7 },
      ],
      [0, null, null, null],
      0,
    ],
    [
      "a new start is a reset: its value counts from the start",
      "cumulative",
      [
        { t: 0, start: -60, value: 50 },
        { t: 120, start: 60, value: 4 },
      ],
      [null, 4, null, null],
      4,
    ],
    [
      "a higher value after a new start counts whole",
      "cumulative",
      [
        { t: 0, start: -60, value: 50 },
        { t: 120, start: 60, value: 90 },
      ],
      [null, 90, null, null],
      90,
    ],
    [
      "a fall without a start counts over the whole interval",
      "cumulative",
      [
        { t: 0, start: null, value: 50 },
        { t: 120, start: null, value: 4 },
      ],
      [2, 2, null, null],
      4,
    ],
    [
      "a start before the last point counts over the interval only",
      "cumulative",
      [
        { t: 60, start: -90_000, value: 50 },
        { t: 120, start: 0, value: 4 },
      ],
      [null, 4, null, null],
      4,
    ],
    ["a first point counts from its start", "cumulative", [{ t: 60, start: 0, value: 3 }], [3, null, null, null], 3],
    [
      "a first point written in the moment of its start counts in that moment",
      "cumulative",
      [{ t: 60, start: 60, value: 3 }],
      [3, null, null, null],
      3,
    ],
    [
      "a first point without a start is only a base",
      "cumulative",
      [
        { t: 60, start: null, value: 3 },
        { t: 120, start: null, value: 5 },
      ],
      [null, 2, null, null],
      2,
    ],
    [
      "a start long before what was read gives only a base",
      "cumulative",
      [{ t: 60, start: -90_000, value: 3 }],
      [null, null, null, null],
      null,
    ],
    [
      "a delta counts over its interval",
      "delta",
      [
        { t: 60, start: 0, value: 3 },
        { t: 120, start: 60, value: 5 },
      ],
      [3, 5, null, null],
      8,
    ],
    [
      "a delta without a start counts since the point before",
      "delta",
      [
        { t: 60, start: 0, value: 3 },
        { t: 180, start: null, value: 6 },
      ],
      [3, 3, 3, null],
      9,
    ],
    [
      "a lone delta without a start counts in its moment",
      "delta",
      [{ t: 60, start: null, value: 3 }],
      [3, null, null, null],
      3,
    ],
    [
      "a point in the last moment of the window is inside",
      "delta",
      [{ t: 240, start: null, value: 3 }],
      [null, null, null, 3],
      3,
    ],
    [
      "a point on the window's start is outside, as (from, to] says",
      "delta",
      [{ t: 0, start: null, value: 3 }],
      [null, null, null, null],
      null,
    ],
  ])("%s", (_, temporality, points, steps, total) => {
    const result = read("count of m", counter(points, temporality), 0, 240, 60);
    expect(result.series[0]?.values ?? [null, null, null, null]).toEqual(steps);
    expect(result.series[0]?.total ?? null).toEqual(total);
  });

  test("a rate is the increase by the seconds of its step, and of its sliding window", () => {
    const points = [0, 60, 120, 180, 240].map((t) => ({ t, start: -60, value: t * 2 }));
    expect(read("rate of m", counter(points), 0, 240, 60).series[0].values).toEqual([2, 2, 2, 2]);
    expect(read("rate of m", counter(points), 0, 240, 60).unit).toBe("{loan}/s");
    expect(read("count of m over 2m", counter(points), 0, 240, 60).series[0].values).toEqual([120, 240, 240, 240]);
  });
});

/** Who wrote which point, by the starts: one that comes again after another is another process beside it. */
function bruteWriters(sorted: readonly Point[]): Point[][] {
  const starts: (number | null)[] = [];
  for (const { start } of sorted) starts.push(start ?? starts[starts.length - 1] ?? null);
  const lanes: { points: Point[]; last: number }[] = [];
  const laneOf = new Map<number | null, (typeof lanes)[number]>();
  sorted.forEach((point, i) => {
    let lane = laneOf.get(starts[i]);
    if (!lane) {
      const over = lanes.filter(({ last }) => last < i).sort((a, b) => b.last - a.last);
      lane = over[0] ?? { points: [], last: 0 };
      if (over.length === 0) lanes.push(lane);
      lane.last = starts.lastIndexOf(starts[i]);
      laneOf.set(starts[i], lane);
    }
    lane.points.push(point);
  });
  return lanes.map(({ points }) => points);
}

/** The increases of a series, written again from the definition and without any of the engine's parts. */
function bruteIncreases(points: readonly Point[], temporality: Temporality): Increase[] {
  const sorted = [...points].sort((a, b) => a.t - b.t);
  if (temporality === "delta")
    return sorted.map(({ t, start, value }, i) => ({ from: start ?? sorted[i - 1]?.t ?? t, to: t, value }));
  return bruteWriters(sorted).flatMap(bruteTotals);
}

interface Increase {
  from: number;
  to: number;
  value: number;
}

function bruteTotals(own: readonly Point[]): Increase[] {
  return own.flatMap((point, i) => {
    const before = own[i - 1];
    const { t: to, start, value } = point;
    if (!before) return start !== null && start >= -REACH / 1000 ? [{ from: start, to, value }] : [];
    const anew =
      (start !== null && (before.start === null ? start >= before.t : start !== before.start)) || value < before.value;
    if (!anew) return [{ from: before.t, to, value: value - before.value }];
    return [{ from: start !== null && start >= before.t ? start : before.t, to, value }];
  });
}

/** How much of the increases lies in (from, to], or null where none touches it. */
function bruteSum(
  increases: readonly { from: number; to: number; value: number }[],
  from: number,
  to: number,
): number | null {
  let sum: number | null = null;
  for (const one of increases) {
    if (one.from >= one.to) {
      if (one.to > from && one.to <= to) sum = (sum ?? 0) + one.value;
      continue;
    }
    const part = Math.min(one.to, to) - Math.max(one.from, from);
    if (part > 0) sum = (sum ?? 0) + (one.value * part) / (one.to - one.from);
  }
  return sum;
}

const pointList = fc
  .uniqueArray(
    fc.record({
      t: fc.integer({ min: -300, max: 900 }),
      start: fc.option(fc.integer({ min: -400, max: 900 })),
      value: fc.nat(100),
    }),
    {
      selector: ({ t }) => t,
      maxLength: 25,
    },
  )
  .map((points) =>
    points
      .map((point) => ({ ...point, start: point.start !== null && point.start > point.t ? null : point.start }))
      .sort((a, b) => a.t - b.t),
  );

describe("increases, against brute force over the raw points", () => {
  test.each<Temporality>(["cumulative", "delta"])(
    "%s counters of several series: every step, the total, and steps that sum to it",
    (temporality) => {
      fc.assert(
        fc.property(
          fc.array(pointList, { minLength: 1, maxLength: 4 }),
          fc.constantFrom(7, 60, 100, 600),
          (lists, every) => {
            const series = lists.map((points) => ({
              attributes: {},
              parts: points.length > 0 ? [numbers(points)] : [],
            }));
            const result = read("count of m", sourceOf(identity("sum", temporality), series, at(0)), 0, 600, every);
            const increases = lists.flatMap((points) => bruteIncreases(points, temporality));
            const values = result.series[0]?.values ?? result.times.map(() => null);
            let from = 0;
            result.times.forEach((end, i) => {
              const to = (end - ORIGIN) / 1000;
              const wanted = bruteSum(increases, from, to);
              if (wanted === null) expect(values[i]).toBeNull();
              else expect(values[i]).toBeCloseTo(wanted, 6);
              from = to;
            });
            const total = bruteSum(increases, 0, 600);
            if (total === null) return;
            expect(result.series[0].total).toBeCloseTo(total, 6);
            expect(values.reduce<number>((sum, value) => sum + (value ?? 0), 0)).toBeCloseTo(total, 6);
          },
        ),
        { numRuns: 400 },
      );
    },
  );

  test("repeated and late points change nothing: the order of arrival is made good", () => {
    fc.assert(
      fc.property(
        pointList,
        fc.array(fc.nat(100), { maxLength: 10 }),
        fc.infiniteStream(fc.nat()),
        (points, repeats, order) => {
          fc.pre(points.length > 0);
          const arrivals = [...points, ...repeats.map((i) => points[i % points.length])];
          const shuffled = arrivals.map((point) => ({ point, key: order.next().value! })).sort((a, b) => a.key - b.key);
          const parts = assemble(shuffled.map(({ point }, arrived) => ({ set: numbers([point]), arrived }))).get(1)!;
          const plain = read("count of m", counter(points), 0, 600, 60);
          const mixed = read(
            "count of m",
            sourceOf(identity("sum", "cumulative"), [{ attributes: {}, parts }], at(0)),
            0,
            600,
            60,
          );
          expect(mixed.series).toEqual(plain.series);
        },
      ),
    );
  });
});

const BOUNDS = [1, 2, 5, 10];

/** Cumulative histograms of observations (time, value), written at each of `times`, restarting at `restarts`. */
function histogram(
  observations: readonly [number, number][],
  times: readonly number[],
  restarts: readonly number[],
  layout: Layout,
  placeOf: (value: number) => number,
): PointSet {
  const width =
    layout.kind === "explicit"
      ? layout.bounds.length + 1
      : layout.kind === "exponential"
        ? 1 + layout.positive.width
        : 0;
  const set = emptyPointSet(layout, times.length);
  set.series.fill(1);
  times.forEach((t, row) => {
    const start = Math.max(-60, ...restarts.filter((restart) => restart < t));
    const held = observations.filter(([time]) => time > start && time <= t);
    set.timeMs[row] = at(t);
    set.startMs[row] = at(start);
    set.flags[row] = 8 | 16;
    for (const [, value] of held) {
      set.columns[placeOf(value)][row]++;
      set.columns[width + 2][row] += value;
    }
  });
  return set;
}

describe("histograms", () => {
  const explicit: Layout = { kind: "explicit", bounds: BOUNDS };
  const explicitPlace = (value: number) => BOUNDS.filter((bound) => value > bound).length;
  const exponential: Layout = {
    kind: "exponential",
    scale: 1,
    zeroThreshold: 0,
    negative: { from: 0, width: 0 },
    positive: { from: -8, width: 20 },
  };
  const exponentialPlace = (value: number) => Math.ceil(Math.log2(value) * 2) - 1 + 8 + 1;
  const observations = fc.array(
    fc.tuple(fc.integer({ min: 1, max: 600 }), fc.double({ min: 0.1, max: 30, noNaN: true })),
    { maxLength: 60 },
  );
  const restarts = fc.uniqueArray(
    fc.integer({ min: 0, max: 9 }).map((i) => i * 60),
    { maxLength: 3 },
  );
  const times = Array.from({ length: 11 }, (_, i) => i * 60);

  test.each<[string, Layout, (value: number) => number, Kind]>([
    ["explicit", explicit, explicitPlace, "histogram"],
    ["exponential", exponential, exponentialPlace, "exponential"],
  ])(
    "%s: count, sum, mean, share and percentile bounds hold against the observations, restarts included",
    (_, layout, placeOf, kind) => {
      fc.assert(
        fc.property(observations, restarts, fc.integer({ min: 1, max: 99 }), (observed, restarted, percent) => {
          const source = sourceOf(
            identity(kind, "cumulative", "s"),
            [{ attributes: {}, parts: [histogram(observed, times, restarted, layout, placeOf)] }],
            at(0),
          );
          const counts = read("count of m", source, 0, 600, 120).series[0];
          const sums = read("sum of m", source, 0, 600, 120).series[0];
          const means = read("mean of m", source, 0, 600, 120).series[0];
          const percentiles = read(`p${percent} of m`, source, 0, 600, 120).series[0];
          const shares = read("share under 2000 ms of m", source, 0, 600, 120).series[0];
          expect(counts.total).toBe(observed.length);
          counts.values.forEach((count, i) => {
            const held = observed.filter(([t]) => t > i * 120 && t <= (i + 1) * 120).map(([, value]) => value);
            expect(count).toBeCloseTo(held.length, 9);
            expect(sums.values[i]).toBeCloseTo(
              held.reduce((sum, value) => sum + value, 0),
              6,
            );
            if (held.length === 0) return;
            expect(means.values[i]).toBeCloseTo(held.reduce((sum, value) => sum + value, 0) / held.length, 6);
            const sorted = held.sort((a, b) => a - b);
            const truth = sorted[Math.max(0, Math.ceil((percent / 100) * sorted.length - 1e-9) - 1)];
            expect(percentiles.low![i]).toBeLessThanOrEqual(truth * (1 + 1e-9));
            expect(percentiles.high![i] ?? Number.POSITIVE_INFINITY).toBeGreaterThanOrEqual(truth * (1 - 1e-9));
            const under = sorted.filter((value) => value <= 2).length / sorted.length;
            expect(shares.low![i]).toBeLessThanOrEqual(under + 1e-9);
            expect(shares.high![i]).toBeGreaterThanOrEqual(under - 1e-9);
          });
        }),
        { numRuns: 150 },
      );
    },
  );

  test("a change of scale inside a series neither makes nor loses a count", () => {
    const fine: Layout = { ...exponential, scale: 2, positive: { from: -16, width: 40 } };
    const observed: [number, number][] = Array.from({ length: 200 }, (_, i) => [i * 3 + 1, 0.2 + ((i * 37) % 100) / 5]);
    const before = histogram(
      observed,
      times.slice(0, 5),
      [],
      fine,
      (value) => Math.ceil(Math.log2(value) * 4) - 1 + 16 + 1,
    );
    const after = histogram(observed, times.slice(5), [], exponential, exponentialPlace);
    const source = sourceOf(
      identity("exponential", "cumulative", "s"),
      [{ attributes: {}, parts: [before, after] }],
      at(0),
    );
    const result = read("count of m", source, 0, 600, 60);
    expect(result.series[0].total).toBeCloseTo(200, 9);
    result.series[0].values.forEach((count, i) => {
      expect(count).toBeCloseTo(observed.filter(([t]) => t > i * 60 && t <= (i + 1) * 60).length, 9);
    });
    const p50 = read("p50 of m", source, 0, 600, 600).series[0];
    const sorted = observed.map(([, value]) => value).sort((a, b) => a - b);
    expect(p50.totalLow).toBeLessThanOrEqual(sorted[99]);
    expect(p50.totalHigh).toBeGreaterThanOrEqual(sorted[99]);
  });

  test("different bounds merge, and the answer says so", () => {
    const other: Layout = { kind: "explicit", bounds: [3, 7] };
    const observed: [number, number][] = [
      [30, 1.5],
      [40, 4],
      [50, 6],
      [55, 9],
    ];
    const parts = (layout: Layout, place: (value: number) => number) => [
      histogram(observed, [0, 60], [], layout, place),
    ];
    const source = sourceOf(
      identity("histogram", "cumulative", "s"),
      [
        { attributes: { a: 1 }, parts: parts(explicit, explicitPlace) },
        { attributes: { a: 2 }, parts: parts(other, (value) => (value > 7 ? 2 : value > 3 ? 1 : 0)) },
      ],
      at(0),
    );
    const result = read("p50 of m", source, 0, 60, 60);
    expect(result.warnings.map(({ code }) => code)).toContain("split-buckets");
    expect(result.series[0].totalLow).toBeLessThanOrEqual(4);
    expect(result.series[0].totalHigh).toBeGreaterThanOrEqual(4);
  });
});

test("summaries are counted and averaged like histograms, but give no percentiles of their own", () => {
  const layout: Layout = { kind: "summary", quantiles: [0.5] };
  const set = emptyPointSet(layout, 3);
  [0, 60, 120].forEach((t, row) => {
    set.timeMs[row] = at(t);
    set.startMs[row] = at(-60);
    [0.3, row * 10, row * 4].forEach((value, c) => {
      set.columns[c][row] = value;
    });
  });
  const source = sourceOf(identity("summary", "none", "s", false), [{ attributes: {}, parts: [set] }], at(0));
  expect(read("count of m", source, 0, 120, 60).series[0].values).toEqual([10, 10]);
  expect(read("mean of m", source, 0, 120, 60)).toMatchObject({ unit: "s", series: [{ values: [0.4, 0.4] }] });
  expect(read("rate of m", source, 0, 120, 60).unit).toBe("/s");
  expect(() => read("p50 of m", source, 0, 120, 60)).toThrow("summary");
});

describe("gauges: a value holds to the next, at most two and a half usual intervals", () => {
  const gauge = (points: readonly [number, number][], unit = "By") =>
    sourceOf(
      identity("gauge", "none", unit, false),
      [{ attributes: {}, parts: [numbers(points.map(([t, value]) => ({ t, start: null, value })))] }],
      at(0),
    );
  const even: [number, number][] = [
    [0, 10],
    [30, 20],
    [60, 40],
    [90, 40],
    [120, 0],
  ];

  test("mean is weighted by time, last is the latest, min and max are what held", () => {
    expect(read("mean of m", gauge(even), 0, 120, 60).series[0].values).toEqual([15, 40]);
    expect(read("last of m", gauge(even), 0, 120, 60).series[0].values).toEqual([40, 0]);
    expect(read("min of m", gauge(even), 0, 120, 60).series[0].values).toEqual([10, 0]);
    expect(read("max of m", gauge(even), 0, 120, 60).series[0].values).toEqual([40, 40]);
  });

  test("after a silence there is a gap, not a line", () => {
    const result = read(
      "last of m",
      gauge([
        [0, 1],
        [10, 2],
        [20, 3],
        [400, 4],
      ]),
      0,
      420,
      60,
    );
    expect(result.series[0].values).toEqual([3, null, null, null, null, null, 4]);
  });

  test("a lone point holds for five minutes", () => {
    expect(read("last of m", gauge([[30, 7]]), 0, 480, 60).series[0].values).toEqual([7, 7, 7, 7, 7, 7, null, null]);
  });

  test("a sliding window and the whole window say what a single step of their width says", () => {
    const list = fc.uniqueArray(fc.tuple(fc.integer({ min: -200, max: 600 }), fc.integer({ min: -50, max: 50 })), {
      selector: ([t]) => t,
      minLength: 3,
      maxLength: 30,
    });
    fc.assert(
      fc.property(list, fc.constantFrom("mean", "min", "max", "last"), (found, how) => {
        const source = gauge(found.sort(([a], [b]) => a - b));
        // No midnight lies in the window, so that a step of a day is one step.
        const only = (from: number, to: number) =>
          read(`${how} of m`, source, from, to, 86_400).series[0]?.values[0] ?? null;
        const slid = read(`${how} of m over 150s`, source, 0, 600, 60).series[0];
        for (let i = 0; i < 10; i++) {
          const wanted = only((i + 1) * 60 - 150, (i + 1) * 60);
          if (wanted === null) expect(slid?.values[i] ?? null).toBeNull();
          else expect(slid.values[i]).toBeCloseTo(wanted, 9);
        }
        const whole = only(0, 600);
        if (whole !== null) expect(slid.total).toBeCloseTo(whole, 9);
      }),
      { numRuns: 200 },
    );
  });

  test("against brute force: the time-weighted mean, second by second", () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(fc.integer({ min: -200, max: 600 }), fc.integer({ min: -50, max: 50 })), {
          selector: ([t]) => t,
          minLength: 1,
          maxLength: 30,
        }),
        (list) => {
          const points = list.sort(([a], [b]) => a - b);
          const gaps = points
            .slice(1)
            .map(([t], i) => t - points[i][0])
            .sort((a, b) => a - b);
          const hold = points.length < 3 ? 300 : gaps[gaps.length >> 1] * 2.5;
          const result = read("mean of m", gauge(points), 0, 600, 60);
          const values = result.series[0]?.values ?? new Array(10).fill(null);
          for (let step = 0; step < 10; step++) {
            let sum = 0;
            let held = 0;
            for (let half = step * 120; half < (step + 1) * 120; half++) {
              // Every bound lies on a half second, so its middle decides.
              const moment = half / 2 + 0.25;
              const found = points.filter(([t]) => t <= moment).pop();
              if (!found || moment > found[0] + hold) continue;
              sum += found[1];
              held++;
            }
            const arrived = points.filter(([t]) => t > step * 60 && t <= (step + 1) * 60).pop();
            if (held > 0) expect(values[step]).toBeCloseTo(sum / held, 6);
            else expect(values[step]).toBe(arrived ? arrived[1] : null);
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe("grouping, shares, arithmetic and units", () => {
  const rows = (...series: [Record<string, string>, number][]) =>
    sourceOf(
      identity("sum", "delta"),
      series.map(([attributes, value]) => ({ attributes, parts: [numbers([{ t: 60, start: 0, value }])] })),
      at(0),
    );
  const loans = rows(
    [{ depot: "Brindle", "service.version": "1" }, 6],
    [{ depot: "Ostler Green", "service.version": "1" }, 2],
    [{ depot: "Brindle", "service.version": "2" }, 4],
  );

  test("series with equal values are added; a missing attribute is a group of its own", () => {
    expect(
      read("count of m by depot", loans, 0, 60, 60).series.map(({ labels, total }) => [labels.depot, total]),
    ).toEqual([
      ["Brindle", 10],
      ["Ostler Green", 2],
    ]);
    expect(read("count of m by tool.kind", loans, 0, 60, 60).series).toMatchObject([
      { labels: { "tool.kind": null }, total: 12 },
    ]);
  });

  test("share that", () => {
    expect(
      read('share of m that depot is "Brindle" by release', loans, 0, 60, 60).series.map(({ total }) => total),
    ).toEqual([0.75, 1]);
    expect(read('share of m that depot is "nowhere"', loans, 0, 60, 60).series[0].values).toEqual([0]);
  });

  test("top and bottom", () => {
    expect(read("count of m by depot top 1", loans, 0, 60, 60).series.map(({ labels }) => labels.depot)).toEqual([
      "Brindle",
    ]);
    expect(read("count of m by depot bottom 1", loans, 0, 60, 60).series.map(({ labels }) => labels.depot)).toEqual([
      "Ostler Green",
    ]);
  });

  test("sides join on equal labels; a side without labels goes with all", () => {
    const parts = read("count of m by depot / count of m", loans, 0, 60, 60);
    expect(parts.series.map(({ total }) => total)).toEqual([10 / 12, 2 / 12]);
    expect(parts.share).toBe(true);
    expect(
      read("count of m by depot / count of m by release", loans, 0, 60, 60).warnings.map(({ code }) => code),
    ).toEqual(["unmatched"]);
  });

  test("nothing divided by nothing is missing", () => {
    const nothing = rows([{}, 0]);
    expect(read("count of m / count of m", nothing, 0, 60, 60).series.map(({ values }) => values)).toEqual([[null]]);
  });

  test("units go through the calculation and refuse what makes no sense", () => {
    const seconds = sourceOf(
      identity("gauge", "none", "s", false),
      [{ attributes: {}, parts: [numbers([{ t: 30, start: null, value: 2 }])] }],
      at(0),
    );
    expect(read("last of m + 500 ms", seconds, 0, 60, 60).series[0].values).toEqual([2.5]);
    expect(read("last of m * 2", seconds, 0, 60, 60)).toMatchObject({ unit: "s", series: [{ total: 4 }] });
    expect(read("last of m / 500 ms", seconds, 0, 60, 60)).toMatchObject({ unit: "1", series: [{ total: 4 }] });
    expect(() => read("last of m + 5 By", seconds, 0, 60, 60)).toThrow("By cannot be added to s");
  });

  test.each([
    ["p95 of m", "counter"],
    ["mean of m", "counter"],
    ["share under 5 of m", "counter"],
  ])("%s of a counter is refused with what it can be asked", (text, word) => {
    expect(() => read(text, loans, 0, 60, 60)).toThrow(ReadingError);
    expect(() => read(text, loans, 0, 60, 60)).toThrow(word);
  });

  test("too many steps are refused", () => {
    expect(() => read("count of m every 1s", loans, 0, 40_000, 1)).toThrow("steps");
  });
});

describe("a point that resumes what another series told", () => {
  const resumed = (points: readonly Point[], rows: readonly number[]) => {
    const set = numbers(points);
    for (const row of rows) set.flags[row] = FLAG.resumed;
    return sourceOf(identity("sum", "cumulative"), [{ attributes: {}, parts: [set] }], at(0));
  };

  test("adds nothing, and is the base of what follows", () => {
    const points = [
      { t: 60, start: 0, value: 5 },
      { t: 120, start: 0, value: 40 },
      { t: 180, start: 0, value: 43 },
    ];
    expect(read("count of m", resumed(points, [1]), 0, 240, 60).series[0].values).toEqual([5, null, 3, null]);
    expect(read("count of m", resumed(points, [0]), 0, 240, 60).series[0].values).toEqual([null, 35, 3, null]);
    expect(read("count of m", resumed(points, [0, 1, 2]), 0, 240, 60).series).toEqual([]);
  });

  test("what is counted is all that rises between rows of which the later is not resumed, from points and from minutes", () => {
    const steps = fc.array(fc.record({ add: fc.nat(20), resumed: fc.boolean() }), { minLength: 2, maxLength: 30 });
    fc.assert(
      fc.property(steps, (all) => {
        let value = 0;
        let counted = 0;
        const points = all.map(({ add, resumed: told }, i): Point => {
          value += add;
          if (!told) counted += add;
          return { t: (i + 1) * 20, start: 0, value };
        });
        const rows = all.flatMap(({ resumed: told }, i) => (told ? [i] : []));
        const source = resumed(points, rows);
        const whole = (one: Source) => read("count of m", one, 0, 660, 660).series[0]?.total ?? 0;
        expect(whole(source)).toBe(counted);
        const metric = identity("sum", "cumulative");
        const minutes = rollUp(metric, source.metrics[0].series[0].parts, 60_000);
        expect(whole(sourceOf(metric, [{ attributes: {}, parts: minutes }], at(0)))).toBe(counted);
      }),
    );
  });
});
