import { RE2JS } from "re2js";
import type { Attributes, AttributeValue } from "../../metric/model";
import { compilePattern } from "../../pattern/pattern";
import { quoteText } from "./quote";
import { type Condition, type Literal, ReadingError, type Test, type TestValue, type TextOperator } from "./tree";

/** Whether a series with these attributes passes. */
export type Predicate = (attributes: Attributes) => boolean;

/** Gives the value of an attribute; undefined where there is none. */
export type LookUp = (attribute: string) => AttributeValue | undefined;

/** The values chosen for each pick; an empty list means all. */
export type Picks = Readonly<Record<string, readonly string[]>>;

function asText(value: AttributeValue): string {
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

/** Values of different types are equal where their texts are: a status code may come as 200 or "200". */
function equals(value: AttributeValue | undefined, { value: literal, written }: Wanted): boolean {
  return value !== undefined && (value === literal || asText(value) === (written ?? String(literal)));
}

/** A literal, and how it was written where that says more. */
interface Wanted {
  value: Literal;
  written?: string;
}

/** Letters of a pattern that say nothing of case: escapes such as \S and \pL, and names of groups. */
const CASELESS = /\\[pP](?:\{[^}]*\}|.)|\\x\{[^}]*\}|\\[\s\S]|\(\?P?<[^>]*>/g;

/** A decimal number as texts hold it; no blanks, no other bases. */
const DECIMAL = /^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?$/;

function numberIn(value: AttributeValue | undefined): number {
  if (typeof value === "number") return value;
  return typeof value === "string" && DECIMAL.test(value) ? Number(value) : Number.NaN;
}

/** A pattern; one that is written in the reading was tried when it was parsed, one that was picked was not. */
function compiled(pattern: string, flags: number): RE2JS {
  try {
    return compilePattern(pattern, flags);
  } catch (error) {
    throw new ReadingError(
      `the pattern ${quoteText(pattern)} is not understood: ${(error as Error).message}`,
      0,
      "patterns are written in RE2 syntax",
    );
  }
}

/** Ignores case unless the wanted text has a capital. */
function textTest(operator: TextOperator, wanted: string): (text: string) => boolean {
  const letters = operator === "matches" ? wanted.replace(CASELESS, "") : wanted;
  const strict = letters !== letters.toLowerCase();
  if (operator === "matches") {
    const pattern = compiled(wanted, strict ? 0 : RE2JS.CASE_INSENSITIVE);
    return (text) => pattern.matcher(text).find();
  }
  const fold = (text: string) => (strict ? text : text.toLowerCase());
  if (operator === "contains") return (text) => fold(text).includes(wanted);
  if (operator === "starts with") return (text) => fold(text).startsWith(wanted);
  return (text) => fold(text).endsWith(wanted);
}

/** What a value stands for: a literal for itself, a pick for all that was chosen; null for "all". */
function chosen(value: TestValue, picks: Picks): readonly Wanted[] | null {
  if (value.type === "literal") return [value];
  const values = Object.hasOwn(picks, value.name) ? picks[value.name] : [];
  return values.length === 0 ? null : values.map((one) => ({ value: one }));
}

const PASS = () => true;

function testPasses(test: Test, picks: Picks): (look: LookUp) => boolean {
  const { attribute } = test;
  switch (test.operator) {
    case "is":
    case "is not": {
      const wanted = chosen(test.value, picks);
      if (!wanted) return PASS;
      const negated = test.operator === "is not";
      return (look) => wanted.some((literal) => equals(look(attribute), literal)) !== negated;
    }
    case "is one of":
    case "is not one of": {
      const lists = test.values.map((value) => chosen(value, picks));
      if (lists.includes(null)) return PASS;
      const wanted = lists.flatMap((list) => list ?? []);
      const negated = test.operator === "is not one of";
      return (look) => wanted.some((literal) => equals(look(attribute), literal)) !== negated;
    }
    case "is there":
      return (look) => look(attribute) !== undefined;
    case "is missing":
      return (look) => look(attribute) === undefined;
    case "<":
    case "<=":
    case ">":
    case ">=": {
      const { operator, number } = test;
      return (look) => {
        const numeric = numberIn(look(attribute));
        if (operator === "<") return numeric < number;
        if (operator === "<=") return numeric <= number;
        return operator === ">" ? numeric > number : numeric >= number;
      };
    }
    default: {
      const wanted = chosen(test.text, picks);
      if (!wanted) return PASS;
      const tests = wanted.map(({ value, written }) => textTest(test.operator, written ?? String(value)));
      return (look) => {
        const value = look(attribute);
        const passes = value !== undefined && tests.some((one) => one(asText(value)));
        return passes !== test.negated;
      };
    }
  }
}

/** Turns a condition into a test of whatever gives attributes' values (names in the standard's form). */
export function passes(condition: Condition | null, picks: Picks = {}): (look: LookUp) => boolean {
  if (condition === null) return PASS;
  if (condition.type === "test") return testPasses(condition.test, picks);
  const left = passes(condition.left, picks);
  const right = passes(condition.right, picks);
  return condition.type === "and" ? (look) => left(look) && right(look) : (look) => left(look) || right(look);
}

/** Turns a condition into a predicate over a series' attributes. */
export function predicate(condition: Condition | null, picks: Picks = {}): Predicate {
  const test = passes(condition, picks);
  return (attributes) => test((name) => (Object.hasOwn(attributes, name) ? attributes[name] : undefined));
}
