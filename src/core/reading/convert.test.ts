import { inUnit } from "./convert";
import type { ReadingResult } from "./result";

const answer: ReadingResult = {
  reading: "p95 of took",
  unit: "ms",
  share: false,
  from: 0,
  to: 20,
  every: 10,
  settledTo: null,
  times: [10, 20],
  series: [
    {
      labels: { release: "1" },
      values: [1500, null],
      low: [1000, null],
      high: [2000, null],
      total: 250,
      totalHigh: null,
    },
  ],
  warnings: [],
  services: [],
  resolution: "raw",
  resolutions: ["raw"],
};

test("values, bounds and totals are said in the other unit, and what is missing stays missing", () => {
  const { unit, series, times } = inUnit(answer, "s")!;
  expect([unit, times]).toEqual(["s", [10, 20]]);
  expect(series).toEqual([
    { labels: { release: "1" }, values: [1.5, null], low: [1, null], high: [2, null], total: 0.25, totalHigh: null },
  ]);
});

test("the same unit is the same answer, and what measures something else is none", () => {
  expect(inUnit(answer, "ms")).toBe(answer);
  expect(inUnit(answer, "By")).toBeNull();
});

test("an answer without series is one in any unit", () => {
  expect(inUnit({ ...answer, unit: "", series: [] }, "{loan}/s")).toMatchObject({ unit: "{loan}/s", series: [] });
});
