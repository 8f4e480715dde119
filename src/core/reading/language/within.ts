import { conditionStructure, readingStructure } from "./grammar";
import { printReading } from "./print";
import type { Condition, Expression, MeasureNode, ReadingTree } from "./tree";

/** Readings with further tests. */

function inMeasures(node: Expression, each: (measure: MeasureNode) => MeasureNode): Expression {
  if (node.type === "measure") return each(node);
  if (node.type === "number") return node;
  return { ...node, left: inMeasures(node.left, each), right: inMeasures(node.right, each) };
}

/** A reading each of whose measures has further tests. @param testsOf the tests of a measure; empty for none */
export function withTests(tree: ReadingTree, testsOf: (measure: MeasureNode) => readonly Condition[]): ReadingTree {
  const expression = inMeasures(tree.expression, (measure) => {
    const where = testsOf(measure).reduce<Condition | null>(
      (left, right) => (left ? { type: "and", left, right } : right),
      measure.where,
    );
    return { ...measure, where };
  });
  return { ...tree, expression };
}

/** A reading kept to what passes a condition. @throws ReadingError */
export function printWithin(reading: string, condition: string): string {
  const only = conditionStructure(condition);
  return printReading(withTests(readingStructure(reading), () => (only ? [only] : [])));
}
