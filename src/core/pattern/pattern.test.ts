import { compilePattern, patternProblem } from "./pattern";

describe("a pattern that somebody writes", () => {
  it.each([
    "\\d+",
    "(?i)timeout|refused",
    "[0-9a-f]{8}-[0-9a-f]{4}",
    "[A-Za-z0-9._%+-]+@[A-Za-z0-9-]+(?:\\.[A-Za-z0-9-]+)+",
    "",
  ])("of usual size is taken: %s", (text) => {
    expect(patternProblem(text)).toBeNull();
  });

  it.each(["(.*)-(.*){500}", "((.*){30}){30}", "(\\pL+){900}", `${"(.*){1000}".repeat(40)}`, `${"a{9}".repeat(100)}`])(
    "that would take long for each character is refused: %.30s",
    (text) => {
      expect(patternProblem(text)).toMatch(/too large/);
    },
  );

  it("is refused before it is compiled where its repeats alone are too many", () => {
    const began = performance.now();
    expect(() => compilePattern("(x{1000})".repeat(500))).toThrow(/too large/);
    expect(performance.now() - began).toBeLessThan(1000);
  });

  it("says what is not understood", () => {
    expect(patternProblem("(")).toMatch(/parenthes|closing/);
  });
});
