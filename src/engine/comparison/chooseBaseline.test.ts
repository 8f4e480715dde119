import { baselineFor, type HeardRelease } from "./chooseBaseline";

const HOUR = 3600_000;
const heard = (release: string, firstAt: number, lastAt: number): HeardRelease => ({
  release,
  firstAt: firstAt * HOUR,
  lastAt: lastAt * HOUR,
});

const ALL = [heard("5.3.0", 9, 10), heard("5.2.4", 3, 10), heard("5.2.3", 2, 3), heard("5.1.9", 0, 10)];

test("a release is held against the one before it, by its number", () => {
  expect(baselineFor(ALL, "5.3.0", "")?.release).toBe("5.2.4");
  expect(baselineFor(ALL, "5.2.4", "")?.release).toBe("5.2.3");
  expect(baselineFor(ALL, "5.1.9", "")).toBeNull();
});

test("or against one that is named, or itself, unless nobody knows it", () => {
  expect(baselineFor(ALL, "5.3.0", "5.2.3")?.release).toBe("5.2.3");
  expect(baselineFor(ALL, "5.3.0", "5.3.0")?.release).toBe("5.3.0");
  expect(baselineFor(ALL, "5.3.0", "9.9.9")?.release).toBe("5.2.4");
});

test("or against what serves beside it, the longest there; else the one before it", () => {
  expect(baselineFor(ALL, "5.3.0", "beside")?.release).toBe("5.1.9");
  expect(baselineFor([heard("2", 5, 6), heard("1", 0, 5)], "2", "beside")?.release).toBe("1");
  expect(baselineFor([heard("1", 0, 5)], "1", "beside")).toBeNull();
});
