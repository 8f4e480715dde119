/** What schemas find wrong, as a person says it: their own sentences name types of the language. */

const TYPES: Readonly<Record<string, string>> = {
  number: "a number",
  int: "a whole number",
  string: "a text",
  boolean: "true or false",
  array: "a list",
  object: "an object",
  record: "an object",
};

const LIMITS: Readonly<Record<string, string>> = {
  ">=": "at least",
  ">": "more than",
  "<=": "at most",
  "<": "less than",
};

const TYPE = /^Invalid input: expected (\w+), received (\w+)$/;
const LIMIT = /^Too (?:small|big): expected \w+ to (be|have) (>=|>|<=|<)(\S+)(?: (\w+))?$/;

/** The message of a fault in plain words; one that is in plain words already stays as it is. */
export function faultText(message: string): string {
  const type = TYPE.exec(message);
  if (type) {
    const [, expected, received] = type;
    const what = TYPES[expected] ?? "another kind of value";
    return received === "undefined" ? `is missing; ${what} is expected` : `${what} is expected`;
  }
  const limit = LIMIT.exec(message);
  if (!limit) return message;
  const [, be, sign, bound, unit] = limit;
  return `it has to ${be} ${LIMITS[sign]} ${bound}${unit ? ` ${unit}` : ""}`;
}
