import { familiesIn, rangeHas } from "./pictureFonts";

test("which characters are in a range", () => {
  const latin = "U+0000-00FF,U+0131,U+0152-0153, U+2191";
  expect(rangeHas(latin, "depot")).toBe(true);
  expect(rangeHas(latin, "Ő")).toBe(false);
  expect(rangeHas(latin, "Ő↑")).toBe(true);
  expect(rangeHas("U+4??", "Ж")).toBe(true);
  expect(rangeHas("u+4??", "a")).toBe(false);
  expect(rangeHas("U+1F000-1FFFF", "a💥")).toBe(true);
  expect(rangeHas("", "anything")).toBe(true);
  expect(rangeHas(latin, "")).toBe(false);
});

test("the names of families, quoted or not", () => {
  expect(familiesIn("\"Archivo Variable\", 'Spline Sans', system-ui")).toEqual([
    "Archivo Variable",
    "Spline Sans",
    "system-ui",
  ]);
});
