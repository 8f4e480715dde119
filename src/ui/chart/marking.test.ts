import fc from "fast-check";
import type { Axis } from "./drawn";
import { levelsOn, marksIn } from "./marking";

const SPAN = { from: 0, to: 100_000 };
const marks = (...moments: number[]) => moments.map((at, i) => ({ release: `1.${i}.0`, at }));

test("what lies outside of the window, or at its very beginning, is not marked", () => {
  const drawn = marksIn(marks(-1, 0, 1, 100_000, 100_001), SPAN, 600);
  expect(drawn.map(({ at }) => at)).toEqual([1, 100_000]);
});

test("a name stands over its line, and two near each other turn theirs away from each other", () => {
  const [alone, first, second] = marksIn(marks(20_000, 60_000, 64_000), SPAN, 600);
  expect([alone, first, second].map(({ stands }) => stands)).toEqual(["over", "left", "right"]);
  expect([alone, first, second].map(({ name }) => name)).toEqual(["1.0.0", "1.1.0", "1.2.0"]);
});

test("a third name near two others has no room; its line is drawn all the same", () => {
  const drawn = marksIn(marks(60_000, 62_000, 64_000), SPAN, 600);
  expect(drawn.map(({ name }) => name)).toEqual(["", "1.1.0", "1.2.0"]);
});

test("of any number of releases, lines keep apart and names of one side do not meet", () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 100_000 }), { maxLength: 60 }), (moments) => {
      const drawn = marksIn(marks(...moments), SPAN, 600);
      const places = drawn.map(({ at }) => at).sort((a, b) => a - b);
      for (let i = 1; i < places.length; i++) expect(places[i] - places[i - 1]).toBeGreaterThanOrEqual(800);
      if (moments.length > 0) expect(places.at(-1)).toBe(Math.max(...moments));
      const named = drawn
        .filter(({ name }) => name !== "")
        .map(({ at }) => at)
        .sort((a, b) => a - b);
      // Of three names no two neighbours stand nearer than their room: there are two sides at most.
      for (let i = 2; i < named.length; i++) expect(named[i] - named[i - 2]).toBeGreaterThanOrEqual(7000);
    }),
  );
});

const axis = (ticks: number[], factor: number) => ({ ticks, log: false, writer: { factor } }) as unknown as Axis;
const level = (value: number, wrong: "above" | "below" | "neither") => ({
  at: "300 ms",
  word: "slow",
  value,
  wrong,
});

test("a level lies on its axis in the axis' own unit, with the side of it that is wrong", () => {
  const colours = { bad: "var(--color-error)", plain: "var(--color-secondary)" };
  const on = axis([0, 500, 1000], 1000);
  expect(levelsOn([level(0.3, "above"), level(0.3, "below"), level(0.3, "neither")], on)).toEqual([
    { level: 300, text: "slow 300 ms", colour: colours.bad, wrong: { low: 300, high: 1000 } },
    { level: 300, text: "slow 300 ms", colour: colours.bad, wrong: { low: 0, high: 300 } },
    { level: 300, text: "slow 300 ms", colour: colours.plain, wrong: null },
  ]);
  // At the very edge there is nothing beyond it; outside of the axis there is no level.
  expect(levelsOn([level(1, "above")], on)[0].wrong).toBeNull();
  expect(levelsOn([level(1.1, "below"), level(Number.NaN, "above")], on)).toEqual([]);
});
