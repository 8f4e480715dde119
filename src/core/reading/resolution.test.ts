import fc from "fast-check";
import { HOUR, MINUTE } from "../window/lengths";

import { Choice, chooseStrips, type StripSpan } from "./resolution";

const DAY = 24 * HOUR;
const SPAN = 2 * HOUR;
const START = 20_000 * DAY;
const DAYS = 3;

interface Named extends StripSpan {
  name: string;
}

/** What one span of two hours holds: nothing, merged points, late points besides, or minutes only. */
const holds = fc.constantFrom("nothing", "merged", "late", "minutes only");
/** A store as upkeep leaves it: spans of two hours, and days that have hours where nothing in them is late. */
const stores = fc
  .record({
    spans: fc.array(holds, { minLength: DAYS * 12, maxLength: DAYS * 12 }),
    hours: fc.array(fc.boolean(), { minLength: DAYS, maxLength: DAYS }),
    joined: fc.boolean(),
    /** Days whose minutes stand in one strip. */
    together: fc.array(fc.boolean(), { minLength: DAYS, maxLength: DAYS }),
  })
  .map(({ spans, hours, joined, together }) => {
    const strips: Named[] = [];
    const late = (day: number) => spans.slice(day * 12, day * 12 + 12).includes("late");
    spans.forEach((held, i) => {
      const from = START + i * SPAN;
      const to = from + SPAN - 1;
      if (held === "merged" || held === "late") strips.push({ name: `raw ${i}`, resolution: 0, level: 3, from, to });
      if (held === "late") strips.push({ name: `late ${i}`, resolution: 0, level: 0, from: from + 5, to: from + 9 });
      if (held !== "nothing" && !together[Math.floor(i / 12)])
        strips.push({ name: `minutes ${i}`, resolution: 60, level: 3, from, to });
    });
    together.forEach((there, day) => {
      const held = spans.slice(day * 12, day * 12 + 12).flatMap((one, i) => (one === "nothing" ? [] : [day * 12 + i]));
      const [first, last] = [held.at(0), held.at(-1)];
      if (!there || first === undefined || last === undefined) return;
      const [from, to] = [START + first * SPAN, START + (last + 1) * SPAN - 1];
      strips.push({ name: `minutes of day ${day}`, resolution: 60, level: 4, from, to });
    });
    const empty = (day: number) => spans.slice(day * 12, day * 12 + 12).every((held) => held === "nothing");
    const rolled = hours.map((there, day) => (there || joined) && !late(day) && !empty(day));
    if (joined && rolled.every(Boolean)) {
      strips.push({ name: "hours", resolution: 3600, level: 3, from: START, to: START + DAYS * DAY - 1 });
    } else {
      rolled.forEach((there, day) => {
        const from = START + day * DAY;
        if (there) strips.push({ name: `hours ${day}`, resolution: 3600, level: 2, from, to: from + DAY - 1 });
      });
    }
    return { spans, strips };
  });

const boundsOf = fc
  .array(fc.tuple(fc.nat(DAYS * 24 - 1), fc.constantFrom(0, 0, 0, 30 * MINUTE, 7 * MINUTE, 12_345)), {
    minLength: 1,
    maxLength: 30,
  })
  .map((found) => Float64Array.from(new Set(found.map(([hour, more]) => START + hour * HOUR + more))).sort());

test("every span is read once, as coarse as its bounds allow, and what is late as it arrived", () => {
  fc.assert(
    fc.property(stores, boundsOf, ({ spans, strips }, bounds) => {
      const { strips: chosen, coarse } = chooseStrips(strips, bounds);
      let expectedCoarse = false;
      spans.forEach((held, i) => {
        const [from, to] = [START + i * SPAN, START + (i + 1) * SPAN];
        const day = Math.floor(from / DAY);
        const here = chosen.filter(
          ({ strip, part }) =>
            strip.from < to && strip.to >= from && (part === null || part.spans.has(Math.floor(from / part.width))),
        );
        const by = new Set(here.map(({ strip }) => strip.resolution));
        // A strip of a day may be cut in a span of which it holds nothing.
        if (held === "nothing") {
          const cut = Array.from(bounds).some((bound) => bound >= from && bound < to && bound % MINUTE !== 0);
          if (cut && here.some(({ strip }) => strip.resolution === 60)) expectedCoarse = true;
          return;
        }
        expect(by.size).toBe(1);
        const [resolution] = by;
        const inSpan = Array.from(bounds).filter((bound) => bound >= from && bound < to);
        const inDay = Array.from(bounds).filter((bound) => Math.floor(bound / DAY) === day);
        if (held === "late") expect(here.map(({ strip }) => strip.name)).toEqual([`raw ${i}`, `late ${i}`]);
        if (resolution === 3600) expect(inDay.every((bound) => bound % HOUR === 0)).toBe(true);
        const splits = inSpan.some((bound) => bound % MINUTE !== 0);
        if (resolution === 60 && splits) {
          expect(held).toBe("minutes only");
          expectedCoarse = true;
        }
        if (held === "merged" && resolution === 0) expect(splits).toBe(true);
      });
      expect(coarse).toBe(expectedCoarse);
    }),
    { numRuns: 400 },
  );
});

test("where only hours are left, they answer what they can, and say that they are coarse", () => {
  const hours: StripSpan[] = [{ resolution: 3600, level: 3, from: START, to: START + 2 * DAY - 1 }];
  const whole = Float64Array.of(START + HOUR, START + 5 * HOUR);
  expect(chooseStrips(hours, whole)).toMatchObject({ coarse: false, strips: [{ part: null }] });
  const split = Float64Array.of(START + HOUR + 1, START + 5 * HOUR);
  expect(chooseStrips(hours, split)).toMatchObject({ coarse: true, strips: [{ part: null }] });
});

test("finer strips are looked for only on days that hours will not answer", () => {
  const hours: StripSpan[] = [0, 1, 2].map((day) => ({
    resolution: 3600,
    level: 2,
    from: START + day * DAY,
    to: START + (day + 1) * DAY - 1,
  }));
  const choice = new Choice(Float64Array.of(START + 90_000, START + DAY, START + 3 * DAY), []);
  expect(choice.daysWithoutHours(START, START + 4 * DAY - 1, hours)).toEqual([
    { from: START, to: START + DAY - 1 },
    { from: START + 3 * DAY, to: START + 4 * DAY - 1 },
  ]);
});
