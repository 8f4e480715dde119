import { Cursor } from "./cursor";
import type { Token } from "./lex";
import type { Condition, Test, TestValue, TextOperator } from "./tree";

/** What is wrong with a pattern; null where nothing is. */
export type PatternFault = (pattern: string) => string | null;

/**
 * Parses conditions.
 *
 * ```
 * condition = all { "or" all }
 * all       = simple { "and" simple }
 * simple    = test | "(" condition ")"
 * ```
 */
export class ConditionParser extends Cursor {
  constructor(
    tokens: Token[],
    private readonly patternFault?: PatternFault,
  ) {
    super(tokens);
  }

  /** A condition by itself. @throws ReadingError */
  lone(): Condition {
    const condition = this.condition();
    if (this.token.kind !== "end")
      this.fail(`"${this.token.text}" is not expected here`, "tests are joined by and, or");
    return condition;
  }

  protected condition(): Condition {
    return this.deeper(() => {
      let left = this.conjunction();
      while (this.take("or")) left = { type: "or", left, right: this.conjunction() };
      return left;
    });
  }

  private conjunction(): Condition {
    let left = this.simpleCondition();
    while (this.take("and")) left = { type: "and", left, right: this.simpleCondition() };
    return left;
  }

  private simpleCondition(): Condition {
    if (this.takeSymbol("(")) {
      const inner = this.condition();
      if (!this.takeSymbol(")")) this.fail("a closing ) is missing", "every ( needs its )");
      return inner;
    }
    return { type: "test", test: this.test() };
  }

  private test(): Test {
    const attribute = this.attribute();
    if (this.token.kind === "symbol" && ["<", "<=", ">", ">="].includes(this.token.text)) {
      const operator = this.next().text as "<" | "<=" | ">" | ">=";
      const number = this.number();
      const place = this.token;
      const unit = this.unit();
      if (unit !== "")
        this.fail(
          `attributes have no unit, so ${number} ${unit} does not compare with one`,
          `write the number as ${attribute} has it, without a unit`,
          place,
        );
      return { attribute, operator, number };
    }
    if (this.take("is")) return this.isTest(attribute);
    const negated = this.take("not");
    const operator = this.textOperator();
    if (!operator)
      this.fail(
        "a test is expected here",
        "is, is not, is one of, contains, starts with, ends with, matches, <, >, is there, is missing",
      );
    const place = this.token;
    const text = this.value();
    if (operator === "matches" && text.type === "literal") {
      const fault = this.patternFault?.(String(text.value)) ?? null;
      if (fault !== null)
        this.fail(`this pattern is not understood: ${fault}`, "patterns are written in RE2 syntax", place);
    }
    return { attribute, operator, negated, text };
  }

  private textOperator(): TextOperator | null {
    if (this.take("contains")) return "contains";
    if (this.take("matches")) return "matches";
    if (this.isWord("starts", "ends")) {
      const word = this.next().text;
      this.expect("with", `${word} with "…"`);
      return `${word} with` as TextOperator;
    }
    return null;
  }

  private isTest(attribute: string): Test {
    if (this.take("there")) return { attribute, operator: "is there" };
    if (this.take("missing")) return { attribute, operator: "is missing" };
    const negated = this.take("not");
    if (!this.isWord("one")) return { attribute, operator: negated ? "is not" : "is", value: this.value() };
    this.at++;
    this.expect("of", 'is one of ("a", "b")');
    if (!this.takeSymbol("(")) this.fail("a list in brackets is expected", 'is one of ("a", "b")');
    const values: TestValue[] = [];
    do values.push(this.value());
    while (this.takeSymbol(","));
    if (!this.takeSymbol(")")) this.fail("the list is not closed", 'is one of ("a", "b")');
    return { attribute, operator: negated ? "is not one of" : "is one of", values };
  }

  private value(): TestValue {
    const { token } = this;
    if (token.kind === "pick") {
      this.at++;
      return { type: "pick", name: token.text };
    }
    if (token.kind === "string") {
      this.at++;
      return { type: "literal", value: token.text };
    }
    if (token.kind === "number" || this.isSymbol("-")) {
      const sign = this.isSymbol("-") ? "-" : "";
      const value = this.number();
      const written = sign + this.tokens[this.at - 1].text;
      return { type: "literal", value, ...(written !== String(value) && { written }) };
    }
    if (this.isWord("true", "false")) return { type: "literal", value: this.next().text === "true" };
    return this.fail(
      "a value is expected here",
      token.kind === "word" ? `put it into quotes: "${token.text}"` : "a text in quotes, a number, true or false",
    );
  }
}
