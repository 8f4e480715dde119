import { readFileSync, writeFileSync } from "node:fs";

/**
 * Expects a document to hold what code says, between its marks (`<!-- name -->` and `<!-- end of name -->`); with
 * `npm run document` it is written there.
 */
export function expectInDocument(file: string, name: string, wanted: string): void {
  const text = readFileSync(file, "utf8");
  const marks = new RegExp(`(<!-- ${name} -->\\n\\n)[\\s\\S]*?(\\n\\n<!-- end of ${name} -->)`);
  expect(text).toMatch(marks);
  const whole = text.replace(marks, (_, before, after) => before + wanted + after);
  if (process.env.TIN_WRITE_DOCUMENT) writeFileSync(file, whole);
  expect(readFileSync(file, "utf8")).toBe(whole);
}
