import fc from "fast-check";
import { EARLIER, earlierIn, earlierText } from "./earlier";

test("what is offered is understood, and called as it is offered", () => {
  expect(EARLIER.map(({ value }) => earlierIn(value))).toEqual([
    { value: "1h", back: 3_600_000, words: "an hour before" },
    { value: "1d", back: 86_400_000, words: "a day before" },
    { value: "1w", back: 604_800_000, words: "a week before" },
    { value: "4w", back: 2_419_200_000, words: "four weeks before" },
  ]);
});

test.each([
  ["90m", "1 hour 30 minutes before"],
  ["45 s", "45 seconds before"],
  ["1563m", "1 day 2 hours before"],
  ["3d", "3 days before"],
])("%s is %s", (value, words) => {
  expect(earlierIn(value)?.words).toBe(words);
});

test.each([null, "", "0s", "-1h", "1", "h", "1y", "500d", "1h30m"])("%s is none", (value) => {
  expect(earlierIn(value)).toBeNull();
});

test("what is dragged is written so that it is read back, to a minute or a second", () => {
  fc.assert(
    fc.property(fc.integer({ min: 1000, max: 34_000_000_000 }), (back) => {
      const read = earlierIn(earlierText(back));
      expect(Math.abs(read!.back - back)).toBeLessThanOrEqual(back >= 3_600_000 ? 30_000 : 500);
    }),
  );
});
