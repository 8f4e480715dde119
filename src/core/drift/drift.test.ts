import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { uniformInt } from "pure-rand/distribution/uniformInt";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { prepareDistributions } from "../compare/distributions";
import { DAY, HOUR } from "../window/lengths";
import { changePoints } from "./changePoints";
import { leakIn } from "./leak";
import { rhythmOf } from "./rhythm";
import { deviation, median } from "./robust";
import { shiftsOf } from "./shifts";
import { slopeOf } from "./slope";

beforeAll(prepareDistributions);

/** What is not worth a word: about six percent. */
const LEAST = 0.06;
const START = Date.UTC(2026, 10, 2);

class Chance {
  private readonly source;
  constructor(seed: number) {
    this.source = xoroshiro128plus(seed);
  }
  even(): number {
    return uniformFloat64(this.source);
  }
  whole(from: number, to: number): number {
    return uniformInt(this.source, from, to);
  }
  normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.even())) * Math.cos(2 * Math.PI * this.even());
  }
}

const HOURS = 28 * 24;

/** Four weeks by the hour: a rhythm of days and weekends, noise that remembers, odd values, and a change where it is wanted. */
function series(seed: number, change: { at: number; by: number } | null) {
  const chance = new Chance(seed);
  const times = Float64Array.from({ length: HOURS }, (_, i) => START + i * HOUR);
  const kept = 0.2 + 0.5 * chance.even();
  let noise = 0;
  const values = times.map((time, i) => {
    noise = kept * noise + Math.sqrt(1 - kept * kept) * 0.03 * chance.normal();
    const hour = (time % DAY) / HOUR;
    const weekend = [0, 6].includes(new Date(time).getUTCDay()) ? -0.2 : 0;
    const odd = chance.even() < 0.01 ? 0.8 * chance.even() : 0;
    const level = change && i >= change.at ? change.by : 0;
    return Math.log(0.2) + 0.25 * Math.sin((hour / 24) * 2 * Math.PI) + weekend + noise + odd + level;
  });
  return { times, values };
}

test("fifty planted changes are found within two steps, and nothing else", () => {
  const wrong: unknown[] = [];
  for (let seed = 1; seed <= 50; seed++) {
    const chance = new Chance(seed * 31 + 7);
    const at = chance.whole(40, HOURS - 40);
    const by = (chance.even() < 0.5 ? -1 : 1) * Math.log(1.15 + 0.4 * chance.even());
    const { times, values } = series(seed, { at, by });
    const found = shiftsOf(times, values, LEAST);
    const right = found.length === 1 && Math.abs(found[0].at - at) <= 2;
    if (!right || Math.abs(found[0].after - found[0].before - by) > 0.06) wrong.push({ seed, at, by, found });
  }
  expect(wrong).toEqual([]);
});

test("none are found in fifty series without", () => {
  const wrong: unknown[] = [];
  for (let seed = 101; seed <= 150; seed++) {
    const { times, values } = series(seed, null);
    const found = shiftsOf(times, values, LEAST);
    if (found.length > 0) wrong.push({ seed, found });
  }
  expect(wrong).toEqual([]);
});

test("a series without any noise changes where it does", () => {
  const values = Float64Array.from({ length: 60 }, (_, i) => (i < 25 ? 1 : 2));
  expect(changePoints(values)).toEqual([{ at: 25, before: 1, after: 2 }]);
  expect(changePoints(new Float64Array(60).fill(3))).toEqual([]);
  expect(changePoints(new Float64Array(3))).toEqual([]);
});

test("what returns every day is taken out, and a level stays", () => {
  const times = Float64Array.from({ length: 14 * 24 }, (_, i) => START + i * HOUR);
  const values = times.map((time) => 5 + Math.sin(((time % DAY) / DAY) * 2 * Math.PI));
  const rhythm = rhythmOf(times, values);
  const left = values.map((value, i) => value - rhythm[i]);
  expect(Math.max(...left) - Math.min(...left)).toBeLessThan(0.05);
  expect(median(left)).toBeCloseTo(5, 1);
});

test("the slope is that of the line, whatever a few odd values say, and its interval holds it", () => {
  let held = 0;
  for (let seed = 1; seed <= 100; seed++) {
    const chance = new Chance(seed);
    const times = Array.from({ length: 60 }, (_, i) => i);
    const values = times.map((time) => 3 + 0.5 * time + 2 * chance.normal() + (chance.even() < 0.1 ? 50 : 0));
    const slope = slopeOf(times, values)!;
    expect(slope.value).toBeGreaterThan(0.4);
    expect(slope.value).toBeLessThan(0.65);
    if (slope.low <= 0.5 && slope.high >= 0.5) held++;
  }
  expect(held).toBeGreaterThanOrEqual(97);
  expect(slopeOf([1, 2, 3], [1, 2, 3])).toBeNull();
});

test("the slope of Sen's example is the one of his paper", () => {
  const times = [1, 2, 3, 4, 10, 12, 18];
  const values = [9, 15, 19, 20, 45, 55, 78];
  expect(slopeOf(times, values)!.value).toBeCloseTo(4, 9);
});

describe("leaks", () => {
  const saw = (seed: number, rises: number, period: number) => {
    const chance = new Chance(seed);
    const times = Array.from({ length: 14 * 24 }, (_, i) => START + i * HOUR);
    const values = times.map((_, i) => 1e8 * (1 + rises * (i % period)) * (1 + 0.02 * chance.normal()));
    return { times, values };
  };

  test("memory that rises and falls back at each start is one", () => {
    const { times, values } = saw(3, 0.15, 7);
    const leak = leakIn(times, values)!;
    expect(leak.slope * HOUR).toBeGreaterThan(1.3e7);
    expect(leak.slope * HOUR).toBeLessThan(1.7e7);
    expect(leak.every).toBe(6 * HOUR);
    expect(leak.stretches).toBeGreaterThan(30);
  });

  test("memory that stays, or only wavers, is none", () => {
    expect(leakIn(...(Object.values(saw(4, 0, 7)) as [number[], number[]]))).toBeNull();
    const chance = new Chance(9);
    const times = Array.from({ length: 200 }, (_, i) => i * HOUR);
    expect(
      leakIn(
        times,
        times.map(() => 1e8 * (1 + 0.3 * chance.even())),
      ),
    ).toBeNull();
  });
});

test("the deviation of normal values is theirs", () => {
  const chance = new Chance(1);
  expect(deviation(Float64Array.from({ length: 4000 }, () => 3 * chance.normal()))).toBeCloseTo(3, 0);
  expect(median([])).toBeNaN();
});
