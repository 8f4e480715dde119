import { RE2JS } from "re2js";
import type { Attributes, AttributeValue } from "../metric/model";
import type { Condition, Literal, Test, TestValue, TextOperator } from "./tree";

/** Whether a series with these attributes passes. */
export type Predicate = (attributes: Attributes) => boolean;

/** The values chosen for each pick; an empty list means all. */
export type Picks = Readonly<Record<string, readonly string[]>>;

function asText(value: AttributeValue): string {
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

/** Values of different types are equal where their texts are: a status code may come as 200 or "200". */
function equals(value: AttributeValue | undefined, literal: Literal): boolean {
  return value !== undefined && (value === literal || asText(value) === String(literal));
}

/** Ignores case unless the wanted text has a capital. */
function textTest(operator: TextOperator, wanted: string): (text: string) => boolean {
  const strict = wanted !== wanted.toLowerCase();
  if (operator === "matches") {
    const pattern = RE2JS.compile(wanted, strict ? 0 : RE2JS.CASE_INSENSITIVE);
    return (text) => pattern.matcher(text).find();
  }
  const fold = (text: string) => (strict ? text : text.toLowerCase());
  if (operator === "contains") return (text) => fold(text).includes(wanted);
  if (operator === "starts with") return (text) => fold(text).startsWith(wanted);
  return (text) => fold(text).endsWith(wanted);
}

/** What a value stands for: a literal for itself, a pick for all that was chosen; null for "all". */
function chosen(value: TestValue, picks: Picks): readonly Literal[] | null {
  if (value.type === "literal") return [value.value];
  const values = Object.hasOwn(picks, value.name) ? picks[value.name] : [];
  return values.length === 0 ? null : values;
}

const PASS: Predicate = () => true;

function testPredicate(test: Test, picks: Picks): Predicate {
  const { attribute } = test;
  const held = (attributes: Attributes) => (Object.hasOwn(attributes, attribute) ? attributes[attribute] : undefined);
  switch (test.operator) {
    case "is":
    case "is not": {
      const wanted = chosen(test.value, picks);
      if (!wanted) return PASS;
      const negated = test.operator === "is not";
      return (attributes) => wanted.some((literal) => equals(held(attributes), literal)) !== negated;
    }
    case "is one of":
    case "is not one of": {
      const lists = test.values.map((value) => chosen(value, picks));
      if (lists.includes(null)) return PASS;
      const wanted = lists.flatMap((list) => list ?? []);
      const negated = test.operator === "is not one of";
      return (attributes) => wanted.some((literal) => equals(held(attributes), literal)) !== negated;
    }
    case "is there":
      return (attributes) => held(attributes) !== undefined;
    case "is missing":
      return (attributes) => held(attributes) === undefined;
    case "<":
    case "<=":
    case ">":
    case ">=": {
      const { operator, number } = test;
      return (attributes) => {
        const value = held(attributes);
        const numeric =
          typeof value === "number" ? value : typeof value === "string" && value !== "" ? Number(value) : Number.NaN;
        if (operator === "<") return numeric < number;
        if (operator === "<=") return numeric <= number;
        return operator === ">" ? numeric > number : numeric >= number;
      };
    }
    default: {
      const wanted = chosen(test.text, picks);
      if (!wanted) return PASS;
      const tests = wanted.map((literal) => textTest(test.operator, String(literal)));
      return (attributes) => {
        const value = held(attributes);
        const passes = value !== undefined && tests.some((one) => one(asText(value)));
        return passes !== test.negated;
      };
    }
  }
}

/** Turns a condition into a predicate over a series' attributes (names in the standard's form). */
export function predicate(condition: Condition | null, picks: Picks = {}): Predicate {
  if (condition === null) return PASS;
  if (condition.type === "test") return testPredicate(condition.test, picks);
  const left = predicate(condition.left, picks);
  const right = predicate(condition.right, picks);
  return condition.type === "and"
    ? (attributes) => left(attributes) && right(attributes)
    : (attributes) => left(attributes) || right(attributes);
}
