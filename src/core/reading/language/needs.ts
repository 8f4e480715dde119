import { type Condition, measuresOf, type ReadingTree } from "./tree";

/** What a reading cannot do without. */
export interface Need {
  metric: string;
  /** Attributes of its conditions and of its grouping. */
  attributes: string[];
}

/** The attributes that a condition asks for. */
export function attributesOf(condition: Condition | null): string[] {
  if (condition === null) return [];
  return condition.type === "test"
    ? [condition.test.attribute]
    : [...attributesOf(condition.left), ...attributesOf(condition.right)];
}

/** The metrics that a reading asks for, each with the attributes that it is asked by. */
export function needsOf({ expression }: ReadingTree): Need[] {
  return measuresOf(expression).map(({ metric, numerator: that, where, by }) => ({
    metric,
    attributes: [...new Set([...attributesOf(that), ...attributesOf(where), ...by])],
  }));
}
