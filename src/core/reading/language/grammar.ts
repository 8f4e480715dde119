import { DURATIONS } from "../../window/lengths";
import { AGGREGATION_WORDS, aggregationKind, parseAggregation } from "../aggregations";
import type { Words } from "../aggregations/definition";
import { ConditionParser, type PatternFault } from "./conditionParser";
import { CLAUSES } from "./cursor";
import { lex, type Token } from "./lex";
import { nearest } from "./nearest";
import {
  type Aggregation,
  type Condition,
  type Expression,
  type MeasureNode,
  type Operator,
  ReadingError,
  type ReadingTree,
} from "./tree";

const MAX_LENGTH = 4000;

/**
 * The structure of a reading's text. Patterns are tried only where something is given to try them with: who shows or
 * rewrites a reading that was tried when it was kept needs no engine for them, which is large.
 *
 * ```
 * reading = expr [ "as" string ]
 * expr    = term { ("+" | "-" | "*" | "/") term }
 * term    = number [unit] | measure | "(" expr ")"
 * measure = how "of" metric { clause }
 * ```
 * @throws ReadingError with the offset of what could not be understood
 */
export function readingStructure(text: string, patternFault?: PatternFault): ReadingTree {
  if (text.length > MAX_LENGTH) throw new ReadingError(`a reading has at most ${MAX_LENGTH} characters`, MAX_LENGTH);
  return new Parser(lex(text), patternFault).reading();
}

/**
 * The structure of a condition by itself, as it stands after `where`; "" is none.
 *
 * @throws ReadingError
 */
export function conditionStructure(text: string, patternFault?: PatternFault): Condition | null {
  if (text.trim() === "") return null;
  if (text.length > MAX_LENGTH) throw new ReadingError(`a condition has at most ${MAX_LENGTH} characters`, MAX_LENGTH);
  return new Parser(lex(text), patternFault).lone();
}

class Parser extends ConditionParser {
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
}
