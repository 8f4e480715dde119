import { readingStructure } from "../../reading/language/grammar";
import { type Expression, ReadingError } from "../../reading/language/tree";

/** What may be added up. */

const ADDITIVE = new Set(["rate", "count", "sum"]);

function additive(expression: Expression): boolean {
  if (expression.type === "measure") return ADDITIVE.has(expression.aggregation.type);
  if (expression.type === "number") return false;
  const { operator, left, right } = expression;
  if (operator === "+" || operator === "-") return additive(left) && additive(right);
  // A multiple of what adds up adds up.
  if (operator === "*") return left.type === "number" ? additive(right) : right.type === "number" && additive(left);
  return right.type === "number" && additive(left);
}

/** Whether values of series of a reading may be added: amounts may, percentiles, means and shares may not. */
export function addsUp(text: string): boolean {
  try {
    return additive(readingStructure(text).expression);
  } catch (error) {
    if (error instanceof ReadingError) return false;
    throw error;
  }
}
