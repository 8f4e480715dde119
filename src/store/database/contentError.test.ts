import { StripError } from "@/core/strip/bytes";
import { isContentError, isDamage, isMissingPartition } from "./contentError";

const state = (code: string, message = "") => Object.assign(new Error(message), { code });
const dropped = state("23514", 'no partition of relation "strip_raw" found for row');

test.each([
  ["a text with NUL", state("22021"), true],
  ["a number that is too large", state("22003"), true],
  ["a row that is too large for an index", state("54000"), true],
  ["what cannot be packed", new StripError("too wide"), true],
  ["a partition that was dropped", dropped, false],
  ["a check that failed", state("23514"), false],
  ["a duplicate", state("23505"), false],
  ["a mistake of ours", new TypeError("x is not a function"), false],
  ["another mistake of ours", new RangeError("invalid length"), false],
  ["the store being away", state("ECONNREFUSED"), false],
])("%s", (_, error, content) => {
  expect(isContentError(error)).toBe(content);
});

test("a missing partition is told from other checks, and damage from the store being away", () => {
  expect(isMissingPartition(dropped)).toBe(true);
  expect(isMissingPartition(state("23514", "violates check constraint"))).toBe(false);
  expect(isDamage(new RangeError("offset is out of bounds"))).toBe(true);
  expect(isDamage(state("57P01"))).toBe(false);
});
