import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { pathToFileURL } from "node:url";
import { transformSync } from "esbuild";
import { withSourcePlaces } from "./sourcePlaces";

const folder = mkdtempSync(path.join(tmpdir(), "places-"));
afterAll(() => rmSync(folder, { recursive: true }));

/** A program of which the second line of the source throws, written on one line, with its map. */
function built(): { file: string; column: number } {
  const source = 'const word: string = "kiln";\nexport function fire(): never { throw new Error(word); }\n';
  const { code, map } = transformSync(source, {
    loader: "ts",
    sourcemap: true,
    minifyWhitespace: true,
    sourcefile: "src/kiln.ts",
  });
  const file = path.join(folder, "kiln.js");
  writeFileSync(file, code);
  writeFileSync(`${file}.map`, map);
  return { file, column: code.indexOf("new Error") + 1 };
}

test("places in a stack are those of the sources, as paths and as addresses", () => {
  const { file, column } = built();
  for (const written of [file, pathToFileURL(file).href]) {
    const told = withSourcePlaces(`Error: kiln\n    at fire (${written}:1:${column})\n    at node:internal/x:3:4`);
    expect(told).toMatch(/^Error: kiln\n {4}at fire \(\S*src\/kiln\.ts:2:39\)\n {4}at node:internal\/x:3:4$/);
  }
});

test("what has no map, or one that cannot be read, stays as it is", () => {
  const broken = path.join(folder, "broken.js");
  writeFileSync(`${broken}.map`, "{");
  for (const stack of [`Error: a\n    at ${broken}:1:2`, "Error: a\n    at /nowhere/b.js:1:2", "no stack at all"])
    expect(withSourcePlaces(stack)).toBe(stack);
});
