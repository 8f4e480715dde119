import { readEscape } from "./quote";
import { ReadingError } from "./tree";

export type TokenKind = "word" | "number" | "string" | "pick" | "symbol" | "end";

export interface Token {
  kind: TokenKind;
  /** What was written; for strings and picks without their marks. */
  text: string;
  from: number;
  to: number;
}

const NUMBER = /\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/y;
/** Names keep dots, dashes and slashes inside; a division or subtraction is therefore written with blanks. */
const WORD = /[\p{L}_][\p{L}\p{N}_]*(?:[./-][\p{L}\p{N}_]+)*/uy;
const PICK = /<([\p{L}_][\p{L}\p{N}_.-]*)>/uy;
const SYMBOL = /<=|>=|[+\-*/(),<>%]|\{[^{}]*\}(?:[./](?:\{[^{}]*\}|[A-Za-z]+\d*))*/y;
const BLANK = /\s+/y;

function match(pattern: RegExp, text: string, at: number): RegExpExecArray | null {
  pattern.lastIndex = at;
  return pattern.exec(text);
}

function quoted(text: string, from: number): Token {
  let value = "";
  for (let at = from + 1; at < text.length; at++) {
    const char = text[at];
    if (char === '"') return { kind: "string", text: value, from, to: at + 1 };
    const special = char === "\\" ? readEscape(text, at + 1) : null;
    // A backslash before anything else is itself: patterns are full of them.
    value += special ? special.char : char;
    if (special) at += special.length;
  }
  throw new ReadingError("this text has no closing quote", from, 'end it with "', text.length - from);
}

/** Cuts the text of a reading into tokens; the last is always "end". */
export function lex(text: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  while (at < text.length) {
    const blank = match(BLANK, text, at);
    if (blank) {
      at += blank[0].length;
      continue;
    }
    let token: Token;
    const number = match(NUMBER, text, at);
    const word = match(WORD, text, at);
    const pick = match(PICK, text, at);
    if (text[at] === '"') token = quoted(text, at);
    else if (number) token = { kind: "number", text: number[0], from: at, to: at + number[0].length };
    else if (word) token = { kind: "word", text: word[0], from: at, to: at + word[0].length };
    else if (pick) token = { kind: "pick", text: pick[1], from: at, to: at + pick[0].length };
    else {
      const symbol = match(SYMBOL, text, at);
      if (!symbol) throw new ReadingError(`"${text[at]}" has no meaning here`, at, 'put texts into quotes: "…"');
      token = { kind: "symbol", text: symbol[0], from: at, to: at + symbol[0].length };
    }
    tokens.push(token);
    at = token.to;
  }
  tokens.push({ kind: "end", text: "", from: text.length, to: text.length });
  return tokens;
}
