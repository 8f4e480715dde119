import { readingStructure } from "../reading/language/grammar";
import { printReading } from "../reading/language/print";
import { type Condition, canonicalAttribute, ReadingError, shortAttribute } from "../reading/language/tree";
import { withTests } from "../reading/language/within";

/** Values that a whole sheet is held to, or that are left out of it: a test more on every reading that can have it. */

export interface Hold {
  attribute: string;
  /** null: the attribute is missing. */
  value: string | null;
  /** Whether the sheet is held to the value; else it is left out. */
  only: boolean;
}

function testOf({ attribute, value, only }: Hold): Condition {
  const name = canonicalAttribute(attribute);
  if (value === null) return { type: "test", test: { attribute: name, operator: only ? "is missing" : "is there" } };
  return {
    type: "test",
    test: { attribute: name, operator: only ? "is" : "is not", value: { type: "literal", value } },
  };
}

/**
 * A reading with the tests of holds; the same where none of them is about a metric that it reads, or where it is not
 * understood.
 *
 * @param has whether a metric has an attribute
 */
export function heldReading(
  text: string,
  holds: readonly Hold[],
  has: (metric: string, attribute: string) => boolean,
): string {
  if (holds.length === 0) return text;
  try {
    const tree = readingStructure(text);
    let held = false;
    const narrowed = withTests(tree, ({ metric }) => {
      const own = holds.filter(({ attribute }) => has(metric, canonicalAttribute(attribute)));
      held ||= own.length > 0;
      return own.map(testOf);
    });
    return held ? printReading(narrowed) : text;
  } catch (error) {
    if (error instanceof ReadingError) return text;
    throw error;
  }
}

/** A hold in words: "only depot Brindle", "without depot Brindle". */
export function holdWords({ attribute, value, only }: Hold): string {
  return `${only ? "only" : "without"} ${shortAttribute(canonicalAttribute(attribute))} ${value ?? "missing"}`;
}

/** How a hold stands in an address: its name there, and its value; where the attribute is missing, the name ends with "!". */
export function holdParameter({ attribute, value, only }: Hold): [string, string] {
  return [`${only ? "only" : "without"}.${attribute}${value === null ? "!" : ""}`, value ?? ""];
}

/** The holds in an address. */
export function holdsIn(parameters: Iterable<[string, string]>): Hold[] {
  const holds: Hold[] = [];
  for (const [name, value] of parameters) {
    const found = /^(only|without)\.(.+?)(!?)$/s.exec(name);
    if (found) holds.push({ attribute: found[2], value: found[3] === "!" ? null : value, only: found[1] === "only" });
  }
  return holds;
}
