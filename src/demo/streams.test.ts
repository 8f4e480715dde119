import { poisson, seeded } from "./random";
import { explicitShape, exponentialShape } from "./shapes";
import { histogramAdvance, type Turn } from "./streams";

const turn = (calls: number): Turn => ({ time: 0, every: 60_000, calls, up: 0, slow: 1 });

/** What many turns add up to, each with so many calls on average. */
function after(turns: number, calls: number, shape: ReturnType<typeof explicitShape>): Float64Array {
  const state = new Float64Array(shape.middles.length + 4);
  const advance = histogramAdvance(seeded(1), shape, 1);
  for (let i = 0; i < turns; i++) advance(state, turn(calls));
  return state;
}

describe("a histogram of the past", () => {
  // As many calls altogether: in few turns that bring many each, and in many that bring few.
  test.each([
    ["explicit, many at a time", 200, 500, explicitShape(0.08, 0.6)],
    ["explicit, few at a time", 100_000, 1, explicitShape(0.08, 0.6)],
    ["exponential, many at a time", 200, 500, exponentialShape(14, 0.7)],
    ["exponential, few at a time", 100_000, 1, exponentialShape(14, 0.7)],
  ])("has its calls where its shape says: %s", (_, turns, calls, shape) => {
    const state = after(turns, calls, shape);
    const { each, upTo } = shape.chances(1);
    expect(upTo[upTo.length - 1]).toBeCloseTo(1, 6);
    const total = turns * calls;
    let all = 0;
    let sum = 0;
    each.forEach((chance, bucket) => {
      all += state[bucket];
      sum += state[bucket] * shape.middles[bucket];
      // Within five deviations of a Poisson number.
      expect(Math.abs(state[bucket] - total * chance)).toBeLessThan(5 * Math.sqrt(total * chance) + 1);
    });
    expect(Math.abs(all - total)).toBeLessThan(5 * Math.sqrt(total));
    expect(state[shape.middles.length + 2]).toBeCloseTo(sum, 3);
    const hit = [...each.keys()].filter((bucket) => state[bucket] > 0);
    expect(state[shape.middles.length]).toBe(shape.middles[hit[0]]);
    expect(state[shape.middles.length + 1]).toBe(shape.middles[hit[hit.length - 1]]);
  });
});

test.each([0.2, 4, 29, 31, 400])("numbers of events spread as Poisson's do around %d", (mean) => {
  const random = seeded(5);
  const numbers = Array.from({ length: 20_000 }, () => poisson(random, mean));
  const found = numbers.reduce((sum, one) => sum + one, 0) / numbers.length;
  const variance = numbers.reduce((sum, one) => sum + (one - found) ** 2, 0) / numbers.length;
  expect(Math.abs(found - mean)).toBeLessThan(5 * Math.sqrt(mean / numbers.length));
  expect(Math.abs(variance / mean - 1)).toBeLessThan(0.08);
});
