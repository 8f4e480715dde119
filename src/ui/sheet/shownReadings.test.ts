import type { ReadingResult } from "@/core/reading/result";
import { shownReadings } from "./shownReadings";

const DAY = 86_400_000;
const readings = [{ text: "rate of loans", names: "", unit: "", decimals: null }];
const held = ["rate of loans"];

const answer = (from: number): ReadingResult => ({
  reading: "rate of loans",
  unit: "{loan}/s",
  share: false,
  from,
  to: from + 100,
  every: 50,
  times: [from + 50, from + 100],
  settledTo: null,
  series: [{ labels: {}, values: [from, from + 1], total: from }],
  warnings: [],
  services: [],
  resolution: "raw",
  resolutions: ["raw"],
});

const shown = (result: ReadingResult, old: ReadingResult | undefined, back: number, before = shownNothing(back)) =>
  shownReadings({ readings, held, results: [result], olds: [old], back }, before);
const shownNothing = (back: number) => ({ back, shown: [] as ReturnType<typeof shownReadings> });

test("an answer stands with the one of just as long before, moved on to its times", () => {
  const [one] = shown(answer(DAY), answer(0), DAY);
  expect(one.earlier?.times).toEqual(one.result.times);
  expect(one.earlier?.series[0].values).toEqual([0, 1]);
});

test("while only one of a window that moved on is there, the pair before stays, whichever comes first", () => {
  const before = { back: DAY, shown: shown(answer(DAY), answer(0), DAY) };
  expect(shown(answer(DAY + 10), answer(0), DAY, before)).toEqual(before.shown);
  expect(shown(answer(DAY), answer(10), DAY, before)).toEqual(before.shown);
  const [next] = shown(answer(DAY + 10), answer(10), DAY, before);
  expect([next.result.from, next.earlier?.from]).toEqual([DAY + 10, DAY + 10]);
});

test("what is as long before as was said until now is not held against anything", () => {
  const before = { back: DAY, shown: shown(answer(DAY), answer(0), DAY) };
  const [one] = shown(answer(7 * DAY), answer(6 * DAY), 7 * DAY, before);
  expect([one.result.from, one.earlier]).toEqual([7 * DAY, null]);
  expect(shown(answer(DAY), undefined, DAY, before)[0].earlier).toBeNull();
});
