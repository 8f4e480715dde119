import { readFileSync, writeFileSync } from "node:fs";
import fc from "fast-check";
import { z } from "zod";
import { anySheet } from "./arbitrary";
import { parseSheetFile, printSheetFile, problemsOf, sheetFile, unknownMetrics } from "./file";
import { sheet } from "./sheet";

test("a file says what its sheets say, whatever their order", () => {
  fc.assert(
    fc.property(fc.array(anySheet, { minLength: 1, maxLength: 3 }), (all) => {
      const sheets = all.map((one, i) => ({ id: `s-${i}`, sheet: one }));
      const text = printSheetFile(sheets);
      expect(parseSheetFile(text)).toEqual(sheets);
      expect(printSheetFile([...sheets].reverse())).toBe(text);
    }),
  );
});

test.each([
  ["{", "it is not JSON"],
  ["{}", 'format: a file of sheets says "format": "tin-ladder sheets"'],
  [
    '{"format":"tin-ladder sheets","version":2,"sheets":[]}',
    "version: this version of Tin Ladder reads files of version 1",
  ],
  ['{"format":"tin-ladder sheets","version":1,"sheets":[]}', "sheets: the file has no sheet"],
  ['{"format":"tin-ladder sheets","version":1,"sheets":[{"id":"A b","sheet":{"name":"A"}}]}', "sheets.0.id: an id is"],
])("%s is refused in words", (text, said) => {
  expect(() => parseSheetFile(text)).toThrow(said);
});

test("what cannot be read of a sheet is said", () => {
  const plate = (id: string, text: string) => ({
    id,
    title: id,
    holds: "readings",
    readings: [{ text }],
    look: { as: "lines" },
  });
  const one = sheet.parse({
    name: "A",
    bands: [
      { id: "b", plates: [plate("x", "rate of"), plate("y", "rate of m where a is <a>"), plate("z", "p95 of n")] },
    ],
  });
  expect(problemsOf(one)).toEqual([
    expect.stringMatching(/^the plate "x": .*at character/),
    '<a> is no pick of the sheet; the plate "y" names it',
  ]);
  expect(unknownMetrics([one], new Set(["n"]))).toEqual(["m"]);
});

test("docs/sheets.schema.json is the schema of such files", () => {
  const wanted = z.toJSONSchema(sheetFile, { io: "input" });
  const file = "docs/sheets.schema.json";
  if (process.env.TIN_WRITE_DOCUMENT) writeFileSync(file, `${JSON.stringify(wanted, null, 2)}\n`);
  expect(JSON.parse(readFileSync(file, "utf8"))).toEqual(wanted);
});
