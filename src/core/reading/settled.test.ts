import fc from "fast-check";
import { emptyPointSet, type MetricIdentity, type PointSet } from "../metric/model";
import { endedAt, makeCells } from "./cells";
import { evaluate, REACH, stepOf } from "./evaluate";
import { parseReading } from "./language/parse";
import { measuresOf } from "./language/tree";
import { settledSteps } from "./result";
import { latestReports, MAX_REPORTS, releaseKey, settledTo, settledTogether, usualInterval } from "./settled";
import type { Source, SourceSeries } from "./source";

const ORIGIN = 1_764_000_000_000;
const at = (seconds: number) => ORIGIN + seconds * 1000;

test("one awaits an instance for three of its usual intervals", () => {
  const everyTen = [0, 10_000, 20_000, 30_000];
  expect(usualInterval(everyTen)).toBe(10_000);
  // The slower of two is awaited, until it is late.
  const everyMinute = [-120_000, -60_000, 0];
  expect(settledTo([everyTen, everyMinute], 31_000)).toBe(0);
  expect(settledTo([everyTen, everyMinute], 60_000)).toBe(0);
  expect(settledTo([everyTen, everyMinute], 180_000)).toBe(0);
  expect(settledTo([[...everyTen, 170_000], everyMinute], 181_000)).toBe(170_000);
  expect(settledTo([everyTen], 60_001)).toBe(Number.POSITIVE_INFINITY);
  expect(settledTo([], 0)).toBe(Number.POSITIVE_INFINITY);
});

test("of one that reported once the interval is that of the slowest other, or a minute", () => {
  expect(settledTo([[0]], 180_000)).toBe(0);
  expect(settledTo([[0]], 180_001)).toBe(Number.POSITIVE_INFINITY);
  expect(settledTo([[0], [100_000, 110_000]], 30_000)).toBe(0);
  expect(settledTo([[0], [100_000, 110_000]], 112_000)).toBe(110_000);
});

test("the latest reports of two lists are what sorting them together gives", () => {
  const moments = fc
    .array(fc.nat(100), { maxLength: MAX_REPORTS })
    .map((all) => [...new Set(all)].sort((a, b) => a - b));
  fc.assert(
    fc.property(moments, moments, (a, b) => {
      const wanted = [...new Set([...a, ...b])].sort((x, y) => x - y).slice(-MAX_REPORTS);
      expect(latestReports(a, b)).toEqual(wanted);
    }),
  );
});

test("cells that end at a moment cover what lies before it, and no other changes", () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 0, max: 50 }), { minLength: 2, maxLength: 8 }),
      fc.option(fc.integer({ min: 1, max: 30 })),
      fc.double({ min: -5, max: 60, noNaN: true }),
      (some, over, moment) => {
        const steps = Float64Array.from(some).sort();
        const cells = makeCells(steps, over);
        const ended = endedAt(cells, moment);
        const spanOf = ({ bounds, first, after }: typeof cells, i: number) => [bounds[first[i]], bounds[after[i]]];
        const inside = moment > steps[0] && moment < steps[steps.length - 1];
        for (let i = 0; i < steps.length - 1; i++) {
          const [from, to] = spanOf(cells, i);
          const end = inside && moment > from && moment < to ? moment : to;
          expect(spanOf(ended, i)).toEqual([from, end]);
          expect(ended.seconds[i]).toBeCloseTo((end - from) / 1000, 9);
        }
        expect(ended.bounds[ended.windowStart]).toBe(steps[0]);
        expect(ended.bounds[ended.windowEnd]).toBe(inside ? moment : steps[steps.length - 1]);
      },
    ),
  );
});

/** An instance: how often it reports, when first and last, what it adds each time. Seconds. */
interface Instance {
  interval: number;
  begins: number;
  ends: number;
  more: number[];
}

const instance: fc.Arbitrary<Instance> = fc.record({
  interval: fc.integer({ min: 1, max: 40 }),
  begins: fc.integer({ min: 0, max: 60 }),
  ends: fc.constantFrom(150, 220, 100_000),
  more: fc.array(fc.nat(9), { minLength: 1, maxLength: 5 }),
});

type Sort = "delta" | "cumulative" | "gauge";

function identityOf(sort: Sort): MetricIdentity {
  const kind = sort === "gauge" ? "gauge" : "sum";
  const temporality = sort === "gauge" ? "unspecified" : sort;
  return { name: "m", kind, unit: "1", temporality, monotonic: sort !== "gauge" } as MetricIdentity;
}

function timesOf({ interval, begins, ends }: Instance, until: number): number[] {
  const times: number[] = [];
  for (let t = begins; t <= Math.min(ends, until); t += interval) times.push(t);
  return times;
}

function pointsOf(one: Instance, sort: Sort, until: number): PointSet {
  const times = timesOf(one, until);
  const set = emptyPointSet({ kind: "number" }, times.length);
  set.series.fill(1);
  let count = 0;
  times.forEach((t, i) => {
    const more = one.more[i % one.more.length];
    count += more;
    set.timeMs[i] = at(t);
    if (sort === "delta") set.startMs[i] = at(i === 0 ? one.begins - one.interval : times[i - 1]);
    if (sort === "cumulative") set.startMs[i] = at(one.begins - 1);
    set.columns[0][i] = sort === "cumulative" ? count : more;
  });
  return set;
}

/** What is read of instances whose points until a moment have come, and when it was asked. Seconds. */
function readAt(text: string, sort: Sort, instances: readonly Instance[], until: number, now: number) {
  const series = instances.map(
    (one, i): SourceSeries => ({
      attributes: { instance: String(i) },
      parts: [pointsOf(one, sort, until)].filter(({ count }) => count > 0),
    }),
  );
  const settled = settledTo(
    instances.map((one) => timesOf(one, until).map(at).slice(-MAX_REPORTS)),
    at(now),
  );
  const tree = parseReading(text);
  const source: Source = {
    metrics: [{ identity: identityOf(sort), series, points: 1 }],
    earliest: at(0) - REACH,
    resolutions: [0],
    settled: new Map([[releaseKey({}), settled]]),
    warnings: [],
  };
  const asked = { from: at(0), to: at(300), every: 20_000, zone: "UTC", picks: {} };
  return evaluate(
    tree,
    asked,
    stepOf(tree, asked, 0),
    new Map(measuresOf(tree.expression).map((node) => [node, source])),
  );
}

const VERBS: Record<Sort, string[]> = {
  delta: ["rate of m", "count of m", "count of m by instance", "rate of m over 60s"],
  cumulative: ["rate of m", "count of m", "rate of m by instance"],
  gauge: ["max of m", "last of m by instance", "mean of m"],
};

test("a settled value does not change when what came later is there", () => {
  fc.assert(
    fc.property(
      fc.constantFrom<Sort>("delta", "cumulative", "gauge"),
      fc.array(instance, { minLength: 1, maxLength: 6 }),
      fc.integer({ min: 130, max: 290 }),
      fc.integer({ min: 1, max: 400 }),
      fc.nat(3),
      (sort, instances, now, later, which) => {
        // Of one that reported once or never it cannot be known when it would.
        fc.pre(instances.every((one) => timesOf(one, now).length >= 3));
        const text = VERBS[sort][which % VERBS[sort].length];
        const before = readAt(text, sort, instances, now, now);
        const afterwards = readAt(text, sort, instances, now + later, now + later);
        const steps = settledSteps(before.times, before);
        const settled = before.settledTo === null ? before.times.length : steps;
        for (const one of before.series) {
          const same = afterwards.series.find(({ labels }) => JSON.stringify(labels) === JSON.stringify(one.labels))!;
          for (let i = 0; i < settled; i++) {
            if (one.values[i] === null) expect([i, same.values[i]]).toEqual([i, null]);
            else expect(Math.abs(same.values[i]! - one.values[i]!)).toBeLessThan(1e-9 * (1 + Math.abs(one.values[i]!)));
          }
        }
        expect(afterwards.settledTo ?? Number.POSITIVE_INFINITY).toBeGreaterThanOrEqual(before.settledTo ?? 0);
      },
    ),
    { numRuns: 400 },
  );
});

test("the rate of a step that is covered in part is over that part", () => {
  // Two instances every 10 s, 6 calls each time: 1.2 calls a second. The second reported 4 s after the first.
  const steady = (begins: number): Instance => ({ interval: 10, begins, ends: 100_000, more: [6] });
  const both = [steady(0), steady(4)];
  const result = readAt("rate of m", "delta", both, 211, 211);
  // Reports at 210 and 204: settled to 204, which is 4 s into the step from 200 to 220.
  expect(result.settledTo).toBe(at(204));
  expect(settledSteps(result.times, result)).toBe(10);
  const step = result.times.indexOf(at(220));
  expect(result.series[0].values[step - 1]).toBeCloseTo(1.2, 9);
  expect(result.series[0].values[step]).toBeCloseTo(1.2, 9);
  // A count stays what has come: 4 s of both, and 6 s more of the first.
  const counts = readAt("count of m", "delta", both, 211, 211);
  expect(counts.series[0].values[step]).toBeCloseTo(1.2 * 4 + 0.6 * 6, 9);
  // The rate of the window is over what is settled of it.
  expect(result.series[0].total).toBeCloseTo(1.2, 9);
});

test("a release that has gone is awaited by its own line, and by no other", () => {
  const of = (release: string) => ({ "service.name": "loans", "service.version": release });
  const settled = new Map([
    [releaseKey(of("1")), 100],
    [releaseKey(of("2")), 900],
  ]);
  expect(settledTogether(settled, [of("2")])).toBe(900);
  expect(settledTogether(settled, [of("1"), of("2")])).toBe(100);
  expect(settledTogether(settled, [of("3")])).toBe(Number.POSITIVE_INFINITY);
  expect(settledTogether(undefined, [of("1")])).toBe(Number.POSITIVE_INFINITY);
});
