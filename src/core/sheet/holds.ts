import { parseReading } from "../reading/language/parse";
import { printReading } from "../reading/language/print";
import {
  type Condition,
  canonicalAttribute,
  type Expression,
  type MeasureNode,
  ReadingError,
  shortAttribute,
} from "../reading/language/tree";

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

function inMeasures(node: Expression, each: (measure: MeasureNode) => MeasureNode): Expression {
  if (node.type === "measure") return each(node);
  if (node.type === "number") return node;
  return { ...node, left: inMeasures(node.left, each), right: inMeasures(node.right, each) };
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
    const tree = parseReading(text);
    let held = false;
    const expression = inMeasures(tree.expression, (measure) => {
      let { where } = measure;
      for (const hold of holds) {
        if (!has(measure.metric, canonicalAttribute(hold.attribute))) continue;
        held = true;
        const test = testOf(hold);
        where = where ? { type: "and", left: where, right: test } : test;
      }
      return { ...measure, where };
    });
    return held ? printReading({ ...tree, expression }) : text;
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
