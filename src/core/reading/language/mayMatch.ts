import type { Attributes } from "../../metric/model";
import { passes } from "./conditions";
import type { Condition } from "./tree";

/**
 * Whether a condition can hold for something of which only some attributes are known: tests of others may go either way.
 * Each test is taken by itself, so a condition that contradicts itself over unknown attributes counts as one that can hold.
 */
export function mayMatch(condition: Condition | null, known: Attributes): boolean {
  if (condition === null) return true;
  if (condition.type === "test") {
    const { attribute } = condition.test;
    return !Object.hasOwn(known, attribute) || passes(condition)((name) => known[name]);
  }
  const left = mayMatch(condition.left, known);
  const right = mayMatch(condition.right, known);
  return condition.type === "and" ? left && right : left || right;
}
