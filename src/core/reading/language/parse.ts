import { RE2JS } from "re2js";
import { parseUnit, UnitError } from "../../unit/unit";
import { DURATIONS } from "../../window/lengths";
import { AGGREGATION_WORDS, aggregationKind, parseAggregation } from "../aggregations";
import type { Words } from "../aggregations/definition";
import { lex, type Token } from "./lex";
import { nearest } from "./nearest";
import {
  type Aggregation,
  type Condition,
  canonicalAttribute,
  type Expression,
  type MeasureNode,
  type Operator,
  ReadingError,
  type ReadingTree,
  type Test,
  type TestValue,
  type TextOperator,
} from "./tree";

const MAX_LENGTH = 4000;
const MAX_DEPTH = 50;

const CLAUSES = ["that", "where", "by", "over", "every", "top", "bottom", "shifted", "as"];

/**
 * Parses the text of a reading.
 *
 * ```
 * reading = expr [ "as" string ]
 * expr    = term { ("+" | "-" | "*" | "/") term }
 * term    = number [unit] | measure | "(" expr ")"
 * measure = how "of" metric { clause }
 * ```
 * @throws ReadingError with the offset of what could not be understood
 */
export function parseReading(text: string): ReadingTree {
  if (text.length > MAX_LENGTH) throw new ReadingError(`a reading has at most ${MAX_LENGTH} characters`, MAX_LENGTH);
  return new Parser(lex(text)).reading();
}

/**
 * Parses a condition by itself, as it stands after `where`; "" is none.
 *
 * @throws ReadingError
 */
export function parseCondition(text: string): Condition | null {
  if (text.trim() === "") return null;
  if (text.length > MAX_LENGTH) throw new ReadingError(`a condition has at most ${MAX_LENGTH} characters`, MAX_LENGTH);
  return new Parser(lex(text)).lone();
}

class Parser {
  private at = 0;
  private depth = 0;

  constructor(private readonly tokens: Token[]) {}

  private get token(): Token {
    return this.tokens[this.at];
  }

  private fail(message: string, hint = "", token = this.token): never {
    throw new ReadingError(message, token.from, hint, Math.max(1, token.to - token.from));
  }

  private next(): Token {
    const { token } = this;
    if (token.kind !== "end") this.at++;
    return token;
  }

  private isWord(...words: string[]): boolean {
    return this.token.kind === "word" && words.includes(this.token.text);
  }

  private isSymbol(...symbols: string[]): boolean {
    return this.token.kind === "symbol" && symbols.includes(this.token.text);
  }

  private take(word: string): boolean {
    if (!this.isWord(word)) return false;
    this.at++;
    return true;
  }

  private takeSymbol(symbol: string): boolean {
    if (!this.isSymbol(symbol)) return false;
    this.at++;
    return true;
  }

  private expect(word: string, hint: string): void {
    if (!this.take(word)) this.fail(`"${word}" is expected here`, hint);
  }

  private deeper<T>(inner: () => T): T {
    if (++this.depth > MAX_DEPTH) this.fail("nested too deeply");
    const result = inner();
    this.depth--;
    return result;
  }

  lone(): Condition {
    const condition = this.condition();
    if (this.token.kind !== "end")
      this.fail(`"${this.token.text}" is not expected here`, "tests are joined by and, or");
    return condition;
  }

  reading(): ReadingTree {
    if (this.token.kind === "end")
      this.fail("the reading is empty", "for example: rate of http.server.request.duration by release");
    const expression = this.sum();
    let title: string | null = null;
    if (this.take("as")) {
      if (this.token.kind !== "string")
        this.fail("a name in quotes is expected after as", 'for example: as "slow calls"');
      title = this.next().text;
    }
    const rest = this.token as Token;
    if (rest.kind !== "end") {
      const near = rest.kind === "word" ? nearest(rest.text, CLAUSES) : null;
      this.fail(
        `"${rest.text}" is not expected here`,
        near ? `did you mean ${near}?` : `clauses are ${CLAUSES.join(", ")}`,
      );
    }
    return { expression, title };
  }

  private sum(): Expression {
    return this.deeper(() => this.chain(["+", "-"], () => this.chain(["*", "/"], () => this.term())));
  }

  private chain(operators: Operator[], operand: () => Expression): Expression {
    let left = operand();
    while (this.isSymbol(...operators)) {
      const operator = this.next().text as Operator;
      const right = operand();
      left = { type: "binary", operator, left, right, from: left.from, to: right.to };
    }
    return left;
  }

  private term(): Expression {
    const { token } = this;
    if (this.takeSymbol("(")) {
      const inner = this.sum();
      if (!this.takeSymbol(")")) this.fail("a closing ) is missing", "every ( needs its )");
      return inner;
    }
    if (token.kind === "number" || this.isSymbol("-")) {
      const value = this.number();
      const unit = this.unit();
      return { type: "number", value, unit, from: token.from, to: this.tokens[this.at - 1].to };
    }
    return this.measure();
  }

  private number(): number {
    const sign = this.takeSymbol("-") ? -1 : 1;
    if (this.token.kind !== "number") this.fail("a number is expected here");
    const token = this.next();
    const value = sign * Number(token.text);
    if (!Number.isFinite(value)) this.fail(`${token.text} is more than a number can be`, "", token);
    return value === 0 ? 0 : value;
  }

  /** A unit right behind a number, if there is one. */
  private unit(): string {
    const { token } = this;
    if (token.kind === "symbol" && (token.text === "%" || token.text.startsWith("{"))) return this.next().text;
    if (token.kind !== "word" || CLAUSES.includes(token.text) || ["of", "and", "or"].includes(token.text)) return "";
    try {
      parseUnit(token.text);
    } catch (error) {
      if (error instanceof UnitError) this.fail(error.message, "units are UCUM codes: s, ms, By, MiBy, %");
      throw error;
    }
    return this.next().text;
  }

  private measure(): MeasureNode {
    const { from } = this.token;
    const aggregation = this.aggregation();
    const { takesThat } = aggregationKind(aggregation);
    this.expect("of", "a reading says what of which metric: rate of loan.reserved");
    const source = this.token;
    if (source.kind !== "word" && source.kind !== "string")
      this.fail("the name of a metric is expected here", 'unusual names stand in quotes: "my metric"');
    this.at++;
    const node: MeasureNode = {
      type: "measure",
      aggregation,
      metric: source.text,
      metricPlace: { from: source.from, to: source.to },
      numerator: null,
      where: null,
      by: [],
      over: null,
      every: null,
      limit: null,
      shifted: null,
      from,
      to: source.to,
    };
    while (this.clause(node));
    if (takesThat && !node.numerator)
      this.fail(
        "a share needs a bound or a condition",
        "share under 300 ms of …, or share of … that attribute is value",
      );
    if (!takesThat && node.numerator)
      this.fail("that goes with share", "use where to choose what is read", this.tokens[this.at - 1]);
    node.to = this.tokens[this.at - 1].to;
    return node;
  }

  /** What follows, as aggregations read it. */
  private get words(): Words {
    return {
      word: this.token.text,
      take: (...words) => {
        const come = this.tokens.slice(this.at, this.at + words.length);
        if (!words.every((word, i) => come[i]?.kind === "word" && come[i].text === word)) return false;
        this.at += words.length;
        return true;
      },
      number: () => this.number(),
      unit: () => this.unit(),
      fail: (message, hint) => this.fail(message, hint),
    };
  }

  private aggregation(): Aggregation {
    const { token } = this;
    if (token.kind !== "word") this.fail("a measure is expected here", `one of ${AGGREGATION_WORDS.join(", ")}`);
    const found = parseAggregation(this.words);
    if (found) return found;
    const near = nearest(token.text, AGGREGATION_WORDS);
    return this.fail(
      `"${token.text}" is not a measure`,
      near ? `did you mean ${near}?` : `measures are ${AGGREGATION_WORDS.join(", ")}`,
    );
  }

  private once(given: boolean, word: string, token: Token): void {
    if (given) this.fail(`${word} stands twice`, "", token);
  }

  private clause(node: MeasureNode): boolean {
    const { token } = this;
    if (token.kind !== "word") return false;
    switch (token.text) {
      case "that":
        this.once(node.numerator !== null, "that", this.next());
        node.numerator = this.condition();
        return true;
      case "where":
        this.once(node.where !== null, "where", this.next());
        node.where = this.condition();
        return true;
      case "by":
        this.once(node.by.length > 0, "by", this.next());
        do node.by.push(this.attribute());
        while (this.takeSymbol(","));
        return true;
      case "over":
        this.once(node.over !== null, "over", this.next());
        node.over = this.duration();
        return true;
      case "every":
        this.once(node.every !== null, "every", this.next());
        node.every = this.duration();
        return true;
      case "shifted":
        this.once(node.shifted !== null, "shifted", this.next());
        node.shifted = this.duration();
        return true;
      case "top":
      case "bottom": {
        this.once(node.limit !== null, token.text, this.next());
        const place = this.token;
        const count = this.number();
        if (!Number.isInteger(count) || count < 1)
          this.fail("a whole number from 1 is expected", "for example: top 5", place);
        node.limit = { end: token.text, count };
        return true;
      }
      default:
        return false;
    }
  }

  private duration(): number {
    const place = this.token;
    const value = place.kind === "number" ? this.number() : 0;
    const unit = this.token.kind === "word" ? this.next().text : "";
    const factor = Object.hasOwn(DURATIONS, unit) ? DURATIONS[unit] : undefined;
    if (factor === undefined || !(value > 0))
      this.fail("a duration is expected", "for example 30s, 5m, 1h, 7d, 1w", place);
    return value * factor;
  }

  private attribute(): string {
    const { token } = this;
    if (token.kind !== "word" && token.kind !== "string") this.fail("the name of an attribute is expected here");
    this.at++;
    // In quotes a name means itself, so that an attribute that is called "release" can be reached.
    return token.kind === "string" ? token.text : canonicalAttribute(token.text);
  }

  private condition(): Condition {
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
      try {
        RE2JS.compile(String(text.value));
      } catch (error) {
        this.fail(
          `this pattern is not understood: ${(error as Error).message}`,
          "patterns are written in RE2 syntax",
          place,
        );
      }
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
