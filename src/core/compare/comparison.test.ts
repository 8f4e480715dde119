import { compareAlike, compareSides, tellingBounds, USUAL_TOLERANCES } from "./comparison";
import { prepareDistributions } from "./distributions";
import { bothKnown, compareLevels } from "./levels";
import { asSeen, draws } from "./resample";
import { intervalsOf, type Side, sideOf, sum } from "./side";
import { COARSE, LIVELY, MIXED, simulate, USUAL } from "./testing/simulate";

beforeAll(prepareDistributions);

const asked = { length: 60_000, tolerances: USUAL_TOLERANCES, meant: null, all: null };
const allOf = (one: Side, other: Side) => one.calls.map((calls, minute) => calls + other.calls[minute]);
const about = (seed: number, parts: Partial<typeof USUAL>) => simulate({ ...USUAL, ...parts }, seed);

test("figures are those of the minutes that were seen", () => {
  const { candidate, baseline } = about(1, { minutes: 20 });
  const found = compareSides(candidate, baseline, draws(20, 100, 1), {
    ...asked,
    meant: 0.5,
    all: allOf(candidate, baseline),
  });
  expect(found.calls).toEqual({ candidate: sum(candidate.calls), baseline: sum(baseline.calls) });
  expect(found.rates.candidate).toBeCloseTo(sum(candidate.calls) / 1200, 9);
  expect(found.latency.map(({ q }) => q)).toEqual([0.5, 0.95, 0.99]);
  const share = sum(candidate.calls) / (sum(candidate.calls) + sum(baseline.calls));
  expect(found.split).toMatchObject({ meant: 0.5 });
  expect(found.split!.value).toBeCloseTo(share, 12);
  expect(found.split!.low).toBeLessThan(share);
  expect(found.throughput!.value).toBeCloseTo(sum(candidate.calls) / sum(baseline.calls) - 1, 9);
});

test("what was meant of the traffic is told from what is", () => {
  const { candidate, baseline } = about(2, { minutes: 30, rates: { candidate: 29, baseline: 71 } });
  const all = allOf(candidate, baseline);
  const split = (meant: number | null, others = all) =>
    compareSides(candidate, baseline, draws(30, 100, 1), { ...asked, meant, all: others }).split;
  expect(split(0.2)?.verdict).toBe("more than meant");
  expect(split(0.5)?.verdict).toBe("less than meant");
  expect(split(0.29)?.verdict).toBe("as meant");
  expect(split(null)?.verdict).toBeNull();
  // A third release serves as many calls as both: of all calls the candidate has half the part that it has of the two.
  const third = all.map((calls) => 2 * calls);
  expect(split(0.145, third)?.verdict).toBe("as meant");
  expect(split(0.145, third)?.value).toBeCloseTo((split(0.29)?.value ?? 0) / 2, 9);
  expect(compareSides(candidate, baseline, draws(30, 100, 1), asked).split).toBeNull();
});

test("what is missing is told in calls and time, and what no number of calls settles in bounds", () => {
  const few = about(3, { minutes: 20, rates: { candidate: 4, baseline: 4 }, slower: 1.12 });
  const open = compareSides(few.candidate, few.baseline, draws(20, 100, 1), asked).latency[1].change;
  expect(open.verdict).toBe("not enough yet");
  const missing = (open.times! - 1) * sum(few.candidate.calls);
  expect(open.needs!.calls).toBe(Math.ceil(missing));
  expect(open.needs!.time).toBeCloseTo((Math.ceil(missing) / sum(few.candidate.calls)) * 1_200_000, 3);
  const wide = about(4, { minutes: 20, slower: 1.1, edges: COARSE });
  const coarse = compareSides(wide.candidate, wide.baseline, draws(20, 100, 1), asked).latency[1];
  expect(coarse.change).toMatchObject({ verdict: "not enough yet", tooWide: true, needs: null });
  expect(coarse.change.bounds).toEqual(tellingBounds(coarse.baseline.value, 0.05));
});

test("bounds that would tell lie about the value, half a tolerance apart", () => {
  const bounds = tellingBounds(250, 0.05);
  expect(bounds).toContain(250);
  for (let i = 1; i < bounds.length; i++) expect(bounds[i] / bounds[i - 1]).toBeCloseTo(1.025, 2);
});

test("another mix is another verdict, but like for like it is none: fails no more and is no slower", () => {
  let slower = 0;
  for (let seed = 1; seed <= 6; seed++) {
    const { candidate, baseline, byRoute } = about(seed, {
      minutes: 60,
      routes: MIXED,
      rates: { candidate: 12, baseline: 30 },
    });
    const plain = compareSides(candidate, baseline, draws(60, 100, 1), asked);
    if (plain.latency[1].change.verdict === "worse") slower++;
    const values = byRoute.map((sides, i) => ({ value: `route ${i}`, ...sides }));
    const alike = compareAlike(values, draws(60, 100, 1), asked)!;
    expect(alike.latency.map(({ change }) => change.verdict)).not.toContain("worse");
    expect(alike.failures!.change.verdict).not.toBe("worse");
    expect(alike.values).toBe(2);
  }
  expect(slower).toBeGreaterThan(4);
});

test("with one value like for like is as it is; without any there is nothing to say", () => {
  const { candidate, baseline } = simulate({ ...LIVELY, minutes: 20 }, 5);
  const samples = draws(20, 100, 1);
  const plain = compareSides(candidate, baseline, samples, asked);
  const alike = compareAlike([{ value: "all", candidate, baseline }], samples, asked)!;
  plain.latency.forEach(({ change }, i) => {
    expect(alike.latency[i].change.value).toBeCloseTo(change.value, 9);
  });
  expect(alike.failures!.change.value).toBeCloseTo(plain.failures!.change.value, 12);
  const none = sideOf([[], []], []);
  expect(compareAlike([{ value: "none", candidate: none, baseline: none }], samples, asked)).toBeNull();
});

test("levels: the mean of both, and an interval of their ratio that holds it", () => {
  const ours = Float64Array.from({ length: 40 }, (_, i) => 138 + (i % 5));
  const theirs = Float64Array.from({ length: 40 }, (_, i) => 100 + (i % 3));
  const found = compareLevels(ours, theirs, asSeen(40), draws(40, 200, 1))!;
  expect(found).toMatchObject({ candidate: 140, relative: true });
  expect(found.change.value).toBeCloseTo(140 / found.baseline - 1, 9);
  expect(found.change.low).toBeLessThan(found.change.value);
  expect(found.change.high).toBeGreaterThan(found.change.value);
  const zero = compareLevels(new Float64Array(10), new Float64Array(10), asSeen(10), draws(10, 50, 1))!;
  expect(zero).toMatchObject({ relative: false, change: { value: 0, low: 0, high: 0 } });
  expect(compareLevels(new Float64Array(0), new Float64Array(0), asSeen(0), [])).toBeNull();
  expect(bothKnown(Float64Array.of(1, Number.NaN, 3), Float64Array.of(1, 2, Number.NaN))).toEqual([0]);
});

test("a side as intervals has all of its calls, where they are", () => {
  const { candidate } = about(7, { minutes: 5 });
  const intervals = intervalsOf(candidate);
  expect(intervals.reduce((total, { count }) => total + count, 0)).toBeCloseTo(sum(candidate.calls), 6);
  for (const { low, high } of intervals) expect(low).toBeLessThanOrEqual(high);
});
