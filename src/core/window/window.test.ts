import fc from "fast-check";
import { defaultStep, NICE_STEPS, stepBounds, zoneOffset } from "./steps";
import {
  aroundMark,
  fixed,
  judgedSpan,
  LENGTHS,
  lengthInWords,
  neighbourMark,
  railSpan,
  refreshEvery,
  spanOfChoice,
} from "./window";

const HOUR = 3600_000;
const DAY = 24 * HOUR;

describe("steps", () => {
  test("fill the window without holes, rise, and lie on the zone's clock", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1_700_000_000_000, max: 1_800_000_000_000 }),
        fc.integer({ min: 1, max: 3 * DAY }),
        fc.constantFrom(...NICE_STEPS.filter((step) => step >= 30_000 && step <= DAY)),
        fc.constantFrom("UTC", "Europe/Berlin", "America/New_York", "Asia/Kolkata", "Australia/Lord_Howe"),
        (from, length, step, zone) => {
          const bounds = Array.from(stepBounds(from, from + length, step, zone));
          expect([bounds[0], bounds[bounds.length - 1]]).toEqual([from, from + length]);
          for (let i = 1; i < bounds.length; i++) expect(bounds[i]).toBeGreaterThan(bounds[i - 1]);
          for (const bound of bounds.slice(1, -1).slice(0, 30)) {
            const local = bound + zoneOffset(bound, zone);
            // Clocks that move by half an hour leave hours unaligned only where they just moved.
            expect(local % Math.min(step, HOUR / 2)).toBe(0);
          }
        },
      ),
      { numRuns: 150 },
    );
  });

  test("days begin at midnight where the viewer is, also when the clock is changed", () => {
    const from = Date.UTC(2026, 9, 23, 22);
    const bounds = stepBounds(from, from + 4 * DAY + HOUR, DAY, "Europe/Berlin");
    const hours = Array.from(bounds.subarray(1, -1), (time) => new Date(time).toISOString().slice(5, 16));
    expect(hours).toEqual(["10-24T22:00", "10-25T23:00", "10-26T23:00"]);
  });

  test.each([
    ["1h when the clock goes back", "2026-10-24T21:00Z", HOUR, 8, Array.from({ length: 7 }, () => 1)],
    ["1h when the clock goes forward", "2026-03-28T21:00Z", HOUR, 8, Array.from({ length: 7 }, () => 1)],
    ["2h when the clock goes back", "2026-10-24T20:00Z", 2 * HOUR, 10, [2, 2, 3, 2]],
    ["2h when the clock goes forward", "2026-03-28T21:00Z", 2 * HOUR, 10, [2, 3, 2, 2]],
    ["days when the clock goes forward", "2026-03-27T23:00Z", DAY, 72, [24, 23]],
  ])("%s", (_, from, step, hours, wanted) => {
    const begin = Date.parse(from);
    const bounds = Array.from(stepBounds(begin, begin + hours * HOUR, step, "Europe/Berlin"));
    const widths = bounds.slice(1).map((bound, i) => (bound - bounds[i]) / HOUR);
    expect(widths.slice(0, wanted.length)).toEqual(wanted);
  });

  test.each([
    [6 * HOUR, 0, 120_000],
    [6 * HOUR, 600_000, 600_000],
    [HOUR, 0, 15_000],
    [14 * DAY, 60_000, 2 * HOUR],
    [10_000, 0, 1000],
  ])("a window of %d ms with points every %d ms has steps of %d ms", (length, interval, step) => {
    expect(defaultStep(0, length, interval)).toBe(step);
  });
});

describe("windows", () => {
  const now = 1_764_000_003_000;

  test("a live one ends with its last refresh, a fixed one where it was put", () => {
    const span = spanOfChoice({ type: "last", length: HOUR }, now);
    expect(span.to - span.from).toBe(HOUR);
    expect(now - span.to).toBeGreaterThanOrEqual(0);
    expect(now - span.to).toBeLessThan(20_000);
    expect(spanOfChoice(fixed(1000, 90_000), now)).toEqual({ from: 1000, to: 90_000 });
    expect(spanOfChoice(fixed(1000, 1001), now)).toEqual({ from: 1000, to: 11_000 });
  });

  test.each([
    [15 * 60_000, 5000],
    [HOUR, 5000],
    [3 * HOUR, 10_000],
    [6 * HOUR, 15_000],
    [DAY, 60_000],
    [7 * DAY, 300_000],
    [60 * DAY, 300_000],
  ])("a live window of %d ms moves on every %d ms", (length, every) => {
    expect(refreshEvery(length)).toBe(every);
    const { to } = spanOfChoice({ type: "last", length }, now);
    expect(to % every).toBe(0);
    expect(spanOfChoice({ type: "last", length }, to + every - 1).to).toBe(to);
  });

  test("what is judged of a live one follows each half minute, as long as it is; a fixed one is judged as it is", () => {
    for (const length of LENGTHS)
      for (let at = now; at < now + 120_000; at += 1700) {
        const choice = { type: "last", length } as const;
        const span = spanOfChoice(choice, at);
        const judged = judgedSpan(span, choice);
        expect(judged.to % 30_000).toBe(0);
        expect(span.to - judged.to).toBeLessThan(30_000);
        expect(span.to - judged.to).toBeGreaterThanOrEqual(0);
        expect(judged.to - judged.from).toBe(span.to - span.from);
      }
    expect(judgedSpan({ from: 1234, to: 98_765 }, fixed(1234, 98_765))).toEqual({ from: 1234, to: 98_765 });
  });

  test("long live windows begin on full minutes or hours, never later than asked", () => {
    for (const length of LENGTHS) {
      const { from, to } = spanOfChoice({ type: "last", length }, now + 123_456);
      const grain = length >= 30 * DAY ? 3600_000 : length >= DAY ? 60_000 : 1;
      expect(from % grain).toBe(0);
      expect(to - from - length).toBeGreaterThanOrEqual(0);
      expect(to - from - length).toBeLessThan(grain);
    }
  });

  test("the rail spans more than the window and holds it", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 10_000, max: 30 * DAY }),
        fc.integer({ min: 20_000, max: 30 * DAY }),
        (length, before) => {
          const span = { from: now - before - length, to: now - before };
          const rail = railSpan(span, now);
          expect(rail.from).toBeLessThanOrEqual(span.from);
          expect(rail.to).toBeGreaterThanOrEqual(span.to);
          expect(rail.to - rail.from).toBeGreaterThanOrEqual(length * 1.24);
        },
      ),
    );
  });

  test("going from release to release", () => {
    const marks = [{ at: 300 }, { at: 100 }, { at: 200 }];
    expect(neighbourMark(marks, 200, 1)).toEqual({ at: 300 });
    expect(neighbourMark(marks, 200, -1)).toEqual({ at: 100 });
    expect(neighbourMark(marks, 100, -1)).toBeNull();
    expect(aroundMark(now - 10 * HOUR, 4 * HOUR, now)).toEqual(fixed(now - 11 * HOUR, now - 7 * HOUR));
    expect(spanOfChoice(aroundMark(now - HOUR, 4 * HOUR, now), now).to).toBe(now);
  });

  test.each([
    [HOUR, "hour"],
    [6 * HOUR, "6 hours"],
    [DAY, "day"],
    [90 * 60_000, "90 minutes"],
  ])("%d ms in words is %s", (length, words) => {
    expect(lengthInWords(length)).toBe(words);
  });
});
