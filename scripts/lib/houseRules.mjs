import { readdirSync, readFileSync, statSync } from "node:fs";
import path from "node:path";
import { root } from "./run.mjs";
import { Stop } from "./say.mjs";

/** Rules of the house that no linter knows: where things are, and by what they are declared. */

/** Files of one folder that are not tests; with more, it is to have rooms. */
const MAX_FILES = 28;
/** Lines of a file that is no test; with more, it holds more than one idea. */
const MAX_LINES = 500;

function* filesBelow(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const place = path.join(folder, entry.name);
    if (entry.isDirectory()) yield* filesBelow(place);
    else yield place;
  }
}

const isTest = (file) => /\.test\.tsx?$/.test(file);
const isCode = (file) => /\.(ts|tsx|mjs)$/.test(file) && !isTest(file);

/** A route exports nothing but handlers of calls of the contract: its answers and refusals are then those that are told. */
function* routes(file, text) {
  if (!file.endsWith("/route.ts")) return;
  for (const [, name, value] of text.matchAll(/^export (?:const|async function|function) (\w+)(?: = (.*))?/gm)) {
    if (name === "dynamic") continue;
    const served = /^serve\((\w+),/.exec(value ?? "");
    if (!served) yield `${name} is not made by serve(): declare its call in src/core/api/calls, and serve that`;
    else if (!new RegExp(`import \\{[^}]*\\b${served[1]}\\b[^}]*\\} from "@/core/api/calls/`).test(text))
      yield `${served[1]} is not a call of src/core/api/calls`;
  }
}

/** A page has a line in the list of pages, by its own path. */
function* pages(file, text) {
  const found = /^src\/app\/(.+)\/page\.tsx$/.exec(file);
  if (found && !text.includes(`headOf("/${found[1]}")`))
    yield `it has to export const metadata = headOf("/${found[1]}"), and to stand in src/ui/frame/pages.ts`;
}

/** A line of the list of pages has a page. */
function* lines(file, text) {
  if (file !== "src/ui/frame/pages.ts") return;
  for (const [, one] of text.matchAll(/\{ path: "([^"]+)"/g)) {
    try {
      statSync(path.join(root, "src/app", one, "page.tsx"));
    } catch {
      yield `${one} has no src/app${one}/page.tsx`;
    }
  }
}

function* sizes(_, text) {
  const count = text.split("\n").length;
  if (count > MAX_LINES) yield `it has ${count} lines; a file has one idea, and at most ${MAX_LINES}`;
}

/** @throws Stop with every place that breaks a rule */
export function checkHouse() {
  const broken = [];
  const folders = new Map();
  for (const place of filesBelow(path.join(root, "src"))) {
    const file = path.relative(root, place);
    if (!isCode(file)) continue;
    const folder = path.dirname(file);
    folders.set(folder, (folders.get(folder) ?? 0) + 1);
    const text = readFileSync(place, "utf8");
    for (const rule of [routes, pages, lines, sizes])
      for (const mistake of rule(file, text)) broken.push(`${file}: ${mistake}`);
  }
  for (const [folder, count] of folders)
    if (count > MAX_FILES) broken.push(`${folder}: ${count} files; at most ${MAX_FILES}, then it is to have rooms`);
  if (broken.length > 0) throw new Stop(broken.join("\n  "));
}
