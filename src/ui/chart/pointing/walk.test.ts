import { walk } from "./walk";

const TIMES = Array.from({ length: 30 }, (_, i) => (i + 1) * 1000);

test("arrows go from step to step and stop at the ends", () => {
  expect(walk(TIMES, 5000, "ArrowRight", false)).toBe(6000);
  expect(walk(TIMES, 5000, "ArrowLeft", false)).toBe(4000);
  expect(walk(TIMES, 4400, "ArrowRight", false)).toBe(6000);
  expect(walk(TIMES, 5000, "ArrowRight", true)).toBe(15_000);
  expect(walk(TIMES, 30_000, "ArrowRight", false)).toBe(30_000);
  expect(walk(TIMES, 2000, "ArrowLeft", true)).toBe(1000);
  expect(walk(TIMES, 99_000, "ArrowLeft", false)).toBe(29_000);
});

test("the first arrow begins at an end, Escape takes the crosshair away, other keys are not ours", () => {
  expect(walk(TIMES, null, "ArrowRight", false)).toBe(1000);
  expect(walk(TIMES, null, "ArrowLeft", false)).toBe(30_000);
  expect(walk(TIMES, 5000, "Home", false)).toBe(1000);
  expect(walk(TIMES, 5000, "End", false)).toBe(30_000);
  expect(walk(TIMES, 5000, "Escape", false)).toBeNull();
  expect(walk(TIMES, null, "Escape", false)).toBeUndefined();
  expect(walk(TIMES, 5000, "a", false)).toBeUndefined();
  expect(walk([], null, "ArrowRight", false)).toBeUndefined();
});
