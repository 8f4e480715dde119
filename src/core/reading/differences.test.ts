import fc from "fast-check";
import { sideBySide } from "./differences";
import type { ReadingResult, ReadingSeries } from "./result";

const series = (name: string, values: (number | null)[]): ReadingSeries => ({ labels: { name }, values, total: null });

function result(all: ReadingSeries[]): ReadingResult {
  const times = [10, 20, 30];
  const common = {
    reading: "",
    unit: "1",
    share: false,
    from: 0,
    to: 30,
    every: 10,
    settledTo: null,
    warnings: [],
    services: [],
  };
  return { ...common, times, series: all, resolution: "raw", resolutions: ["raw"] };
}

test("an answer is nowhere apart from itself", () => {
  const value = fc.oneof(fc.constant(null), fc.double({ noNaN: true, noDefaultInfinity: true }));
  fc.assert(
    fc.property(fc.array(fc.tuple(value, value, value), { maxLength: 5 }), (rows) => {
      const answer = result(rows.map((values, i) => series(String(i), values)));
      for (const { left, right, furthest } of sideBySide(answer, answer)) {
        expect(left).toBe(right);
        expect(furthest).toBeNull();
      }
    }),
  );
});

test("series are paired by their labels; the furthest apart is found, and what is on one side only comes first", () => {
  const left = result([series("a", [1, 2, 3]), series("b", [1, null, 5]), series("only left", [1, 1, 1])]);
  const right = result([series("b", [2, 7, 1]), series("a", [1, 2, 3 + 1e-12])]);
  expect(
    sideBySide(left, right).map(({ labels, left: a, right: b, furthest }) => [labels.name, !!a, !!b, furthest]),
  ).toEqual([
    ["only left", true, false, null],
    ["b", true, true, { at: 30, left: 5, right: 1 }],
    ["a", true, true, null],
  ]);
  expect(sideBySide(right, left).map(({ labels }) => labels.name)[0]).toBe("only left");
});
