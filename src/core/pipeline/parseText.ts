import type { Attributes, AttributeValue } from "../metric/model";
import { Pattern } from "./patterns";

/** Finds attributes in the text of a log record. */

/** Attributes that one text gives, at most; characters of one value, at most. */
const MAX_FOUND = 64;
const MAX_VALUE = 4096;
const MAX_DEPTH = 4;

/** A text that is a number is one. */
function typed(text: string): AttributeValue {
  if (text === "true" || text === "false") return text === "true";
  return /^-?(0|[1-9]\d{0,14})(\.\d{1,15})?$/.test(text) ? Number(text) : text;
}

/**
 * Pairs of `key=value`, values in quotes where they have blanks, `key` alone for true ("logfmt").
 *
 * @returns nothing where the text has no pair with an equals sign
 */
export function readLogfmt(text: string): Attributes {
  const found: Attributes = {};
  let pairs = 0;
  const token = /([^\s="]+)(?:=(?:"((?:[^"\\]|\\.)*)"|([^\s"]*)))?(?=\s|$)|\S+/gy;
  for (let at = 0; at < text.length; ) {
    if (/\s/.test(text[at])) {
      at++;
      continue;
    }
    token.lastIndex = at;
    const match = token.exec(text);
    if (!match) break;
    at = token.lastIndex;
    const [whole, key, quoted, plain] = match;
    if (key === undefined) continue;
    if (quoted !== undefined) {
      found[key] = quoted.replace(/\\(.)/g, (_, char: string) => ({ n: "\n", t: "\t", r: "\r" })[char] ?? char);
      pairs++;
    } else if (plain !== undefined) {
      found[key] = typed(plain);
      pairs++;
    } else if (whole === key) found[key] = true;
  }
  return pairs > 0 ? found : {};
}

/** The members of a JSON object; inner ones by their path, with dots. Nothing where the text is no object. */
export function readJson(text: string): Attributes {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return {};
  }
  const found: Attributes = {};
  const walk = (inner: unknown, path: string, depth: number) => {
    if (inner === null || inner === undefined) return;
    if (typeof inner === "object" && !Array.isArray(inner) && depth < MAX_DEPTH) {
      for (const [key, one] of Object.entries(inner)) walk(one, path === "" ? key : `${path}.${key}`, depth + 1);
    } else if (path !== "") found[path] = typeof inner === "object" ? JSON.stringify(inner) : (inner as AttributeValue);
  };
  walk(value, "", 0);
  return found;
}

/** How a text is written. */
export interface Parsing {
  format: "logfmt" | "json" | "pattern";
  /** With named groups; for the format "pattern". */
  pattern: string;
  /** What the names of found attributes begin with. */
  prefix: string;
}

/** @returns what a step finds in a text, by the names that it gives */
export function reader({ format, pattern, prefix }: Parsing): (text: string) => Attributes {
  const named = format === "pattern" ? new Pattern(pattern) : null;
  return (text) => {
    const found = named ? named.groups(text) : format === "json" ? readJson(text) : readLogfmt(text);
    const some = Object.entries(found)
      .filter(
        ([key, value]) => key !== "" && key.length <= 200 && !(typeof value === "string" && value.length > MAX_VALUE),
      )
      .slice(0, MAX_FOUND);
    return Object.fromEntries(some.map(([key, value]) => [prefix + key, named ? typed(String(value)) : value]));
  };
}
