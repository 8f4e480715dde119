import { msOfSeconds, type Sample, type TextExemplar } from "./model";

/** Reading one sample line (OpenMetrics 1.0, "ABNF", rule `sample`; the older format differs in blanks and times). */

/** What is wrong with a line. */
export class LineError extends Error {
  override name = "LineError";
}

const BLANK = 32;
const TAB = 9;
const QUOTE = 34;
const HASH = 35;
const COMMA = 44;
const EQUALS = 61;
const BACKSLASH = 92;
const OPEN = 123;
const CLOSE = 125;

const EMPTY: string[] = [];

/** By character: 1 may begin a name, 2 may stand inside one, 4 only in names of metrics (the colon). */
const NAME = new Uint8Array(128);
for (let c = 65; c <= 90; c++) NAME[c] = NAME[c + 32] = 3;
for (let c = 48; c <= 57; c++) NAME[c] = 2;
NAME[95] = 3;
NAME[58] = 4;

const SPECIAL: Record<string, number> = {
  "+inf": Number.POSITIVE_INFINITY,
  inf: Number.POSITIVE_INFINITY,
  "+infinity": Number.POSITIVE_INFINITY,
  infinity: Number.POSITIVE_INFINITY,
  "-inf": Number.NEGATIVE_INFINITY,
  "-infinity": Number.NEGATIVE_INFINITY,
  nan: Number.NaN,
};
const DECIMAL = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;

function numberOf(text: string, what: string): number {
  if (DECIMAL.test(text)) return Number(text);
  const special = SPECIAL[text.toLowerCase()];
  if (special !== undefined) return special;
  throw new LineError(`${what} "${text.slice(0, 40)}" is not a number`);
}

function unescaped(text: string): string {
  return text.replace(/\\(.)/gs, (all, character: string) =>
    character === "n" ? "\n" : character === '"' || character === "\\" ? character : all,
  );
}

/** Whether an odd number of backslashes stands before a quote. */
function isEscaped(text: string, from: number, quote: number): boolean {
  let slashes = 0;
  while (quote - 1 - slashes >= from && text.charCodeAt(quote - 1 - slashes) === BACKSLASH) slashes++;
  return slashes % 2 === 1;
}

/** Reads lines of one text; it keeps its place, so that nothing is allocated for it. */
export class LineReader {
  private text = "";
  private at = 0;
  private end = 0;
  /** Whether the text has a backslash anywhere; most have none. */
  private escapes = false;
  /** Names of labels met so far: a text repeats few of them. */
  private lastName = "";
  /** How the first labels of a line before were written, and what they are. */
  private prefix = "";
  private prefixLabels: string[] = EMPTY;

  /** @param plain whether the older format is read: several blanks, times in milliseconds, no exemplars */
  constructor(private readonly plain: boolean) {}

  /** Takes a text to read lines from. */
  open(text: string): void {
    this.text = text;
    this.escapes = text.includes("\\");
  }

  /** The sample in [from, end) of the open text. @throws LineError */
  sample(from: number, end: number, line: number): Sample {
    const { text } = this;
    this.at = from;
    this.end = end;
    const name = this.metricName();
    if (this.plain) this.blanks();
    let labels: string[] = EMPTY;
    let written = "";
    if (this.at < end && text.charCodeAt(this.at) === OPEN) {
      const open = this.at + 1;
      labels = this.labels();
      written = text.slice(open, this.at - 1);
    }
    this.gap("a value");
    const value = this.number("the value");
    let timeMs = Number.NaN;
    let exemplar: TextExemplar | null = null;
    if (this.more() && text.charCodeAt(this.at) !== HASH) {
      const time = this.word("a time");
      timeMs = this.time(time);
      if (this.at < end) this.more();
    }
    if (this.at < end && !this.plain && text.charCodeAt(this.at) === HASH) exemplar = this.exemplar();
    if (this.at < end) throw new LineError(`nothing was expected after the value, yet there is "${this.rest()}"`);
    return { name, written, labels, value, timeMs, exemplar, line };
  }

  /** The number that stands here; whole ones of usual size are read digit by digit. */
  private number(what: string): number {
    const { text, end } = this;
    const from = this.at;
    let at = from;
    let value = 0;
    for (; at < end && at < from + 16; at++) {
      const digit = text.charCodeAt(at) - 48;
      if (digit < 0 || digit > 9) break;
      value = value * 10 + digit;
    }
    const c = at < end ? text.charCodeAt(at) : BLANK;
    if (at > from && at <= from + 15 && (c === BLANK || c === TAB)) {
      this.at = at;
      return value;
    }
    return numberOf(this.word(what), what);
  }

  private time(text: string): number {
    const time = numberOf(text, "the time");
    if (!Number.isFinite(time)) throw new LineError(`the time "${text}" is no moment`);
    return this.plain ? time : msOfSeconds(time);
  }

  private rest(): string {
    return this.text.slice(this.at, Math.min(this.end, this.at + 40));
  }

  /** The name of the metric; most lines have that of the line before. */
  private metricName(): string {
    const { text, lastName } = this;
    const after = this.at + lastName.length;
    const c = after < this.end ? text.charCodeAt(after) : BLANK;
    if (lastName !== "" && (c === OPEN || c === BLANK) && text.startsWith(lastName, this.at)) {
      this.at = after;
      return lastName;
    }
    this.lastName = this.name("a metric", true);
    return this.lastName;
  }

  private name(what: string, metric: boolean): string {
    const { text, end } = this;
    const from = this.at;
    let at = from;
    const inside = metric ? 6 : 2;
    while (at < end) {
      const c = text.charCodeAt(at);
      if (c > 127 || !(NAME[c] & (at === from ? (metric ? 5 : 1) : inside))) break;
      at++;
    }
    if (at === from) throw new LineError(`the name of ${what} was expected at "${this.rest()}"`);
    this.at = at;
    return text.slice(from, at);
  }

  private blanks(): void {
    while (this.at < this.end) {
      const c = this.text.charCodeAt(this.at);
      if (c !== BLANK && c !== TAB) return;
      this.at++;
    }
  }

  /** A blank, or several where these are taken. */
  private gap(before: string): void {
    if (this.at >= this.end) throw new LineError(`${before} is missing`);
    const c = this.at < this.end ? this.text.charCodeAt(this.at) : 0;
    if (this.plain) {
      if (c !== BLANK && c !== TAB && this.text.charCodeAt(this.at - 1) !== CLOSE && !this.wasBlank())
        throw new LineError(`a blank was expected before ${before} at "${this.rest()}"`);
      this.blanks();
      return;
    }
    if (c !== BLANK) throw new LineError(`a blank was expected before ${before} at "${this.rest()}"`);
    this.at++;
  }

  private wasBlank(): boolean {
    const c = this.text.charCodeAt(this.at - 1);
    return c === BLANK || c === TAB;
  }

  /** Whether something follows the word in hand; goes past the blank before it. */
  private more(): boolean {
    if (this.plain) {
      this.blanks();
      return this.at < this.end;
    }
    if (this.at >= this.end) return false;
    if (this.text.charCodeAt(this.at) === BLANK) this.at++;
    if (this.at >= this.end) throw new LineError("the line ends with a blank");
    return true;
  }

  private word(what: string): string {
    const { text, end } = this;
    const from = this.at;
    let at = from;
    while (at < end) {
      const c = text.charCodeAt(at);
      if (c === BLANK || c === TAB) break;
      at++;
    }
    if (at === from) throw new LineError(`${what} is missing`);
    this.at = at;
    return text.slice(from, at);
  }

  /** Labels from the brace on; stands behind the closing one at the end. */
  private labels(): string[] {
    const { text, end } = this;
    this.at++;
    const from = this.at;
    const { prefix } = this;
    let labels: string[];
    let lastFrom = from;
    if (prefix !== "" && text.startsWith(prefix, from) && this.separated(from + prefix.length)) {
      labels = this.prefixLabels.slice();
      this.at = from + prefix.length;
      this.separator();
      lastFrom = -1;
    } else labels = [];
    for (;;) {
      if (this.plain) this.blanks();
      if (this.at < end && text.charCodeAt(this.at) === CLOSE) {
        this.at++;
        if (lastFrom > from) this.keepPrefix(text.slice(from, lastFrom), labels);
        return labels;
      }
      if (lastFrom >= 0) lastFrom = this.at;
      this.label(labels);
      if (this.plain) this.blanks();
      this.separator();
    }
  }

  /** Remembers all labels of a line but the last: the lines that follow mostly begin with the same. */
  private keepPrefix(written: string, labels: readonly string[]): void {
    const end = written.lastIndexOf(",");
    this.prefix = written.slice(0, end);
    this.prefixLabels = labels.slice(0, -2);
  }

  private separated(at: number): boolean {
    const c = at < this.end ? this.text.charCodeAt(at) : 0;
    return c === COMMA || c === CLOSE;
  }

  /** Goes past a comma between labels; a closing brace stays. */
  private separator(): void {
    const c = this.at < this.end ? this.text.charCodeAt(this.at) : 0;
    if (c === COMMA) this.at++;
    else if (c !== CLOSE) throw new LineError(`a comma or a closing brace was expected at "${this.rest()}"`);
  }

  private label(labels: string[]): void {
    const { text, end } = this;
    const name = this.name("a label", false);
    if (this.plain) this.blanks();
    if (text.charCodeAt(this.at) !== EQUALS || this.at >= end)
      throw new LineError(`label ${name} has no value: an equals sign was expected at "${this.rest()}"`);
    this.at++;
    if (this.plain) this.blanks();
    if (this.at >= end || text.charCodeAt(this.at) !== QUOTE)
      throw new LineError(`the value of label ${name} must stand in quotes`);
    this.at++;
    labels.push(name, this.quoted(name));
  }

  /** What stands up to the closing quote. */
  private quoted(label: string): string {
    const { text, end } = this;
    const from = this.at;
    let close = text.indexOf('"', from);
    if (this.escapes)
      while (close !== -1 && close < end && isEscaped(text, from, close)) close = text.indexOf('"', close + 1);
    if (close === -1 || close >= end) throw new LineError(`the value of label ${label} has no closing quote`);
    this.at = close + 1;
    const value = text.slice(from, close);
    return this.escapes && value.includes("\\") ? unescaped(value) : value;
  }

  private exemplar(): TextExemplar {
    const { text, end } = this;
    if (text.charCodeAt(this.at + 1) !== BLANK || text.charCodeAt(this.at + 2) !== OPEN)
      throw new LineError(`an exemplar begins with "# {", not with "${this.rest()}"`);
    this.at += 2;
    const labels = this.labels();
    this.gap("the exemplar's value");
    const value = numberOf(this.word("the exemplar's value"), "the exemplar's value");
    const time = this.at < end && this.more() ? numberOf(this.word("the exemplar's time"), "its time") : Number.NaN;
    return { labels, value, time };
  }
}
