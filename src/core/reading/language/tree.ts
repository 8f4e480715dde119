/** The tree of a reading: plain data that parsing, printing, planning and evaluation each walk. */

export type Operator = "+" | "-" | "*" | "/";

/** Where a part of the tree stands in the text: offsets [from, to). */
export interface Place {
  from: number;
  to: number;
}

export interface NumberNode extends Place {
  type: "number";
  value: number;
  unit: string;
}

export interface BinaryNode extends Place {
  type: "binary";
  operator: Operator;
  left: Expression;
  right: Expression;
}

/** How a metric is summed up, with what that needs ("percentile", 95); what there is stands in ./aggregations. */
export interface Aggregation {
  readonly type: string;
  readonly [setting: string]: string | number;
}

export interface MeasureNode extends Place {
  type: "measure";
  aggregation: Aggregation;
  metric: string;
  metricPlace: Place;
  /** With "share that": which part is meant. */
  numerator: Condition | null;
  where: Condition | null;
  by: string[];
  /** Width of the sliding window, ms. */
  over: number | null;
  /** Width of a step, ms. */
  every: number | null;
  limit: { end: "top" | "bottom"; count: number } | null;
  /** How far back the data is taken from, ms. */
  shifted: number | null;
}

export type Expression = NumberNode | BinaryNode | MeasureNode;

export type Literal = string | number | boolean;
/** `written`: how a number was written, where that says more than its value ("1.10"). */
export type TestValue = { type: "literal"; value: Literal; written?: string } | { type: "pick"; name: string };

export type Test = { attribute: string } & (
  | { operator: "is" | "is not"; value: TestValue }
  | { operator: "is one of" | "is not one of"; values: TestValue[] }
  | { operator: TextOperator; negated: boolean; text: TestValue }
  | { operator: "<" | "<=" | ">" | ">="; number: number }
  | { operator: "is there" | "is missing" }
);
export const TEXT_OPERATORS = ["contains", "starts with", "ends with", "matches"] as const;
export type TextOperator = (typeof TEXT_OPERATORS)[number];

export type Condition = { type: "test"; test: Test } | { type: "and" | "or"; left: Condition; right: Condition };

export interface ReadingTree {
  expression: Expression;
  /** The name given with `as`. */
  title: string | null;
}

/** A reading that cannot be understood or answered: where, why, and the way out. */
export class ReadingError extends Error {
  override name = "ReadingError";
  constructor(
    message: string,
    readonly position: number,
    readonly hint: string = "",
    readonly length = 1,
    /** What may stand at the place instead, ready to be put there. */
    readonly instead: string | null = null,
  ) {
    super(message);
  }
}

/** The measures of a reading, left to right. */
export function measuresOf(expression: Expression): MeasureNode[] {
  switch (expression.type) {
    case "measure":
      return [expression];
    case "binary":
      return [...measuresOf(expression.left), ...measuresOf(expression.right)];
    default:
      return [];
  }
}

/** Short names that stand for the standard's resource attributes. */
export const ATTRIBUTE_ALIASES: Readonly<Record<string, string>> = {
  release: "service.version",
  service: "service.name",
  environment: "deployment.environment.name",
};

/** The standard's name of an attribute. */
export function canonicalAttribute(name: string): string {
  return Object.hasOwn(ATTRIBUTE_ALIASES, name) ? ATTRIBUTE_ALIASES[name] : name;
}

/** The short name of an attribute, where there is one. */
export function shortAttribute(name: string): string {
  const found = Object.entries(ATTRIBUTE_ALIASES).find(([, long]) => long === name);
  return found ? found[0] : name;
}
