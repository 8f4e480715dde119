import fc from "fast-check";
import type { Interval } from "../histogram/intervals";
import { quantile } from "../histogram/quantile";
import { distanceOf } from "./distance";
import { prepareDistributions } from "./distributions";
import { asItIs, compareQuantile } from "./latency";
import { likeForLike, partsOf, pooled, THE_REST, type ValueCounts } from "./mix";
import { QuantileReader, valueAt } from "./quantileReader";
import { asSeen, blockLength, type Draw, draws, MinuteColumn } from "./resample";
import { judgeRung } from "./rungs";
import { reach } from "./sequence";
import { compareFailures, newcombe, splitOf, wilson } from "./shares";
import { minutesOf, type Side, sharedMinutes, sideOf, sum } from "./side";
import { COARSE, FINE, LIVELY, MIXED, simulate, USUAL } from "./testing/simulate";
import { judge } from "./verdict";
import { within } from "./within";

beforeAll(prepareDistributions);

const TOLERANCE = 0.05;

const interval = (low: number, high: number, count: number): Interval => ({
  low,
  high,
  count,
  logarithmic: false,
  closed: false,
});

describe("quantiles", () => {
  const cells = fc.array(fc.array(fc.nat({ max: 40 }), { minLength: 4, maxLength: 4 }), { minLength: 1, maxLength: 8 });
  const BOUNDS = [0, 10, 25, 60, 100];

  test("read off minutes are those of all their buckets together", () => {
    fc.assert(
      fc.property(cells, fc.double({ min: 0.01, max: 0.99, noNaN: true }), (minutes, q) => {
        const histograms = minutes.map((counts) => counts.map((count, i) => interval(BOUNDS[i], BOUNDS[i + 1], count)));
        const side = sideOf(
          histograms,
          minutes.map(() => 0),
          { bounds: Float64Array.from(BOUNDS), known: new Uint8Array(BOUNDS.length).fill(1) },
        );
        const together = BOUNDS.slice(1).map((high, i) =>
          interval(
            BOUNDS[i],
            high,
            minutes.reduce((total, counts) => total + counts[i], 0),
          ),
        );
        const wanted = quantile(
          together.filter(({ count }) => count > 0),
          q,
        );
        const reader = new QuantileReader([side]);
        // From wherever the last one was found.
        reader.place(0.5, asSeen(side.minutes), [1]);
        const place = reader.place(q, asSeen(side.minutes), [1]);
        if (wanted === null) expect(place).toBeNull();
        else expect(valueAt(side, place!)).toBeCloseTo(wanted.value, 6);
      }),
    );
  });

  test("the bounds within a bucket hold for every density that runs between those beside it", () => {
    fc.assert(
      fc.property(
        fc.tuple(fc.integer({ min: 1, max: 50 }), fc.integer({ min: 1, max: 50 }), fc.integer({ min: 1, max: 50 })),
        fc.double({ min: 0.02, max: 0.98, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (calls, part, share) => {
          const known = Uint8Array.of(1, 1, 1, 1);
          const side = { edges: Float64Array.of(0, 10, 20, 30), known, logarithmic: false } as Side;
          const { low, high } = within(side, { cell: 2, part }, calls);
          expect(low).toBeLessThanOrEqual(high + 1e-9);
          expect(low).toBeGreaterThanOrEqual(10);
          expect(high).toBeLessThanOrEqual(20);
          // A density of two steps between the least and the most, whose calls add up to those of the bucket.
          const [left, own, right] = calls;
          const beside = [Math.min(left, right) / own, Math.max(left, right) / own];
          const least = Math.min(beside[0], 1 / beside[0]);
          const most = Math.max(beside[1], 1 / beside[1]);
          const first = least + share * (most - least);
          const second = [least, most].map((other) => ({ other, split: (1 - other) / (first - other) }));
          for (const { other, split } of second) {
            if (!(split >= 0 && split <= 1)) continue;
            const inside = part <= first * split ? part / first : split + (part - first * split) / other;
            expect(10 + 10 * inside).toBeGreaterThanOrEqual(low - 1e-6);
            expect(10 + 10 * inside).toBeLessThanOrEqual(high + 1e-6);
          }
        },
      ),
    );
  });

  test("a bucket without an end, or the first, says only itself", () => {
    const side = { edges: COARSE, known: new Uint8Array(COARSE.length).fill(1), logarithmic: false } as Side;
    expect(within(side, { cell: 15, part: 0.5 }, [5, 10, 0])).toEqual({ low: 10_000, high: Number.POSITIVE_INFINITY });
    expect(within(side, { cell: 1, part: 0.5 }, [0, 10, 5])).toEqual({ low: 0, high: 5 });
  });
});

/** The minutes of a sample one by one, as often as they are in it. */
function minutesIn({ minutes, starts, length, rest }: Draw): number[] {
  return [...starts].flatMap((start, i) =>
    Array.from({ length: i === starts.length - 1 ? rest : length }, (_, k) => (start + k) % minutes),
  );
}

describe("samples of minutes", () => {
  test("are added up as if minute by minute", () => {
    const column = fc.array(fc.integer({ min: 0, max: 1000 }), { minLength: 1, maxLength: 90 });
    fc.assert(
      fc.property(column, fc.nat(), (values, seed) => {
        const added = new MinuteColumn(Float64Array.from(values));
        for (const draw of [...draws(values.length, 3, seed), asSeen(values.length)]) {
          const one = minutesIn(draw);
          expect(one).toHaveLength(values.length);
          expect(added.sum(draw)).toBe(one.reduce((total, minute) => total + values[minute], 0));
        }
      }),
    );
    expect(new MinuteColumn(new Float64Array(0)).sum(asSeen(0))).toBe(0);
    expect(new MinuteColumn(new Float64Array(0)).sum(draws(0, 1, 1)[0])).toBe(0);
  });

  test("have as many minutes as there were, in blocks, and the same ones for the same seed", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 400 }), fc.nat(), (minutes, seed) => {
        const [one] = draws(minutes, 1, seed);
        expect((one.starts.length - 1) * one.length + one.rest).toBe(minutes);
        expect(one.rest).toBeGreaterThan(0);
        expect(draws(minutes, 1, seed)).toEqual([one]);
        expect(one.starts.every((minute) => minute >= 0 && minute < minutes)).toBe(true);
      }),
    );
    expect([blockLength(3), blockLength(16), blockLength(24), blockLength(400)]).toEqual([1, 2, 3, 5]);
  });

  test("each minute comes as often as any other", () => {
    const counts = new Float64Array(24);
    for (const draw of draws(24, 4000, 7)) for (const minute of minutesIn(draw)) counts[minute]++;
    for (const count of counts) expect(Math.abs(count / 4000 - 1)).toBeLessThan(0.1);
  });

  test("an interval that holds at every look reaches further than one for a single look, and is sharpest in the middle", () => {
    const reached = [4, 8, 20, 60, 360, 1440].map(reach);
    for (const one of reached) expect(one).toBeGreaterThan(2.576);
    expect(reached[3]).toBeLessThan(reached[0]);
    expect(reached[5]).toBeLessThan(4.2);
    expect(reach(1)).toBe(Number.POSITIVE_INFINITY);
  });
});

describe("shares", () => {
  test("Wilson's and Newcombe's bounds are those of their papers", () => {
    const bounds = wilson(81, 263, 1.959963985);
    expect([bounds.low, bounds.high].map((one) => one.toFixed(4))).toEqual(["0.2553", "0.3662"]);
    // Newcombe 1998, table II, example (a), method 10: 56/70 against 48/80.
    const found = newcombe(wilson(56, 70, 1.959963985), wilson(48, 80, 1.959963985));
    expect([found.value, found.low, found.high].map((one) => one.toFixed(4))).toEqual(["0.2000", "0.0524", "0.3339"]);
    expect(wilson(0, 0, 3)).toEqual({ value: 0, low: 0, high: 1 });
    for (let of = 1; of < 300; of++) {
      expect(wilson(0, of, 2.576).low).toBe(0);
      expect(wilson(of, of, 2.576).high).toBe(1);
    }
  });

  test("failures that come in bursts say less than as many that come by themselves", () => {
    const side = (failed: number[]): Side => ({
      edges: Float64Array.of(0, 1),
      known: Uint8Array.of(1, 1),
      logarithmic: false,
      minutes: failed.length,
      below: new Float64Array(2 * failed.length),
      calls: new Float64Array(failed.length).fill(1000),
      failed: Float64Array.from(failed),
    });
    const even = side(Array.from({ length: 42 }, (_, i) => 9 + (i % 3)));
    const bursts = side(Array.from({ length: 42 }, (_, i) => (i % 21 === 0 ? 210 : 0)));
    const samples = draws(42, 300, 1);
    const calm = compareFailures(even, even, samples)!;
    const wild = compareFailures(bursts, even, samples)!;
    expect(calm.change.value).toBe(0);
    expect(wild.change.value).toBeCloseTo(0, 9);
    expect(wild.change.high - wild.change.low).toBeGreaterThan(3 * (calm.change.high - calm.change.low));
  });

  test("the split of traffic has the part that the candidate had", () => {
    const { candidate, baseline } = simulate({ ...USUAL, rates: { candidate: 10, baseline: 40 } }, 3);
    const all = candidate.calls.map((calls, minute) => calls + baseline.calls[minute]);
    const split = splitOf(candidate.calls, all, draws(30, 300, 1))!;
    expect(split.value).toBeCloseTo(sum(candidate.calls) / (sum(candidate.calls) + sum(baseline.calls)), 12);
    expect(split.low).toBeLessThan(0.2);
    expect(split.high).toBeGreaterThan(0.2);
  });
});

describe("verdicts", () => {
  const change = (value: number, low: number, high: number) => ({ value, low, high });

  test("the whole interval decides", () => {
    expect(judge(change(0.2, 0.06, 0.3), TOLERANCE).verdict).toBe("worse");
    expect(judge(change(0.2, 0.06, 0.3), TOLERANCE, 0, "less").verdict).toBe("better");
    expect(judge(change(-0.2, -0.3, -0.06), TOLERANCE).verdict).toBe("better");
    expect(judge(change(0, -0.04, 0.04), TOLERANCE).verdict).toBe("same");
    expect(judge(change(0.2, 0.04, 0.3), TOLERANCE)).toMatchObject({ verdict: "not enough yet", tooWide: false });
  });

  test("four times as many calls make chance half as wide", () => {
    expect(judge(change(0.1, 0, 0.2), TOLERANCE).times).toBeCloseTo(4, 9);
  });

  test("no number of calls settles what buckets leave open", () => {
    expect(judge(change(0.1, -0.1, 0.3), TOLERANCE, 0.1)).toEqual({
      verdict: "not enough yet",
      times: null,
      tooWide: true,
    });
  });
});

describe("mix", () => {
  const counts = fc.record({
    candidate: fc.record({ hits: fc.nat(50), others: fc.nat(500) }),
    baseline: fc.record({ hits: fc.nat(50), others: fc.nat(500) }),
  });

  test("the parts of an explanation add up to the whole", () => {
    fc.assert(
      fc.property(fc.array(counts, { minLength: 1, maxLength: 12 }), (all) => {
        const values = all.map(
          ({ candidate, baseline }, i): ValueCounts => ({
            value: `v${i}`,
            candidate: { hits: candidate.hits, calls: candidate.hits + candidate.others },
            baseline: { hits: baseline.hits, calls: baseline.hits + baseline.others },
          }),
        );
        const share = (side: "candidate" | "baseline") => {
          const calls = values.reduce((total, value) => total + value[side].calls, 0);
          return calls === 0 ? null : values.reduce((total, value) => total + value[side].hits, 0) / calls;
        };
        const [now, before] = [share("candidate"), share("baseline")];
        const parts = partsOf(values);
        if (now === null || before === null) expect(parts).toEqual([]);
        else expect(parts.reduce((total, part) => total + part.within + part.mix, 0)).toBeCloseTo(now - before, 9);
      }),
    );
  });

  test("more calls of what is always slow are no slower release, like for like", () => {
    for (let seed = 0; seed < 6; seed++) {
      const { candidate, baseline, byRoute } = simulate({ ...USUAL, routes: MIXED, minutes: 40 }, seed);
      const samples = draws(40, 200, 1);
      const plain = compareQuantile(asItIs(candidate), asItIs(baseline), 0.5, samples)!;
      expect(judge(plain.change, TOLERANCE, plain.buckets).verdict).toBe("worse");
      const values = byRoute.map((sides, i) => ({ value: `r${i}`, ...sides }));
      const like = compareQuantile(likeForLike(values), asItIs(baseline), 0.5, samples)!;
      expect(judge(like.change, TOLERANCE, like.buckets).verdict).not.toBe("worse");
      expect(Math.abs(like.change.value)).toBeLessThan(0.05);
    }
  });

  test("values with few calls are put together", () => {
    const one = simulate({ ...USUAL, minutes: 2, rates: { candidate: 0.1, baseline: 5 } }, 1);
    const other = simulate({ ...USUAL, minutes: 2 }, 2);
    const all = pooled([
      { value: "a", ...one },
      { value: "b", ...other },
      { value: "c", ...one },
    ]);
    expect(all.map(({ value }) => value)).toEqual(["b", THE_REST]);
    expect(sum(all[1].baseline.calls)).toBe(2 * sum(one.baseline.calls));
    expect(all[1].candidate.below).toEqual(one.candidate.below.map((count) => 2 * count));
  });
});

test("distance tells a second hump that moves no percentile much, and nothing between equals", () => {
  const one = sideOf([[interval(0, 10, 50), interval(10, 20, 50)]], [0]);
  const other = sideOf([[interval(0, 10, 50), interval(20, 30, 50)]], [0]);
  expect(distanceOf(one, one)).toMatchObject({ greatest: 0, moved: 0 });
  // Half of the calls move by 10.
  expect(distanceOf(other, one)).toEqual({ greatest: 0.5, at: 20, moved: 5 });
});

test("of calls that take no time, none is slower", () => {
  const none = sideOf(
    Array.from({ length: 9 }, () => [interval(0, 0, 50)]),
    new Array(9).fill(1),
  );
  const some = simulate({ ...USUAL, minutes: 9 }, 1).candidate;
  for (const [one, other] of [
    [none, none],
    [none, some],
    [some, none],
  ])
    expect(judgeRung(one, other, null, 60_000)).toMatchObject({ latency: null, way: "side by side" });
});

test("only minutes in which both had calls count side by side", () => {
  const { candidate, baseline } = simulate({ ...USUAL, minutes: 4 }, 1);
  candidate.calls[2] = 0;
  const shared = sharedMinutes(candidate, baseline);
  expect(shared).toEqual([0, 1, 3]);
  const chosen = minutesOf(candidate, shared);
  expect(chosen.calls).toEqual(Float64Array.of(candidate.calls[0], candidate.calls[1], candidate.calls[3]));
  expect(chosen.below[(FINE.length - 1) * 3 + 2]).toBe(candidate.below[(FINE.length - 1) * 4 + 3]);
});

describe("against traffic whose truth is known (the long form is npm run bench:compare)", () => {
  const verdictAt = (all: ReturnType<typeof simulate>, minutes: number) => {
    const wanted = Array.from({ length: minutes }, (_, i) => i);
    const [one, other] = [minutesOf(all.candidate, wanted), minutesOf(all.baseline, wanted)];
    const found = compareQuantile(asItIs(one), asItIs(other), 0.95, draws(minutes, 100, 5));
    return found ? judge(found.change, TOLERANCE, found.buckets).verdict : "not enough yet";
  };

  test("no difference is called one, at any look", () => {
    let wrong = 0;
    for (let seed = 0; seed < 24; seed++) {
      const all = simulate({ ...LIVELY, rates: { candidate: 4, baseline: 12 }, minutes: 30 }, seed);
      const looks = Array.from({ length: 29 }, (_, i) => verdictAt(all, i + 2));
      if (looks.some((verdict) => verdict === "worse" || verdict === "better")) wrong++;
    }
    expect(wrong).toBe(0);
  });

  test("ten percent more are found within twenty minutes at fifty calls a second", () => {
    let found = 0;
    for (let seed = 0; seed < 12; seed++)
      if (verdictAt(simulate({ ...USUAL, minutes: 20, slower: 1.1 }, seed), 20) === "worse") found++;
    expect(found).toBeGreaterThanOrEqual(10);
  });

  test("of coarse buckets it is said that they are too wide", () => {
    const { candidate, baseline } = simulate({ ...USUAL, minutes: 20, slower: 1.1, edges: COARSE }, 1);
    const { change, buckets } = compareQuantile(asItIs(candidate), asItIs(baseline), 0.95, draws(20, 100, 1))!;
    expect(judge(change, TOLERANCE, buckets)).toEqual({ verdict: "not enough yet", times: null, tooWide: true });
  });
});
