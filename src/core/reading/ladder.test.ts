import { prepareDistributions } from "../compare/distributions";
import { judgeRung } from "../compare/rungs";
import { emptyPointSet, type Layout } from "../metric/model";
import { changeBetween } from "./change";
import { sidesByRelease } from "./comparing/sides";
import { heatOf, ladderOf, shownRungs } from "./ladder";
import type { Source, SourceSeries } from "./source";

const LAYOUT: Layout = { kind: "explicit", bounds: [0.1, 0.2, 0.4, 0.8] };
const ORIGIN = 1_764_000_000_000;
const MINUTE = 60_000;
const READINGS = { metric: "m", failed: "code >= 500" };

/** A series that gets `counts` in every minute of [from, to) after the origin. */
function series(release: string, code: number, counts: readonly number[], from: number, to: number): SourceSeries {
  const set = emptyPointSet(LAYOUT, to - from + 1);
  set.series.fill(1);
  set.flags.fill(8 | 16);
  for (let i = 0; i <= to - from; i++) {
    set.timeMs[i] = ORIGIN + (from + i) * MINUTE;
    set.startMs[i] = ORIGIN + from * MINUTE;
    counts.forEach((count, c) => {
      set.columns[c][i] = count * i;
    });
  }
  return { attributes: { "service.version": release, code }, parts: [set] };
}

const STEPS = Float64Array.from({ length: 61 }, (_, i) => ORIGIN + i * MINUTE);

function loans(): Source {
  const identity = {
    name: "m",
    kind: "histogram" as const,
    unit: "s",
    temporality: "cumulative" as const,
    monotonic: true,
  };
  const all = [
    series("1.0", 200, [0, 60, 40, 0, 0], 0, 60),
    series("1.0", 500, [0, 0, 0, 0, 2], 0, 60),
    series("1.1", 200, [0, 10, 10, 30, 0], 30, 60),
  ];
  return {
    metrics: [{ identity, series: all, points: 1 }],
    earliest: ORIGIN - 60 * MINUTE,
    resolutions: [0],
    warnings: [],
  };
}

const ladder = () => ladderOf(loans(), STEPS, READINGS, 5 * MINUTE);

test("each release has its calls, share, percentiles and failures, worked by hand", () => {
  const [old, fresh] = ladder().rungs;
  expect(old).toMatchObject({ release: "1.0", calls: 102 * 60, servedFrom: ORIGIN, servedTo: ORIGIN + 60 * MINUTE });
  expect(old.errors).toBeCloseTo(2 / 102, 12);
  expect(old.peak).toBeCloseTo(102 / 60, 9);
  expect(old.recentShare).toBeCloseTo(102 / 152, 12);
  // 51 % of 102 is the 51st of the 60 in (0.1, 0.2].
  expect(old.p50!.value).toBeCloseTo(0.1 + 0.1 * (51 / 60), 9);
  expect(fresh).toMatchObject({ release: "1.1", calls: 50 * 30, servedFrom: ORIGIN + 30 * MINUTE, errors: 0 });
  expect(fresh.throughput.slice(0, 29)).toEqual(new Array(29).fill(null));
  expect(fresh.recentRate).toBeCloseTo(50 / 60, 9);
  expect(fresh.p95).toMatchObject({ low: 0.4, high: 0.8 });
});

test("a release of 22 seconds is measured over these, not over five minutes", () => {
  const identity = { name: "m", kind: "histogram", unit: "s", temporality: "cumulative", monotonic: true } as const;
  const old = series("1.0", 200, [0, 60, 0, 0, 0], 0, 60);
  const young = emptyPointSet(LAYOUT, 2);
  young.series.fill(2);
  young.flags.fill(8 | 16);
  const began = ORIGIN + 60 * MINUTE - 22_000;
  young.startMs.fill(began);
  young.timeMs.set([began + 10_000, began + 22_000]);
  young.columns[1].set([220, 484]);
  const all = [old, { attributes: { "service.version": "1.1", code: 200 }, parts: [young] }];
  const metrics = [{ identity, series: all, points: 1 }];
  const source = { metrics, earliest: ORIGIN - 60 * MINUTE, resolutions: [0], warnings: [] };
  const steps = Float64Array.from({ length: 61 }, (_, i) => ORIGIN + i * MINUTE);
  const [first, second] = ladderOf(source, steps, READINGS, 5 * MINUTE).rungs;
  expect(second.recentRate).toBeCloseTo(22, 9);
  // The release beside it had one call a second in that time.
  expect(second.recentShare).toBeCloseTo(484 / (484 + 22), 9);
  expect(first.recentRate).toBeCloseTo(1, 9);
});

test("heat strips share one rising axis and each adds up to all calls of its release", () => {
  const { axis, rungs } = ladder();
  for (let i = 1; i < axis.length; i++) expect(axis[i]).toBeGreaterThan(axis[i - 1]);
  for (const { heat } of rungs) {
    expect(heat).toHaveLength(axis.length - 1);
    expect(heat.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 9);
  }
  const bin = (value: number) => axis.findIndex((bound) => bound > value) - 1;
  const between = (heat: readonly number[], low: number, high: number) =>
    heat.slice(bin(low) + 1, bin(high)).reduce((sum, share) => sum + share, 0);
  expect(between(rungs[1].heat, 0.4, 0.8)).toBeGreaterThan(0.5);
  expect(between(rungs[0].heat, 0.4, 0.8)).toBeLessThan(0.01);
});

test("nothing on the axis where nothing was seen", () => {
  expect(heatOf([], [1, 2, 4])).toEqual([0, 0]);
  expect(heatOf([{ low: 1, high: 2, count: 3, logarithmic: false, closed: false }], [])).toEqual([]);
});

test("the change against the release before is a plain difference", () => {
  const [old, fresh] = ladder().rungs;
  const change = changeBetween(fresh, old);
  expect(change.p95).toBeCloseTo(fresh.p95!.value / old.p95!.value - 1, 12);
  expect(change.errors).toBeCloseTo(-2 / 102, 12);
  expect(change.p95Open).toBe(false);
  expect(changeBetween(old, old)).toEqual({ p95: 0, p95Open: true, errors: 0 });
});

test("two percentiles in the open bucket leave open which is greater, also as JSON", () => {
  const open = JSON.parse(JSON.stringify({ value: 2, low: 1, high: null }));
  const rung = (p95: object) => ({ p95, errors: null }) as unknown as Parameters<typeof changeBetween>[0];
  expect(changeBetween(rung(open), rung({ value: 1.5, low: 1, high: null })).p95Open).toBe(true);
  expect(changeBetween(rung(open), rung({ value: 0.5, low: 0.2, high: 1 })).p95Open).toBe(false);
});

test("each release is a side: its calls by bucket, and its failures, minute by minute", () => {
  const sides = sidesByRelease(loans(), READINGS, STEPS);
  const [old, fresh] = ["1.0", "1.1"].map((release) => sides.get(release)!);
  expect([...old.edges]).toEqual([0, 0.1, 0.2, 0.4, 0.8, Number.POSITIVE_INFINITY]);
  const at = ({ below, minutes, edges }: typeof old, minute: number) =>
    Array.from(edges, (_, edge) => below[edge * minutes + minute]);
  expect(at(old, 3)).toEqual([0, 0, 60, 100, 100, 102]);
  expect(old.failed[3]).toBeCloseTo(2, 9);
  expect(at(fresh, 29)).toEqual([0, 0, 0, 0, 0, 0]);
  expect(at(fresh, 30)).toEqual([0, 0, 10, 20, 50, 50]);
  expect(fresh.failed.every((failed) => failed === 0)).toBe(true);
});

test("a release is held against the one before it over the minutes in which both served", async () => {
  await prepareDistributions();
  const sides = sidesByRelease(loans(), READINGS, STEPS);
  const change = judgeRung(sides.get("1.1"), sides.get("1.0"), "1.0", MINUTE)!;
  expect(change).toMatchObject({ against: "1.0", way: "side by side", time: 30 * MINUTE });
  // 0.4 + 0.4 · (47.5 − 20) / 30 against 0.2 + 0.2 · (96.9 − 60) / 40
  expect(change.latency!.value).toBeCloseTo((0.4 + 0.4 * (27.5 / 30)) / (0.2 + 0.2 * (36.9 / 40)) - 1, 9);
  expect(change.latency).toMatchObject({ verdict: "worse", times: null, tooWide: false });
  expect(change.latency!.low!).toBeGreaterThan(0.05);
  // 2 of 102 failed, and none of 50: it is less, and with 30 minutes of them beyond chance.
  expect(change.failures!.value).toBeCloseTo(-2 / 102, 9);
  expect(change.failures!.verdict).toBe("better");
});

test("one release after the other is held against as much time before it", async () => {
  await prepareDistributions();
  const source = loans();
  const [{ identity, series: all }] = source.metrics;
  const gone = series("0.9", 200, [0, 60, 40, 0, 2], 0, 25);
  const metrics = [{ identity, series: [gone, all[2]], points: 1 }];
  const sides = sidesByRelease({ ...source, metrics }, READINGS, STEPS);
  const change = judgeRung(sides.get("1.1"), sides.get("0.9"), "0.9", MINUTE)!;
  expect(change).toMatchObject({ way: "before and after", time: 25 * MINUTE });
  expect(change.latency!.verdict).toBe("worse");
  expect(judgeRung(sides.get("1.1"), undefined, null, MINUTE)).toBeNull();
});

test("of very many releases the newest are shown, and those that serve; only what is asked for becomes a side", () => {
  const rungs = Array.from({ length: 500 }, (_, i) => ({ recentShare: i === 3 || i === 400 ? 0.5 : null }));
  const shown = shownRungs(rungs);
  expect(shown.map((rung) => rungs.indexOf(rung))).toEqual([...Array(60).keys(), 400]);
  expect(shownRungs(rungs.map(() => ({ recentShare: 0.002 })))).toHaveLength(120);
  expect(shownRungs(rungs.slice(0, 7))).toHaveLength(7);
  const all = sidesByRelease(loans(), READINGS, STEPS);
  const one = sidesByRelease(loans(), READINGS, STEPS, (release) => release === "1.1");
  expect([...one.keys()]).toEqual(["1.1"]);
  expect(one.get("1.1")).toEqual(all.get("1.1"));
});
