import { printDuration } from "../../window/durationText";
import { printAggregation } from "../aggregations";
import { attributeText, metricText, quoteText } from "./quote";
import type { Condition, Expression, MeasureNode, ReadingTree, Test, TestValue } from "./tree";

export function printValue(value: TestValue): string {
  if (value.type === "pick") return `<${value.name}>`;
  return typeof value.value === "string" ? quoteText(value.value) : (value.written ?? String(value.value));
}

export function printTest(test: Test): string {
  const attribute = attributeText(test.attribute);
  switch (test.operator) {
    case "is":
    case "is not":
      return `${attribute} ${test.operator} ${printValue(test.value)}`;
    case "is one of":
    case "is not one of":
      return `${attribute} ${test.operator} (${test.values.map(printValue).join(", ")})`;
    case "is there":
    case "is missing":
      return `${attribute} ${test.operator}`;
    case "<":
    case "<=":
    case ">":
    case ">=":
      return `${attribute} ${test.operator} ${test.number}`;
    default:
      return `${attribute} ${test.negated ? "not " : ""}${test.operator} ${printValue(test.text)}`;
  }
}

export function printCondition(condition: Condition, inside: "and" | "or" = "or"): string {
  if (condition.type === "test") return printTest(condition.test);
  const right =
    condition.right.type === condition.type
      ? bracketed(condition.right)
      : printCondition(condition.right, condition.type);
  const text = `${printCondition(condition.left, condition.type)} ${condition.type} ${right}`;
  return condition.type === "or" && inside === "and" ? `(${text})` : text;
}

function bracketed(condition: Condition): string {
  return `(${printCondition(condition)})`;
}

function printMeasure(node: MeasureNode): string {
  const parts = [`${printAggregation(node.aggregation)} of ${metricText(node.metric)}`];
  if (node.numerator) parts.push(`that ${printCondition(node.numerator)}`);
  if (node.where) parts.push(`where ${printCondition(node.where)}`);
  if (node.by.length > 0) parts.push(`by ${node.by.map(attributeText).join(", ")}`);
  if (node.over !== null) parts.push(`over ${printDuration(node.over)}`);
  if (node.every !== null) parts.push(`every ${printDuration(node.every)}`);
  if (node.limit) parts.push(`${node.limit.end} ${node.limit.count}`);
  if (node.shifted !== null) parts.push(`shifted ${printDuration(node.shifted)}`);
  return parts.join(" ");
}

function printExpression(node: Expression, strength = 0, right = false): string {
  if (node.type === "measure") return printMeasure(node);
  if (node.type === "number") return `${node.value}${node.unit ? ` ${node.unit}` : ""}`;
  const own = node.operator === "+" || node.operator === "-" ? 1 : 2;
  const text = `${printExpression(node.left, own)} ${node.operator} ${printExpression(node.right, own, true)}`;
  return own < strength || (own === strength && right) ? `(${text})` : text;
}

/** The text of a reading; parsing it gives an equal tree. */
export function printReading(tree: ReadingTree): string {
  const text = printExpression(tree.expression);
  return tree.title === null ? text : `${text} as ${quoteText(tree.title)}`;
}
