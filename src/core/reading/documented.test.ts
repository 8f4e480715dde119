import { readFileSync } from "node:fs";
import type { UsedStrip } from "@/engine/collect";
import { LOOK_BACK, reportsOf } from "@/engine/reports";
import { StripCache } from "@/engine/stripCache";
import type { StripNote } from "@/store/strips/strips";
import { chartOf } from "@/ui/chart/chartOf";
import { rowsOf } from "@/ui/chart/drawn";
import { duration } from "../api/duration";
import { emptyPointSet, FLAG, type Kind, type Layout, type MetricIdentity, type PointSet } from "../metric/model";
import { Absences } from "../otlp/absences";
import { Dictionary } from "../otlp/dictionary";
import { decodeMetricsJson } from "../otlp/json";
import { LIMITS } from "../otlp/limits";
import { rollUp } from "../rollup/rollUp";
import { assemble } from "../strip/assemble";
import { encodeStrip, openStrip } from "../strip/strip";
import { formatValue } from "../unit/format";
import { parseUnit } from "../unit/unit";
import { defaultStep, stepBounds } from "../window/steps";
import { sideBySide } from "./differences";
import { whyEmpty } from "./emptiness";
import { evaluate, REACH, reachFor } from "./evaluate";
import { chooseMetrics } from "./kinds";
import { ladderOf } from "./ladder";
import { type Picks, predicate } from "./language/conditions";
import { parseReading } from "./language/parse";
import { type MeasureNode, measuresOf } from "./language/tree";
import { heldSeries, readHeld } from "./offline";
import type { ReadingSeries } from "./result";
import { settledSteps } from "./result";
import { MAX_REPORTS, releaseKey, settledTo, usualInterval } from "./settled";
import type { MetricSource, Source } from "./source";

/** docs/readings.md, "What the numbers mean": every sentence of it is quoted by a test here that would fail were it not so. */

const chapter = readFileSync("docs/readings.md", "utf8")
  .replace(/^[\s\S]*## What the numbers mean/, "")
  .replace(/## The API[\s\S]*$/, "");
const written = chapter
  .split("\n")
  .filter((line) => !line.startsWith("#"))
  .join("\n")
  .split(/\n\s*\n/)
  .flatMap((paragraph) =>
    paragraph
      .replace(/\s+/g, " ")
      .trim()
      .split(/(?<=\.) (?=[A-Z`])/),
  )
  .filter((sentence) => sentence !== "");
const quoted = new Set<string>();

/** A test of what a sentence says. */
function says(sentence: string, holds: () => void): void {
  quoted.add(sentence);
  test(sentence, () => {
    expect(written).toContain(sentence);
    holds();
  });
}

const ORIGIN = 1_764_000_000_000;
const at = (seconds: number) => ORIGIN + seconds * 1000;
const STEP = 60;
/** A window of four steps of a minute. */
const LENGTH = 4 * STEP;

interface Row {
  t: number;
  start?: number;
  value?: number;
  buckets?: readonly number[];
  min?: number;
  max?: number;
  sum?: number;
  flags?: number;
}

function set(rows: readonly Row[], layout: Layout = { kind: "number" }): PointSet {
  const made = emptyPointSet(layout, rows.length);
  made.series.fill(1);
  rows.forEach(({ t, start, value, buckets = [], min, max, sum, flags = 0 }, i) => {
    made.timeMs[i] = at(t);
    made.startMs[i] = start === undefined ? 0 : at(start);
    made.flags[i] = flags;
    if (layout.kind === "number") made.columns[0][i] = value ?? 0;
    else {
      buckets.forEach((count, c) => {
        made.columns[c][i] = count;
      });
      const width = made.columns.length;
      made.columns[width - 3][i] = min ?? 0;
      made.columns[width - 2][i] = max ?? 0;
      made.columns[width - 1][i] = sum ?? 0;
      if (min === undefined) made.flags[i] |= FLAG.noMin;
      if (max === undefined) made.flags[i] |= FLAG.noMax;
      if (sum === undefined) made.flags[i] |= FLAG.noSum;
    }
  });
  return made;
}

interface Series {
  attributes?: Record<string, string | number | boolean | string[]>;
  parts: PointSet[];
}

function metric(kind: Kind, temporality: MetricIdentity["temporality"], series: Series[], unit = "s"): MetricSource {
  const identity = { name: "m", kind, unit, temporality, monotonic: kind !== "gauge" };
  const points = series.reduce((sum, { parts }) => sum + parts.reduce((all, { count }) => all + count, 0), 0);
  return { identity, series: series.map(({ attributes = {}, parts }) => ({ attributes, parts })), points };
}

const totals = (rows: Row[], attributes = {}) => metric("sum", "cumulative", [{ attributes, parts: [set(rows)] }]);
const deltas = (rows: Row[]) => metric("sum", "delta", [{ parts: [set(rows)] }]);
const gauge = (rows: Row[], attributes = {}) => metric("gauge", "none", [{ attributes, parts: [set(rows)] }]);
const BOUNDS: Layout = { kind: "explicit", bounds: [1, 2, 4] };
const histogram = (rows: Row[], temporality: "delta" | "cumulative" = "delta", layout = BOUNDS) =>
  metric("histogram", temporality, [{ parts: [set(rows, layout)] }]);

/** A moment up to which releases are settled, the one without a name unless others are named. */
const settledAt = (moment: number, ...releases: string[]) =>
  new Map([{}, ...releases.map((release) => ({ "service.version": release }))].map((one) => [releaseKey(one), moment]));

function answer(
  text: string,
  metrics: MetricSource | MetricSource[],
  { picks = {} as Picks, every = STEP, to = LENGTH, settledTo = Number.POSITIVE_INFINITY } = {},
) {
  const all = Array.isArray(metrics) ? metrics : [metrics];
  const tree = parseReading(text);
  const sources = new Map<MeasureNode, Source>();
  for (const node of measuresOf(tree.expression))
    sources.set(node, {
      ...chooseMetrics(node.aggregation, all),
      earliest: ORIGIN - REACH,
      resolutions: [0],
      settled: settledAt(settledTo),
    });
  return evaluate(tree, { from: ORIGIN, to: at(to), every: every * 1000, zone: "UTC", picks }, every * 1000, sources);
}

function first(text: string, metrics: MetricSource | MetricSource[], more = {}): ReadingSeries {
  return answer(text, metrics, more).series[0];
}

const values = (text: string, metrics: MetricSource | MetricSource[], more = {}) => first(text, metrics, more)?.values;
const total = (text: string, metrics: MetricSource | MetricSource[], more = {}) =>
  first(text, metrics, more)?.total ?? null;
const codes = (text: string, metrics: MetricSource | MetricSource[]) =>
  answer(text, metrics).warnings.map(({ code }) => code);

says("Each sentence of this chapter is held by a test that quotes it.", () => {
  expect(written.filter((sentence) => !quoted.has(sentence))).toEqual([]);
});

describe("Time", () => {
  says("A window is half open: (from, to].", () => {
    expect(
      total(
        "count of m",
        deltas([
          { t: 0, value: 1 },
          { t: LENGTH, value: 2 },
        ]),
      ),
    ).toBe(2);
  });
  says(
    "Steps lie on the wall clock of the zone that is asked for, UTC where none is; the first and the last are shorter where the window does not fit.",
    () => {
      const from = Date.UTC(2026, 0, 5, 10, 10);
      const to = from + 3 * 3600_000;
      const hours = (zone?: string) => Array.from(stepBounds(from, to, 3600_000, zone), (ms) => (ms - from) / 60_000);
      expect(hours()).toEqual([0, 50, 110, 170, 180]);
      expect(hours("Asia/Kolkata")).toEqual([0, 20, 80, 140, 180]);
    },
  );
  says("Days begin at midnight there, weeks on Mondays.", () => {
    const from = Date.UTC(2026, 0, 1);
    const starts = (step: number) =>
      Array.from(stepBounds(from, from + 15 * 86400_000, step, "Europe/Berlin").subarray(1, -1), (ms) =>
        new Date(ms + 3600_000).toISOString(),
      );
    expect(starts(86400_000)[0]).toBe("2026-01-02T00:00:00.000Z");
    expect(starts(7 * 86400_000)).toEqual(["2026-01-05T00:00:00.000Z", "2026-01-12T00:00:00.000Z"]);
  });
  says("Steps of more than an hour over a change of the clock are longer or shorter by what it was changed.", () => {
    const from = Date.UTC(2026, 9, 24, 22);
    const bounds = stepBounds(from, from + 26 * 3600_000, 86400_000, "Europe/Berlin");
    expect((bounds[1] - bounds[0]) / 3600_000).toBe(25);
  });
  says(
    "Where nothing says how long a step is, the window has about 300 of them, and none is shorter than the usual distance between points.",
    () => {
      expect(defaultStep(0, 300 * 60_000, 1000)).toBe(60_000);
      expect(defaultStep(0, 3600_000, 60_000)).toBe(60_000);
    },
  );
  says("In a text a duration has a unit; in `every=` of the API a bare number is milliseconds.", () => {
    expect(() => parseReading("rate of m every 60")).toThrow("a duration is expected");
    expect(duration.parse("60")).toBe(60);
    expect(duration.parse("60s")).toBe(60_000);
  });
});

describe("Increases", () => {
  says("These stand behind `rate`, `count` and `sum` of counters and histograms.", () => {
    const counter = totals([
      { t: 0, value: 1 },
      { t: 60, value: 7 },
    ]);
    expect([total("count of m", counter), total("sum of m", counter), total("rate of m", counter)]).toEqual([
      6,
      6,
      6 / LENGTH,
    ]);
    expect(total("count of m", histogram([{ t: 60, start: 0, buckets: [1, 2, 0, 0], sum: 4 }]))).toBe(3);
  });
  says("A running total adds what it is more than at the point before, over the time between.", () => {
    expect(
      values(
        "count of m",
        totals([
          { t: 30, value: 1 },
          { t: 90, value: 7 },
        ]),
      ),
    ).toEqual([3, 3, null, null]);
  });
  says(
    "A changed start, or a fall of the value or of any bucket, is a reset: the point then adds all of its value over (start, t2], or over (t1, t2] where the start is unknown or before t1.",
    () => {
      expect(
        values(
          "count of m",
          totals([
            { t: 0, start: -9, value: 5 },
            { t: 120, start: 60, value: 9 },
          ]),
        ),
      ).toEqual([null, 9, null, null]);
      expect(
        values(
          "count of m",
          totals([
            { t: 0, value: 5 },
            { t: 120, value: 4 },
          ]),
        ),
      ).toEqual([2, 2, null, null]);
      const fallen = [
        { t: 0, start: -9, buckets: [5, 1, 0, 0] },
        { t: 60, start: -9, buckets: [4, 9, 0, 0] },
      ];
      expect(total("count of m", histogram(fallen, "cumulative"))).toBe(13);
    },
  );
  says(
    "Where only one of two points has a start, it is a reset only where that lies after the other point, or the value fell.",
    () => {
      expect(
        total(
          "count of m",
          totals([
            { t: 0, value: 5 },
            { t: 60, start: -9, value: 8 },
          ]),
        ),
      ).toBe(3);
      expect(
        total(
          "count of m",
          totals([
            { t: 0, value: 5 },
            { t: 60, start: 30, value: 8 },
          ]),
        ),
      ).toBe(8);
      expect(
        total(
          "count of m",
          totals([
            { t: 0, start: -9, value: 5 },
            { t: 60, value: 8 },
          ]),
        ),
      ).toBe(3);
      expect(
        total(
          "count of m",
          totals([
            { t: 0, start: -9, value: 5 },
            { t: 60, value: 4 },
          ]),
        ),
      ).toBe(4);
    },
  );
  /** What a process that began a day ago told in reports every 15 s, as [ok, failed]: what is counted after the second. */
  const reported = (...reports: (readonly [number, number?])[]): (number | null)[] => {
    const dictionary = new Dictionary();
    const absences = new Absences(dictionary);
    const point = (name: string, seconds: number, value: number) => ({
      attributes: [{ key: "of", value: { stringValue: name } }],
      startTimeUnixNano: `${at(-86_400)}000000`,
      timeUnixNano: `${at(seconds)}000000`,
      asInt: String(value),
    });
    const batches = reports.map(([ok, failed], i) => {
      const seconds = 15 * i;
      const dataPoints = [
        point("ok", seconds, ok),
        ...(failed === undefined ? [] : [point("failed", seconds, failed)]),
      ];
      const sum = { aggregationTemporality: 2, isMonotonic: true, dataPoints };
      const resource = { attributes: [{ key: "service.instance.id", value: { stringValue: "a" } }] };
      const body = { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [{ name: "m", sum }] }] }] };
      const batch = decodeMetricsJson(JSON.stringify(body), dictionary);
      absences.fill(batch)();
      return batch;
    });
    const asked = { from: at(15), to: at(15 * (reports.length - 1)), every: 15_000, zone: "UTC", picks: {} };
    const { series } = readHeld('count of m where of is "failed"', heldSeries(batches), asked, at(0));
    return series.flatMap(({ values }) => [...values]);
  };
  says(
    "A series that comes later than others of its metric, of the same `service.instance.id` and start, which was heard twice without it and tells all others again, stood at nothing when that was last: a point that says so is stored with its first of that start.",
    () => {
      expect(reported([10], [11], [12], [13, 4], [14, 6])).toEqual([null, 4, 2]);
      expect(reported([10], [11], [12, 4], [13, 6])).toEqual([4, 2]);
      expect(reported([10], [11, 4], [12, 6], [13, 7])).toEqual([2, 1]);
    },
  );
  says(
    "It is not where the series tells far more than the others count in that time: something on the way kept it back.",
    () => {
      expect(reported([10], [11], [12, 100_000], [13, 100_004])).toEqual([null, 4]);
    },
  );
  says(
    "A first point adds its value from its start where that lies in the window or the hour before it; else it is only a base.",
    () => {
      expect(total("count of m", totals([{ t: 60, start: 0, value: 5 }]))).toBe(5);
      expect(total("count of m", totals([{ t: 60, start: -60, value: 5 }]))).toBe(2.5);
      expect(total("count of m", totals([{ t: 60, start: -3601, value: 5 }]))).toBeNull();
      expect(total("count of m", totals([{ t: 60, value: 5 }]))).toBeNull();
    },
  );
  says("A point in the very moment of its start counts in that moment.", () => {
    expect(values("count of m", totals([{ t: 90, start: 90, value: 5 }]))).toEqual([null, 5, null, null]);
  });
  says("A delta adds all of its value over (start, t], and without a start since the point before it.", () => {
    expect(
      values(
        "count of m",
        deltas([
          { t: 60, start: 0, value: 3 },
          { t: 180, value: 6 },
        ]),
      ),
    ).toEqual([3, 3, 3, null]);
  });
  says(
    "An increase is laid evenly over its interval and cut where steps begin and end, so the steps of a window sum to its total.",
    () => {
      const { values: steps, total: all } = first(
        "count of m",
        totals([
          { t: -60, value: 0 },
          { t: 300, value: 36 },
        ]),
      );
      expect(steps).toEqual([6, 6, 6, 6]);
      expect(all).toBe(24);
    },
  );
  says(
    "Starts that come again after another are two processes that write one series: each is counted by its own start, and the answer says so.",
    () => {
      const twins = totals([
        { t: 10, start: 0, value: 1 },
        { t: 20, start: 1, value: 10 },
        { t: 30, start: 0, value: 2 },
        { t: 40, start: 1, value: 20 },
      ]);
      expect(total("count of m", twins)).toBe(22);
      expect(codes("count of m", twins)).toEqual(["two-writers"]);
    },
  );
  says("Of two points of one series and time the later arrival counts.", () => {
    const arrivals = [3, 8].map((value, arrived) => ({ set: set([{ t: 60, value }]), arrived }));
    expect(
      assemble(arrivals)
        .get(1)!
        .map(({ columns }) => columns[0][0]),
    ).toEqual([8]);
  });
  says("Points without a value, and values that are infinite or no number, add nothing.", () => {
    const rows = [
      { t: 30, value: 5, flags: FLAG.noRecordedValue },
      { t: 60, value: Number.POSITIVE_INFINITY },
      { t: 90, value: Number.NaN },
    ];
    expect(total("count of m", totals([{ t: 0, value: 1 }, ...rows, { t: 120, value: 4 }]))).toBe(3);
  });
  says(
    "A rate is the increase by the seconds of its step, shorter ones included, and its total by those of the window.",
    () => {
      const even = totals([
        { t: 0, value: 0 },
        { t: 90, value: 90 },
      ]);
      const short = first("rate of m", even, { to: 90 });
      expect(short.values).toEqual([1, 1]);
      expect(short.total).toBe(1);
    },
  );
  says(
    "With `over`, each step stands for the time of that length up to its end, and a rate divides by it; the total stays the window's.",
    () => {
      const even = totals([
        { t: -600, value: 0 },
        { t: LENGTH, value: 840 },
      ]);
      expect(values("count of m over 2m", even)).toEqual([120, 120, 120, 120]);
      const rate = first("rate of m over 2m", even);
      expect(rate.values).toEqual([1, 1, 1, 1]);
      expect(first("count of m over 2m", even).total).toBe(LENGTH);
    },
  );
  says(
    "On the Releases page, throughput and share of a release that began in the last five minutes are over the time since.",
    () => {
      const attributes = { "service.version": "2" };
      const young = { attributes, parts: [set([{ t: 240, start: 230, buckets: [30, 0, 0, 0], sum: 9 }], BOUNDS)] };
      const source = {
        metrics: [metric("histogram", "cumulative", [young])],
        earliest: ORIGIN - REACH,
        resolutions: [0],
        warnings: [],
      };
      const [rung] = ladderOf(
        source,
        Float64Array.of(at(0), at(240)),
        { metric: "m", failed: "x is 1" },
        300_000,
      ).rungs;
      expect([rung.recentRate, rung.recentShare]).toEqual([3, 1]);
    },
  );
});

describe("Histograms", () => {
  const observed = (buckets: number[], more: Partial<Row> = {}): Row => ({ t: 60, start: 0, buckets, ...more });
  says(
    "`count` of a histogram is how many observations there were, `sum` what they add up to, `mean` the one by the other.",
    () => {
      const four = histogram([observed([3, 1, 0, 0], { sum: 6 })]);
      expect(["count", "sum", "mean"].map((how) => total(`${how} of m`, four))).toEqual([4, 6, 1.5]);
    },
  );
  says(
    "No sum is not a sum of zero: points that came without one are left out of `sum` and `mean`, and the answer says so.",
    () => {
      const some = histogram([observed([2, 0, 0, 0], { sum: 1 }), { t: 120, start: 60, buckets: [5, 0, 0, 0] }]);
      expect(["count", "sum", "mean"].map((how) => total(`${how} of m`, some))).toEqual([7, 1, 0.5]);
      expect(values("sum of m", some)).toEqual([1, null, null, null]);
      expect(codes("mean of m", some)).toContain("no-sum");
    },
  );
  says("Percentiles come from merged buckets, never from averaged percentiles.", () => {
    const two = metric("histogram", "delta", [
      { parts: [set([observed([99, 0, 0, 0], { sum: 1 })], BOUNDS)] },
      { parts: [set([observed([0, 0, 1, 0], { sum: 3 })], BOUNDS)] },
    ]);
    expect(total("p50 of m", two)!).toBeLessThan(1);
  });
  says("The percentile p of n observations is the smallest value at or below which p/100 · n of them lie.", () => {
    expect(total("p25 of m", histogram([observed([1, 3, 0, 0], { sum: 1 })]))).toBe(1);
  });
  says(
    "Inside an explicit bucket it is interpolated evenly, inside an exponential one on the logarithmic scale.",
    () => {
      expect(total("p50 of m", histogram([observed([0, 0, 4, 0], { sum: 9 })]))).toBe(3);
      const range = { from: 2, width: 1 };
      const layout: Layout = {
        kind: "exponential",
        scale: 0,
        zeroThreshold: 0,
        negative: { from: 0, width: 0 },
        positive: range,
      };
      const one = metric("exponential", "delta", [{ parts: [set([observed([0, 4], { sum: 20 })], layout)] }]);
      expect(total("p50 of m", one)).toBeCloseTo(4 * Math.SQRT2, 9);
    },
  );
  says("`low` and `high` are the bounds between which the true value must lie, whatever the buckets hold.", () => {
    const { totalLow, totalHigh } = first("p50 of m", histogram([observed([0, 0, 4, 0], { sum: 9 })]));
    expect([totalLow, totalHigh]).toEqual([2, 4]);
  });
  const moved = [
    { t: 60, start: 0, buckets: [0, 0, 2, 0], min: 2.5, max: 3, sum: 5 },
    { t: 120, start: 0, buckets: [0, 0, 4, 0], min: 2.5, max: 3, sum: 10 },
    { t: 180, start: 0, buckets: [0, 0, 6, 0], min: 2.1, max: 3.5, sum: 16 },
  ];
  says(
    "The least and the greatest observation that a point tells tighten its buckets where they are of these observations: always in deltas and after a reset, in running totals only where they moved.",
    () => {
      const running = first("p50 of m", histogram(moved, "cumulative"));
      expect(running.low?.slice(0, 3)).toEqual([2.5, 2, 2.1]);
      expect(running.high?.slice(0, 3)).toEqual([3, 4, 3.5]);
      expect(first("p50 of m", histogram([observed([0, 0, 4, 0], { min: 2.5, max: 3, sum: 9 })])).low?.[0]).toBe(2.5);
    },
  );
  says(
    "`max` of a running total that did not move is at most the upper bound of its highest bucket, and the answer says so.",
    () => {
      expect(values("max of m", histogram(moved, "cumulative"))?.slice(0, 3)).toEqual([3, 4, 3.5]);
      expect(codes("max of m", histogram(moved, "cumulative"))).toEqual(["bucket-only"]);
    },
  );
  says(
    "That nothing lies below zero is taken for true only where a histogram has a sum, as the standard wants it.",
    () => {
      expect(first("p50 of m", histogram([observed([4, 0, 0, 0], { sum: 2 })])).totalLow).toBe(0);
      expect(first("p50 of m", histogram([observed([4, 0, 0, 0])])).totalLow).toBeNull();
    },
  );
  says(
    "`share under` counts what lies at or below its bound, `share over` the rest; both interpolate inside the bucket of the bound and carry bounds of their own.",
    () => {
      const four = histogram([observed([1, 1, 2, 0], { sum: 9 })]);
      expect([total("share under 2 of m", four), total("share over 2 of m", four)]).toEqual([0.5, 0.5]);
      expect(first("share under 3 of m", four)).toMatchObject({ total: 0.75, totalLow: 0.5, totalHigh: 1 });
    },
  );
  const spreadOf = (one: MetricSource) => answer("spread of m", one).series;
  says("`spread` counts what lies in bands of values, which together are the `count`.", () => {
    const four = histogram([observed([1, 1, 2, 0], { sum: 9 })]);
    const bands = spreadOf(four);
    expect(bands.reduce((sum, { total: own }) => sum + (own ?? 0), 0)).toBeCloseTo(total("count of m", four)!, 9);
    const counts = answer("count of m", four).series[0].values;
    counts.forEach((count, i) => {
      const parts = bands.map(({ values }) => values[i]);
      if (count === null) expect(parts.every((part) => part === null)).toBe(true);
      else expect(parts.reduce<number>((sum, part) => sum + (part ?? 0), 0)).toBeCloseTo(count, 9);
    });
  });
  says(
    "Between the bounds of explicit buckets, where these are at most 60, the counts are those of the buckets; else bands are parts of a decade, and buckets are cut as for percentiles.",
    () => {
      const four = histogram([observed([1, 1, 2, 0], { sum: 9 })]);
      expect(spreadOf(four).map(({ band, total: own }) => [band, own])).toEqual([
        [{ low: 0, high: 1 }, 1],
        [{ low: 1, high: 2 }, 1],
        [{ low: 2, high: 4 }, 2],
      ]);
      expect(answer("spread of m", four).bandUnit).toBe("s");
      // Sixteen observations in each of two exponential buckets: (1, 2] and (2, 4].
      const layout = {
        kind: "exponential",
        scale: 0,
        zeroThreshold: 0,
        negative: { from: 0, width: 0 },
        positive: { from: 0, width: 2 },
      } as const;
      const exponential = metric("exponential", "delta", [
        { parts: [set([{ t: 60, start: 0, buckets: [0, 16, 16], sum: 60 }], layout)] },
      ]);
      const bands = spreadOf(exponential);
      expect(bands.reduce((sum, { total: own }) => sum + (own ?? 0), 0)).toBeCloseTo(32, 9);
      for (const { band, total: own } of bands) {
        const [low, high] = [Math.max(1, band!.low!), Math.min(4, band!.high!)];
        expect(own).toBeCloseTo(high > low ? 16 * Math.log2(high / low) : 0, 6);
      }
    },
  );
  says("A spread has no `top` and takes no part in calculations.", () => {
    const four = histogram([observed([1, 1, 2, 0], { sum: 9 })]);
    expect(() => answer("spread of m top 2", four)).toThrow("a spread has no top");
    expect(() => answer("spread of m / 2", four)).toThrow("a spread stands by itself");
  });
  const changed = (bounds: number[], buckets: number[]) =>
    metric("histogram", "cumulative", [
      {
        parts: [
          set([{ t: 60, start: 0, buckets: [1, 1, 1, 0], sum: 5 }], BOUNDS),
          set([{ t: 120, start: 0, buckets, sum: 9 }], { kind: "explicit", bounds }),
        ],
      },
    ]);
  says(
    "Bounds that change within a running total are compared on those that both have; where neither holds the other, the answer says so.",
    () => {
      expect(values("count of m", changed([1, 4], [2, 3, 0]))?.slice(0, 2)).toEqual([3, 2]);
      expect(codes("count of m", changed([1, 4], [2, 3, 0]))).toEqual([]);
      expect(values("count of m", changed([1, 3], [2, 3, 0]))?.slice(0, 2)).toEqual([3, 2]);
      expect(codes("count of m", changed([1, 3], [2, 3, 0]))).toEqual(["bounds-changed"]);
    },
  );
  says("Exponential histograms are merged at the coarser scale, and coarser still until 320 buckets hold them.", () => {
    const layout = (scale: number, from: number): Layout => ({
      kind: "exponential",
      scale,
      zeroThreshold: 0,
      negative: { from: 0, width: 0 },
      positive: { from, width: 1 },
    });
    const far = metric("exponential", "delta", [
      { parts: [set([observed([0, 1], { sum: 1 })], layout(20, 0))] },
      { parts: [set([observed([0, 1], { sum: 1 })], layout(20, 2 ** 20))] },
    ]);
    // The second lies beyond 2: at scale 8, 256 buckets are a doubling.
    const { totalLow, totalHigh } = first("max of m", far);
    expect(totalLow).toBe(2);
    expect(totalHigh).toBeCloseTo(2 * 2 ** (1 / 256), 12);
  });
});

describe("Levels", () => {
  says("These stand behind `last`, `mean`, `min`, `max` and `sum` of gauges and up-down counters.", () => {
    const rows = [
      { t: 60, value: 2 },
      { t: 120, value: 4 },
      { t: 180, value: 6 },
    ];
    expect(["last", "min", "max", "sum"].map((how) => total(`${how} of m`, gauge(rows)))).toEqual([6, 2, 6, 6]);
    expect(() => answer("rate of m", gauge(rows))).toThrow("m is a gauge and has no rate");
  });
  says(
    "A point holds until the next, at most 2.5 times the usual interval of its series, and 5 minutes where that is not known.",
    () => {
      const three = [-50, -40, -30].map((t) => ({ t, value: 3 }));
      // The last holds 25 s, from -30 to -5: nothing is left of it in the window.
      expect(answer("last of m", gauge(three)).series).toEqual([]);
      expect(values("last of m", gauge([{ t: -100, value: 3 }]))).toEqual([3, 3, 3, 3]);
      expect(answer("last of m", gauge([{ t: -301, value: 3 }])).series).toEqual([]);
    },
  );
  says(
    "The usual interval is the median distance of the points that are read: those of the window and at least an hour, for gauges that seldom report four intervals, around it.",
    () => {
      expect([reachFor(10_000), reachFor(1800_000)]).toEqual([3600_000, 7200_000]);
      const uneven = [-130, -120, -20, -10, 0].map((t) => ({ t, value: 3 }));
      expect(values("last of m", gauge(uneven))).toEqual([3, null, null, null]);
    },
  );
  says(
    "`mean` is weighted by the time that values held; `last` is the value at the end of a step or, where that has lapsed, the last that came in it.",
    () => {
      const rows = [
        { t: 0, value: 0 },
        { t: 45, value: 8 },
        { t: 90, value: 8 },
      ];
      expect(values("mean of m", gauge(rows))?.[0]).toBe(2);
      expect(values("last of m", gauge(rows))?.slice(0, 2)).toEqual([8, 8]);
      const lapsed = [
        { t: 5, value: 7 },
        { t: 6, value: 8 },
        { t: 7, value: 9 },
      ];
      expect(values("last of m", gauge(lapsed))?.[0]).toBe(9);
    },
  );
  says(
    "Over several series `mean` is the mean of their means, `last` and `sum` add them up, `min` and `max` are the least and the greatest.",
    () => {
      const two = metric(
        "gauge",
        "none",
        [2, 6].map((value) => ({ parts: [set([{ t: 60, value }])] })),
      );
      expect(["mean", "last", "sum", "min", "max"].map((how) => total(`${how} of m`, two))).toEqual([4, 8, 8, 2, 6]);
    },
  );
  says(
    "Levels in the unit `1` whose name ends in `utilization` or `ratio` are parts of a whole, and written in percent.",
    () => {
      const written = (name: string, unit: string, made = gauge([{ t: 60, value: 0.0046 }])) => {
        const named = { ...made, identity: { ...made.identity, name, unit } };
        const { unit: code, share, series } = answer(`sum of ${name}`, named);
        return formatValue(series[0].total, code, share);
      };
      expect(written("process.cpu.utilization", "1")).toBe("0.46 %");
      expect(written("cache_hit_ratio", "1")).toBe("0.46 %");
      expect(written("process.cpu.utilization", "s")).toBe("4.6 ms");
      expect(written("utilization.of.what", "1")).toBe("0.0046");
      expect(written("a.ratio", "1", deltas([{ t: 60, start: 0, value: 3 }]))).toBe("3");
    },
  );
});

describe("Missing", () => {
  says("A step in which nothing arrived and nothing holds is missing, which is not zero.", () => {
    expect(
      values(
        "count of m",
        totals([
          { t: 0, value: 5 },
          { t: 60, value: 5 },
        ]),
      ),
    ).toEqual([0, null, null, null]);
  });
  says("An answer without any value says why.", () => {
    const node = parseReading("rate of m").expression as MeasureNode;
    const known = { node, picks: {}, from: at(0), to: at(LENGTH), known: [], lastMatched: null, metrics: [] };
    expect(whyEmpty({ ...known, stored: null }).message).toContain("none of its points is stored");
  });
});

describe("Several kinds and units under one name", () => {
  const counter = totals(
    [
      { t: 0, value: 1 },
      { t: 60, value: 7 },
    ],
    { "service.name": "a" },
  );
  const level = gauge([{ t: 60, value: 2 }], { "service.name": "b" });
  says(
    "The kind is read that the verb asks for, and of several that it can be asked of the one with most points; what is left out is said, with who sends it.",
    () => {
      expect(total("count of m", [level, counter])).toBe(6);
      expect(total("mean of m", [counter, level])).toBe(2);
      expect(total("sum of m", [level, counter])).toBe(6);
      expect(answer("sum of m", [level, counter]).warnings[0].message).toContain("a gauge from b");
    },
  );
  says(
    "Numbers and explicit buckets in another unit that measures the same are converted; what does not convert is left out, and the answer says so.",
    () => {
      const seconds = metric(
        "gauge",
        "none",
        [
          {
            parts: [
              set([
                { t: 60, value: 2 },
                { t: 70, value: 2 },
              ]),
            ],
          },
        ],
        "s",
      );
      const millis = metric("gauge", "none", [{ parts: [set([{ t: 60, value: 500 }])] }], "ms");
      const bytes = metric("gauge", "none", [{ parts: [set([{ t: 60, value: 500 }])] }], "By");
      expect(total("max of m", [millis, seconds])).toBe(2);
      expect(total("min of m", [millis, seconds])).toBe(0.5);
      expect(codes("max of m", [bytes, seconds])).toEqual(["mixed-units"]);
      const buckets = histogram([{ t: 60, start: 0, buckets: [4, 0, 0, 0], sum: 2000 }], "delta", {
        kind: "explicit",
        bounds: [1000, 2000, 4000],
      });
      buckets.identity.unit = "ms";
      const both = [
        buckets,
        histogram([
          { t: 60, start: 0, buckets: [1, 0, 0, 0], sum: 1 },
          { t: 120, start: 60, buckets: [1, 0, 0, 0], sum: 1 },
        ]),
      ];
      expect(total("share under 1 of m", both)).toBe(1);
    },
  );
});

describe("Tests", () => {
  const passes = (text: string, attributes: Record<string, string | number | boolean | string[]>, picks: Picks = {}) =>
    predicate((parseReading(`rate of m where ${text}`).expression as MeasureNode).where, picks)(attributes);
  says(
    "Values of different types are equal where they are written the same: `is 200` finds a text and a number.",
    () => {
      expect([
        passes("a is 200", { a: "200" }),
        passes("a is 200", { a: 200 }),
        passes('a is "200"', { a: 200 }),
      ]).toEqual([true, true, true]);
      expect(passes("a is true", { a: "true" })).toBe(true);
    },
  );
  says("A number is compared as it is written, so `is 1.10` does not find 1.1 as a text.", () => {
    expect([passes("a is 1.10", { a: "1.1" }), passes("a is 1.10", { a: "1.10" })]).toEqual([false, true]);
  });
  says(
    "`is` minds case; the other text tests ignore it unless their text has a capital, escapes and names of groups aside.",
    () => {
      expect([
        passes('a is "x"', { a: "X" }),
        passes('a contains "x"', { a: "X" }),
        passes('a contains "X"', { a: "x" }),
      ]).toEqual([false, true, false]);
      expect(passes('a matches "^(?P<Who>\\\\Sx)$"', { a: "XX" })).toBe(true);
    },
  );
  says(
    "`<`, `<=`, `>` and `>=` compare decimal numbers; what is none passes none of them, and attributes have no unit.",
    () => {
      expect(["5", 5, " ", "0x1", "x"].map((a) => passes("a < 6", { a }))).toEqual([true, true, false, false, false]);
      expect(() => parseReading("rate of m where a < 6 ms")).toThrow("attributes have no unit");
    },
  );
  says("Lists and maps are compared as JSON.", () => {
    expect(passes('a is "[\\"x\\",\\"y\\"]"', { a: ["x", "y"] })).toBe(true);
  });
  says("A series without an attribute passes `is not` and the negated text tests.", () => {
    expect([passes('a is not "x"', {}), passes('a not contains "x"', {}), passes('a contains "x"', {})]).toEqual([
      true,
      true,
      false,
    ]);
  });
  says("A point's own attribute wins over its resource's.", () => {
    const own = (stringValue: string) => [{ key: "a", value: { stringValue } }];
    const dataPoints = [{ timeUnixNano: `${at(60)}000000`, asDouble: 1, attributes: own("point") }];
    const scopeMetrics = [{ metrics: [{ name: "m", gauge: { dataPoints } }] }];
    const body = { resourceMetrics: [{ resource: { attributes: own("resource") }, scopeMetrics }] };
    const held = heldSeries([decodeMetricsJson(JSON.stringify(body), new Dictionary())]);
    expect(held.map(({ attributes }) => attributes.a)).toEqual(["point"]);
  });
  says('In quotes a name means itself, so `"release"` is an attribute that is called release.', () => {
    const both = { release: "own", "service.version": "2" };
    expect([passes('"release" is "own"', both), passes("release is 2", both)]).toEqual([true, true]);
  });
  says("A pick with several values means one of them; one that is absent means all.", () => {
    expect([
      passes("a is <p>", { a: "x" }, { p: ["x", "y"] }),
      passes("a is <p>", { a: "z" }, { p: ["x", "y"] }),
      passes("a is <p>", { a: "z" }),
    ]).toEqual([true, false, true]);
  });
  says("Patterns are RE2 and run in linear time.", () => {
    expect(() => parseReading('rate of m where a matches "(?=x)"')).toThrow("this pattern is not understood");
    expect(passes('a matches "^(a+)+$"', { a: `${"a".repeat(5000)}b` })).toBe(false);
  });
});

describe("Calculations", () => {
  const by = (name: string, ends: Record<string, number>) =>
    metric(
      "sum",
      "cumulative",
      Object.entries(ends).map(([key, value]) => ({
        attributes: { [name]: key },
        parts: [
          set([
            { t: 0, value: 0 },
            { t: 60, value },
          ]),
        ],
      })),
    );
  says("A division by zero is missing.", () => {
    expect(total("count of m / 0", by("k", { a: 6 }))).toBeNull();
  });
  says(
    "Rows of equal labels go together, and one row without labels goes with every row of the other side; what has no partner is left out, and the answer says so.",
    () => {
      const three = by("k", { a: 6, b: 2, c: 4 });
      expect(answer("count of m by k / count of m", three).series.map(({ total: part }) => part)).toEqual([
        0.5,
        2 / 12,
        4 / 12,
      ]);
      const some = answer('count of m by k / count of m where k is not "c" by k', three);
      expect(some.series.map(({ labels }) => labels.k)).toEqual(["a", "b"]);
      expect(some.warnings.map(({ code }) => code)).toEqual(["unmatched"]);
    },
  );
  says("Units go through every calculation; what cannot be added is refused.", () => {
    const counted = { ...by("k", { a: 6 }), identity: { ...by("k", {}).identity, unit: "{loan}" } };
    expect(answer("rate of m * count of m", counted).unit).toBe("{loan}.{loan}/s");
    expect(parseUnit("{loan}.{loan}/s").powers).toEqual({ "{loan}": 2, s: -1 });
    expect(() => answer("rate of m + count of m", counted)).toThrow("cannot be added to");
  });
  says("Bounds go through a calculation with a number and are gone after one of two measures.", () => {
    const four = histogram([{ t: 60, start: 0, buckets: [0, 0, 4, 0], sum: 9 }]);
    expect(first("p50 of m * 2", four)).toMatchObject({ totalLow: 4, totalHigh: 8 });
    expect(first("p50 of m / p95 of m", four).low).toBeUndefined();
  });
  says("`top` and `bottom` rank by the total of the window; what has none comes last.", () => {
    const three = by("k", { a: 6, b: 2, c: 4 });
    const names = (text: string) => answer(text, three).series.map(({ labels }) => labels.k);
    expect(names("count of m by k top 2")).toEqual(["a", "c"]);
    expect(names("count of m by k bottom 2")).toEqual(["b", "c"]);
  });
});

describe("Points", () => {
  says("Points are taken as long as their metric is kept as it arrives, and up to a day ahead of our clock.", () => {
    expect(LIMITS.ahead).toBe(86400_000);
  });
});

describe("Resolution", () => {
  const rows = Array.from({ length: 30 }, (_, i) => ({ t: i * 10, start: -9, value: i * i }));
  const rolled = (): MetricSource => {
    const source = totals(rows);
    const [{ parts }] = source.series;
    return metric("sum", "cumulative", [{ parts: rollUp(source.identity, parts, 60_000) }]);
  };
  says("Points are kept as they arrived, by the minute and by the hour.", () => {
    expect(rolled().series[0].parts[0].count).toBeLessThan(rows.length);
  });
  says(
    "What is rolled up gives the same numbers wherever no bound of a step lies inside a minute or an hour, so a reading takes the coarsest that does: hours for days in which all bounds are full hours, minutes for spans of two hours in which all are full minutes, every point elsewhere and wherever points still arrive.",
    () => {
      expect(values("count of m", rolled())).toEqual(values("count of m", totals(rows)));
    },
  );
  says(
    "Where a bound lies inside a minute or an hour of which nothing finer is kept any more, counts are laid evenly over it: they are off by less than what that minute or hour counted, and the answer carries the warning `coarse`.",
    () => {
      const fine = values("count of m", totals(rows), { every: 30 })!;
      const coarse = values("count of m", rolled(), { every: 30 })!;
      fine.forEach((value, i) => {
        const minute = Math.floor(i / 2) * 2;
        expect(Math.abs(value! - coarse[i]!)).toBeLessThanOrEqual(fine[minute]! + fine[minute + 1]!);
      });
    },
  );
  says(
    "Two things depend on what is read: how long a gauge holds whose points come irregularly, and an increase over a silence of more than an hour, which rolled-up points join across and the points of a short window do not.",
    () => {
      const silent = totals([
        { t: -3700, value: 1 },
        { t: 60, value: 5 },
      ]);
      expect(total("count of m", silent)).toBeCloseTo((4 * 60) / 3760, 9);
      expect(REACH).toBe(3600_000);
    },
  );
});

describe("the fresh end", () => {
  const tens = (count: number, from = 0) => Array.from({ length: count }, (_, i) => at(from + 10 * i));
  /** Six calls every 10 s, as differences; from so many seconds on. */
  const steady = (until: number, from = 0): Row[] =>
    Array.from({ length: (until - from) / 10 }, (_, i) => ({ t: from + 10 * (i + 1), start: from + 10 * i, value: 6 }));
  says("Instances report one after the other, so the last steps of a live window hold less than they will.", () => {
    const both = (until: number) => [{ parts: [set(steady(240))] }, { parts: [set(steady(until))] }];
    const counts = (until: number) => values("count of m", metric("sum", "delta", both(until)))!;
    expect(counts(200)[3]).toBeLessThan(counts(240)[3]!);
  });
  says(
    "A line of an answer is settled up to the moment past which nobody is awaited: every instance that reports into it has reported, or is silent for more than three of its usual intervals.",
    () => {
      expect(settledTo([tens(5), tens(4)], at(41))).toBe(at(30));
      expect(settledTo([tens(8), tens(4)], at(60))).toBe(at(30));
      expect(settledTo([tens(8), tens(4)], at(61))).toBe(at(70));
    },
  );
  says(
    "An instance's usual interval is the middle one between its last 16 reports; of one that reported once it is that of the slowest other, or a minute where no other says.",
    () => {
      expect(usualInterval([0, 10, 20, 60, 70])).toBe(10);
      expect(MAX_REPORTS).toBe(16);
      expect(settledTo([tens(2), [at(0)]], at(30))).toBe(at(0));
      expect(settledTo([tens(2), [at(0)]], at(31))).toBe(at(10));
      expect(settledTo([[at(0)]], at(180))).toBe(at(0));
      expect(settledTo([[at(0)]], at(181))).toBe(Number.POSITIVE_INFINITY);
    },
  );
  const cache = new StripCache(1e6);
  const stored = (id: number, series: number, age: number, to = 0): UsedStrip => {
    const one = set([{ t: -age }]);
    one.series.fill(series);
    const note = { id, resolution: 0, to: ORIGIN - to } as StripNote;
    return { note, cached: cache.add(id, openStrip(encodeStrip([one])), true), part: null };
  };
  const by = (release: string, instance: string, more = {}) => ({
    "service.name": "loans",
    "service.version": release,
    "service.instance.id": instance,
    ...more,
  });
  const attributes = new Map([
    [1, by("5.2", "a", { failed: "yes" })],
    [2, by("5.2", "b")],
    [3, by("5.3", "c")],
  ]);
  const strips = [stored(1, 1, 10), stored(2, 2, 20), stored(3, 3, 30)];
  says(
    "An instance reports into a line if it is of a release of which the line has series, whether it has such a series itself or not.",
    () => {
      const found = reportsOf(strips, attributes, new Set([1]), ORIGIN);
      expect([...found.values()].flat(2).sort()).toEqual([at(-20), at(-10)]);
    },
  );
  says("A release that has gone is awaited by the lines that it is a part of, and by no other.", () => {
    const one = (release: string, until: number) => ({
      attributes: { "service.version": release },
      parts: [set(steady(until))],
    });
    const both = metric("sum", "delta", [one("old", 100), one("new", 200)]);
    const asked = {
      from: ORIGIN,
      to: at(LENGTH),
      every: STEP * 1000,
      zone: "UTC",
      picks: {},
    };
    const settled = new Map([
      [releaseKey({ "service.version": "old" }), at(100)],
      [releaseKey({ "service.version": "new" }), at(200)],
    ]);
    const source = { metrics: [both], earliest: ORIGIN - REACH, resolutions: [0], settled, warnings: [] };
    const read = (text: string) => {
      const tree = parseReading(text);
      const sources = new Map(measuresOf(tree.expression).map((node) => [node, source]));
      return evaluate(tree, asked, STEP * 1000, sources);
    };
    expect(read("count of m by release").series.map(({ settledTo: moment }) => moment)).toEqual([at(100), at(200)]);
    expect(read("count of m").series[0].settledTo).toBe(at(100));
    expect(read("count of m by release").settledTo).toBe(at(100));
  });
  says("After two hours nobody is awaited.", () => {
    expect(reportsOf([stored(4, 1, 7201, 7201_000)], attributes, new Set([1]), ORIGIN).size).toBe(0);
    expect(LOOK_BACK).toBe(2 * 3600_000);
  });
  says(
    "A settled value changes only by points that come later than their instance was awaited, and by a running total that is new but whose start lies before.",
    () => {
      const before = values("count of m", deltas(steady(200)), { settledTo: at(200) })!;
      const after = values("count of m", deltas(steady(240)), { settledTo: at(240) })!;
      expect(after.slice(0, 3)).toEqual(before.slice(0, 3));
      const late = deltas([...steady(200), { t: 205, start: 30, value: 35 }]);
      expect(values("count of m", late)![1]).toBeGreaterThan(before[1]!);
      const fresh = metric("sum", "cumulative", [{ parts: [set([{ t: 205, start: 30, value: 35 }])] }]);
      expect(values("count of m", fresh)![1]).toBeGreaterThan(0);
    },
  );
  says("The rate of the step in which the settled part ends is over that part, and so is the total of a rate.", () => {
    const found = first("rate of m", deltas(steady(200)), { settledTo: at(200) });
    expect(found.values[3]).toBeCloseTo(0.6, 9);
    expect(found.total).toBeCloseTo(0.6, 9);
    expect(values("rate of m", deltas(steady(200)))![3]).toBeCloseTo(0.2, 9);
  });
  const ladderSays =
    "On the Releases page, what is not settled is no part of throughput and share, unless less than five seconds would be left.";
  says(ladderSays, () => {
    const calls = (release: string, until: number) => ({
      attributes: { "service.version": release },
      parts: [
        set(
          steady(until).map(({ t, start }) => ({ t, start, buckets: [0, 6, 0, 0] })),
          BOUNDS,
        ),
      ],
    });
    const source: Source = {
      metrics: [metric("histogram", "delta", [calls("a", 240), calls("b", 150)])],
      earliest: ORIGIN - REACH,
      resolutions: [0],
      settled: settledAt(at(150), "a", "b"),
      warnings: [],
    };
    const steps = Float64Array.of(at(0), at(60), at(120), at(180), at(240));
    const { rungs } = ladderOf(source, steps, { metric: "m", failed: "x is there" }, 60_000);
    for (const { recentRate, recentShare, throughput } of rungs) {
      expect(recentRate).toBeCloseTo(0.6, 9);
      expect(recentShare).toBeCloseTo(0.5, 9);
      expect(throughput[2]).toBeCloseTo(0.6, 9);
      expect(throughput[3]).toBeNull();
    }
    // A third release, gone for good, takes nothing of that away.
    const three = {
      ...source,
      metrics: [metric("histogram", "delta", [calls("a", 240), calls("b", 150), calls("gone", 60)])],
    };
    const { rungs: besides } = ladderOf(three, steps, { metric: "m", failed: "x is there" }, 60_000);
    for (const { release, recentRate } of besides) if (release !== "gone") expect(recentRate).toBeCloseTo(0.6, 9);
    const short = metric("histogram", "delta", [
      { attributes: { "service.version": "c" }, parts: [set([{ t: 200, start: 199, buckets: [0, 6, 0, 0] }], BOUNDS)] },
    ]);
    const young = { ...source, metrics: [short], settled: settledAt(at(200), "c") };
    const { rungs: found } = ladderOf(young, steps, { metric: "m", failed: "x is there" }, 60_000);
    expect(found[0].recentRate).toBeCloseTo(6 / (240 - 199), 9);
  });
  says(
    "The latest step of a table and a comparison of two answers leave it out, and a chart draws it thin and dashed, areas and bars of it pale.",
    () => {
      const one = answer("count of m", deltas(steady(240)), { settledTo: at(150) });
      expect(settledSteps(one.times, one)).toBe(2);
      expect(settledSteps(one.times, one.series[0])).toBe(2);
      const other = answer("count of m", deltas(steady(130)), { settledTo: at(150) });
      expect(sideBySide(one, other)[0].furthest).toBeNull();
      const late = (result: typeof one) => ({
        ...result,
        series: result.series.map(({ settledTo: _, ...rest }) => rest),
      });
      expect(sideBySide(late(one), late(other))[0].furthest).not.toBeNull();
      const rows = rowsOf(chartOf([{ text: "count of m", result: one }]));
      expect(rows.map(({ s0 }) => s0)).toEqual([36, 36, null, null]);
      expect(rows.map((row) => row["s0 fresh"])).toEqual([null, 36, 36, 36]);
      // On top of each other, nothing is settled where one of them is not.
      const first = { ...one.series[0], labels: { k: "a" }, settledTo: at(230) };
      const two = { ...one, series: [first, { ...one.series[0], labels: { k: "b" } }] };
      const drawn = (style: "stacked" | "bars") => {
        const chart = chartOf([{ text: "count of m by k", result: two }], { style });
        const [low, high] = [36, 72].map((value) => value * chart.left.writer.factor);
        return { rows: rowsOf(chart), upper: [low, high] };
      };
      const areas = drawn("stacked");
      expect(areas.rows.map(({ s1 }) => s1 ?? null)).toEqual([areas.upper, areas.upper, null, null]);
      expect(areas.rows.map((row) => row["s1 fresh"] ?? null)).toEqual([null, ...Array(3).fill(areas.upper)]);
      const bars = drawn("bars");
      const within = bars.rows.filter(({ time }) => !one.times.includes(time));
      expect(within.map(({ s1 }) => s1 ?? null)).toEqual([...Array(4).fill(bars.upper), ...Array(4).fill(null)]);
      expect(within.map((row) => row["s1 fresh"] ?? null)).toEqual([
        ...Array(4).fill(null),
        ...Array(4).fill(bars.upper),
      ]);
    },
  );
});
