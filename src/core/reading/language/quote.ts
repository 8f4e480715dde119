import { ATTRIBUTE_ALIASES, shortAttribute } from "./tree";

/** How names and texts are written in a reading; the only place that puts quotes round anything. */

const PLAIN_NAME = /^[\p{L}_][\p{L}\p{N}_]*(?:[./-][\p{L}\p{N}_]+)*$/u;

const ESCAPES: Readonly<Record<string, string>> = { "\n": "\\n", "\r": "\\r", "\t": "\\t", '"': '\\"', "\\": "\\\\" };

/** A text in quotes, as the lexer reads it back. */
export function quoteText(text: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what has to be escaped
  return `"${text.replace(/["\\\u0000-\u001f\u007f]/g, (char) => ESCAPES[char] ?? `\\u${char.charCodeAt(0).toString(16).padStart(4, "0")}`)}"`;
}

/** What an escape behind a backslash stands for, and how many characters it takes; null where it is none. */
export function readEscape(text: string, at: number): { char: string; length: number } | null {
  const char = text[at];
  if (char === "u") {
    const digits = text.slice(at + 1, at + 5);
    return /^[0-9a-fA-F]{4}$/.test(digits)
      ? { char: String.fromCharCode(Number.parseInt(digits, 16)), length: 5 }
      : null;
  }
  const found = Object.entries(ESCAPES).find(([, written]) => written[1] === char);
  return found ? { char: found[0], length: 1 } : null;
}

/** The name of a metric, in quotes where it would be read as something else. */
export function metricText(name: string): string {
  return PLAIN_NAME.test(name) ? name : quoteText(name);
}

/** The name of an attribute: short where the standard's name has a short form, in quotes where it looks like one. */
export function attributeText(attribute: string): string {
  if (Object.hasOwn(ATTRIBUTE_ALIASES, attribute)) return quoteText(attribute);
  return metricText(shortAttribute(attribute));
}

/** The test that keeps a reading to a value of an attribute; null: to what lacks it. */
export function valueTest(attribute: string, value: string | null): string {
  return value === null
    ? `${attributeText(attribute)} is missing`
    : `${attributeText(attribute)} is ${quoteText(value)}`;
}

/** The tests that keep a reading to one service. */
export function serviceTests(service: string, environment: string): string {
  const within = valueTest("deployment.environment.name", environment === "" ? null : environment);
  return `${valueTest("service.name", service)} and ${within}`;
}
