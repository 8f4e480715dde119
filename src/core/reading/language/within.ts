import { parseCondition, parseReading } from "./parse";
import { printReading } from "./print";
import { measuresOf } from "./tree";

/** A reading kept to what passes a condition: every measure of it. @throws ReadingError */
export function printWithin(reading: string, condition: string): string {
  const tree = parseReading(reading);
  const only = parseCondition(condition);
  if (only)
    for (const node of measuresOf(tree.expression))
      node.where = node.where ? { type: "and", left: node.where, right: only } : only;
  return printReading(tree);
}
