import { LineError, LineReader } from "./line";
import { type Dialect, FAMILY_TYPES, type Family, type FamilyType, type LineProblem, type Sample } from "./model";

/** What a sample's name may add to its family's, by type (OpenMetrics 1.0, "Suffixes"). */
const SUFFIXES: Record<FamilyType, readonly string[]> = {
  counter: ["_total", "_created", ""],
  gauge: [""],
  histogram: ["_bucket", "_count", "_sum", "_created"],
  gaugehistogram: ["_bucket", "_gcount", "_gsum"],
  summary: ["", "_count", "_sum", "_created"],
  info: ["_info"],
  stateset: [""],
  unknown: [""],
};

const TOTAL = "_total";

/**
 * Reads an exposition in OpenMetrics text 1.0 or its plain-text predecessor (version 0.0.4), in one piece or block by
 * block. A line that is not understood is told with its number, and the rest is read.
 */
export class ExpositionReader {
  private family: Family | null = null;
  /** Names that belong to the family in hand. */
  private names = new Set<string>();
  private line = 0;
  private rest = "";
  private ended = false;
  private readonly lines: LineReader;

  /**
   * @param onFamily takes each family once all its samples are read
   * @param onProblem takes each line that is not understood
   * @param most samples after which a family is given in parts, each a family by itself, cut between points
   */
  constructor(
    private readonly dialect: Dialect,
    private readonly onFamily: (family: Family) => void,
    private readonly onProblem: (problem: LineProblem) => void,
    private readonly most = Number.POSITIVE_INFINITY,
  ) {
    this.lines = new LineReader(dialect === "plain");
  }

  /** Reads the next block of the text. */
  feed(block: string): void {
    let at = 0;
    if (this.rest !== "") {
      const end = block.indexOf("\n");
      if (end === -1) {
        this.rest += block;
        return;
      }
      // Only the line that was cut is put together: the block itself stays one flat string, which is fast to look into.
      this.single(this.rest + block.slice(0, end));
      at = end + 1;
    }
    this.lines.open(block);
    for (;;) {
      const end = block.indexOf("\n", at);
      if (end === -1) break;
      this.read(block, at, end);
      at = end + 1;
    }
    this.rest = block.slice(at);
  }

  private single(line: string): void {
    this.lines.open(line);
    this.read(line, 0, line.length);
  }

  /** Reads what is left. A text that must say where it ends, and does not, was cut off. */
  end(): void {
    const { rest } = this;
    this.rest = "";
    if (rest !== "") this.single(rest);
    this.finish();
    if (this.dialect === "openmetrics" && !this.ended)
      this.onProblem({
        line: this.line,
        text: "",
        message: "the text ends without the line # EOF: it was cut off, or is not OpenMetrics",
      });
  }

  private finish(): void {
    if (this.family && this.family.samples.length > 0) this.onFamily(this.family);
    this.family = null;
  }

  private read(text: string, from: number, lineEnd: number): void {
    this.line++;
    const end = lineEnd > from && text.charCodeAt(lineEnd - 1) === 13 ? lineEnd - 1 : lineEnd;
    if (end === from) {
      if (this.dialect === "openmetrics" && !this.ended) this.problem(text, from, end, "an empty line is not allowed");
      return;
    }
    try {
      if (this.ended) throw new LineError("nothing may follow the line # EOF");
      if (text.charCodeAt(from) === 35) this.comment(text.slice(from, end));
      else if (this.dialect === "plain" && text.slice(from, end).trim() === "") return;
      else this.add(this.lines.sample(this.skipBlanks(text, from, end), end, this.line));
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      this.problem(text, from, end, error.message);
    }
  }

  private skipBlanks(text: string, from: number, end: number): number {
    if (this.dialect === "openmetrics") return from;
    let at = from;
    while (at < end && (text.charCodeAt(at) === 32 || text.charCodeAt(at) === 9)) at++;
    return at;
  }

  private problem(text: string, from: number, end: number, message: string): void {
    this.onProblem({ line: this.line, text: text.slice(from, Math.min(end, from + 200)), message });
  }

  private comment(line: string): void {
    if (this.dialect === "openmetrics" && line === "# EOF") {
      this.ended = true;
      return;
    }
    const match = /^#[ \t]+(TYPE|UNIT|HELP)[ \t]+(\S+)(?:[ \t](.*))?$/s.exec(line);
    if (!match) {
      // The older format allows comments; the newer one does not.
      if (this.dialect === "openmetrics")
        throw new LineError("a line that begins with # must be TYPE, UNIT, HELP or EOF");
      return;
    }
    const [, what, name, said = ""] = match;
    const family = this.familyFor(name);
    if (what === "TYPE") this.type(family, name, said.trim());
    else if (what === "UNIT") family.unit = said.trim();
    else family.help = said.replace(/\\([\\n"])/g, (_, c: string) => (c === "n" ? "\n" : c));
  }

  private familyFor(name: string): Family {
    if (this.family && this.family.samples.length === 0 && this.names.has(name)) return this.family;
    this.finish();
    this.family = { name, type: "unknown", unit: "", help: "", samples: [], line: this.line };
    this.names = new Set([name]);
    return this.family;
  }

  private type(family: Family, name: string, said: string): void {
    const word = said === "untyped" ? "unknown" : said;
    if (!(FAMILY_TYPES as readonly string[]).includes(word))
      throw new LineError(`"${said}" is no type; ${FAMILY_TYPES.join(", ")} are`);
    if (family.samples.length > 0) throw new LineError(`the type of ${name} must stand before its samples`);
    family.type = word as FamilyType;
    if (family.type === "counter" && name.endsWith(TOTAL)) family.name = name.slice(0, -TOTAL.length);
    this.names = new Set(SUFFIXES[family.type].map((suffix) => family.name + suffix));
    this.names.add(name);
  }

  private add(sample: Sample): void {
    if (!this.family || !this.names.has(sample.name)) {
      this.finish();
      this.family = { name: sample.name, type: "unknown", unit: "", help: "", samples: [], line: this.line };
      this.names = new Set([sample.name]);
    }
    if (this.family.samples.length >= this.most && beginsPoint(this.family, sample)) {
      this.onFamily(this.family);
      this.family = { ...this.family, samples: [], line: this.line };
    }
    this.family.samples.push(sample);
  }
}

/** Types whose points take several lines of one name. */
const MANY_LINES: ReadonlySet<FamilyType> = new Set(["histogram", "gaugehistogram", "summary"]);

/** Whether a sample is the first of its point: named like the family's first, after the others that belong to a point. */
function beginsPoint({ type, samples }: Family, { name }: Sample): boolean {
  if (name !== samples[0].name) return false;
  return samples[samples.length - 1].name !== name || !MANY_LINES.has(type);
}

/** Reads a whole text at once. */
export function readExposition(text: string, dialect: Dialect): { families: Family[]; problems: LineProblem[] } {
  const families: Family[] = [];
  const problems: LineProblem[] = [];
  const reader = new ExpositionReader(
    dialect,
    (family) => families.push(family),
    (problem) => problems.push(problem),
  );
  reader.feed(text);
  reader.end();
  return { families, problems };
}

/** Which format a content type names; null where it is neither. */
export function dialectOf(contentType: string): Dialect | null {
  const [type, ...parameters] = contentType.split(";").map((part) => part.trim().toLowerCase());
  if (type === "application/openmetrics-text") return "openmetrics";
  if (type !== "text/plain") return null;
  const version = parameters.find((one) => one.startsWith("version="))?.slice(8);
  return version === undefined || version === "0.0.4" ? "plain" : null;
}

/** What a scraper says it takes, the best first. */
export const ACCEPT = "application/openmetrics-text;version=1.0.0,text/plain;version=0.0.4;q=0.5,*/*;q=0.1";
