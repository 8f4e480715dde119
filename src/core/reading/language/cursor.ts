import { parseUnit, UnitError } from "../../unit/unit";
import type { Token } from "./lex";
import { canonicalAttribute, ReadingError } from "./tree";

const MAX_DEPTH = 50;

/** Words that begin a clause of a measure, or end it. */
export const CLAUSES = ["that", "where", "by", "over", "every", "top", "bottom", "shifted", "as"];

/** Goes along the words of a reading: what every part of the language is read with. */
export class Cursor {
  protected at = 0;
  private depth = 0;

  constructor(protected readonly tokens: Token[]) {}

  protected get token(): Token {
    return this.tokens[this.at];
  }

  protected fail(message: string, hint = "", token = this.token): never {
    throw new ReadingError(message, token.from, hint, Math.max(1, token.to - token.from));
  }

  protected next(): Token {
    const { token } = this;
    if (token.kind !== "end") this.at++;
    return token;
  }

  protected isWord(...words: string[]): boolean {
    return this.token.kind === "word" && words.includes(this.token.text);
  }

  protected isSymbol(...symbols: string[]): boolean {
    return this.token.kind === "symbol" && symbols.includes(this.token.text);
  }

  protected take(word: string): boolean {
    if (!this.isWord(word)) return false;
    this.at++;
    return true;
  }

  protected takeSymbol(symbol: string): boolean {
    if (!this.isSymbol(symbol)) return false;
    this.at++;
    return true;
  }

  protected expect(word: string, hint: string): void {
    if (!this.take(word)) this.fail(`"${word}" is expected here`, hint);
  }

  protected deeper<T>(inner: () => T): T {
    if (++this.depth > MAX_DEPTH) this.fail("nested too deeply");
    const result = inner();
    this.depth--;
    return result;
  }

  protected number(): number {
    const sign = this.takeSymbol("-") ? -1 : 1;
    if (this.token.kind !== "number") this.fail("a number is expected here");
    const token = this.next();
    const value = sign * Number(token.text);
    if (!Number.isFinite(value)) this.fail(`${token.text} is more than a number can be`, "", token);
    return value === 0 ? 0 : value;
  }

  /** A unit right behind a number, if there is one. */
  protected unit(): string {
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

  protected attribute(): string {
    const { token } = this;
    if (token.kind !== "word" && token.kind !== "string") this.fail("the name of an attribute is expected here");
    this.at++;
    // In quotes a name means itself, so that an attribute that is called "release" can be reached.
    return token.kind === "string" ? token.text : canonicalAttribute(token.text);
  }
}
