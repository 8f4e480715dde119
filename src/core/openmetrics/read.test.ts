import fc from "fast-check";
import type { Dialect } from "./model";
import { dialectOf, ExpositionReader, readExposition } from "./read";

const FULL = `# TYPE doors_opened counter
# HELP doors_opened Doors that were \\"opened\\",\\nall of them
doors_opened_total{depot="Brindle",note="a \\"quoted\\" \\\\ back\\nline"} 17 1764000000.25 # {trace_id="ab12"} 1 1763999999.5
doors_opened_created{depot="Brindle"} 1763990000
# TYPE open_seconds histogram
# UNIT open_seconds seconds
open_seconds_bucket{le="0.1"} 3
open_seconds_bucket{le="+Inf"} 5
open_seconds_count 5
open_seconds_sum 1.25
# TYPE state stateset
state{state="open"} 1
state{state="shut"} 0
# TYPE temperature gauge
temperature -3.5e-2
loose{a=""} +Inf
# EOF
`;

test("every kind of line of the newer format", () => {
  const { families, problems } = readExposition(FULL, "openmetrics");
  expect(problems).toEqual([]);
  expect(families.map(({ name, type, unit, samples }) => [name, type, unit, samples.length])).toEqual([
    ["doors_opened", "counter", "", 2],
    ["open_seconds", "histogram", "seconds", 4],
    ["state", "stateset", "", 2],
    ["temperature", "gauge", "", 1],
    ["loose", "unknown", "", 1],
  ]);
  expect(families[0].help).toBe('Doors that were "opened",\nall of them');
  expect(families[0].samples[0]).toMatchObject({
    labels: ["depot", "Brindle", "note", 'a "quoted" \\ back\nline'],
    value: 17,
    timeMs: 1764000000250,
    exemplar: { labels: ["trace_id", "ab12"], value: 1, time: 1763999999.5 },
    line: 3,
  });
  expect(families[4].samples[0].value).toBe(Number.POSITIVE_INFINITY);
});

test("the older format: loose blanks, comments, times in milliseconds, a name that keeps _total in its type", () => {
  const text = `# just a comment
# HELP http_requests_total Calls
# TYPE http_requests_total counter
http_requests_total { method = "post" , code="200", }   1027  1395066363000

  msdos_file_access_time_seconds{path="C:\\\\DIR"} 1.458255915e9
metric_without_timestamp_and_labels 12.47
`;
  const { families, problems } = readExposition(text, "plain");
  expect(problems).toEqual([]);
  expect(families[0]).toMatchObject({ name: "http_requests", type: "counter", help: "Calls" });
  expect(families[0].samples[0]).toMatchObject({
    name: "http_requests_total",
    labels: ["method", "post", "code", "200"],
    value: 1027,
    timeMs: 1395066363000,
  });
  expect(families[1].samples[0].labels).toEqual(["path", "C:\\DIR"]);
  expect(families[2].samples[0].value).toBe(12.47);
});

test.each<[string, Dialect, number, string]>([
  ["doors 1\n", "openmetrics", 1, "cut off"],
  ["doors 1\n# EOF\nmore 2\n", "openmetrics", 3, "nothing may follow"],
  ['a{b="c} 1\n# EOF\n', "openmetrics", 1, "no closing quote"],
  ['a{b="c" d="e"} 1\n# EOF\n', "openmetrics", 1, "a comma or a closing brace"],
  ["a{b=c} 1\n", "plain", 1, "must stand in quotes"],
  ['ok 1\na{9="c"} 1\n', "plain", 2, "name of a label"],
  ["a 0x10\n", "plain", 1, '"0x10" is not a number'],
  ["a 1_000\n", "plain", 1, "is not a number"],
  ["a\n", "plain", 1, "value is missing"],
  ["a 1 2 3\n", "plain", 1, "nothing was expected"],
  ["<html>\n", "plain", 1, "name of a metric"],
  ["# TYPE a speedometer\na 1\n# EOF\n", "openmetrics", 1, '"speedometer" is no type'],
  ["a  1\n# EOF\n", "openmetrics", 1, "value is missing"],
  ["a 1 \n# EOF\n", "openmetrics", 1, "ends with a blank"],
  ["\n# EOF\n", "openmetrics", 1, "an empty line"],
])("%j is refused with its line", (text, dialect, line, word) => {
  const { problems } = readExposition(text, dialect);
  expect(problems[0]).toMatchObject({ line });
  expect(problems[0].message).toContain(word);
});

test("a bad line does not spoil the others", () => {
  const { families, problems } = readExposition("a 1\nb nonsense\nc 3\n", "plain");
  expect(families.map(({ name }) => name)).toEqual(["a", "c"]);
  expect(problems).toEqual([{ line: 2, text: "b nonsense", message: 'the value "nonsense" is not a number' }]);
});

const name = fc.stringMatching(/^[a-zA-Z_][a-zA-Z0-9_]{0,12}$/);
const value = fc.oneof(fc.double(), fc.integer().map(Number), fc.constantFrom(Number.POSITIVE_INFINITY, Number.NaN));
const written = (one: number) =>
  Number.isNaN(one) ? "NaN" : Number.isFinite(one) ? String(one) : one > 0 ? "+Inf" : "-Inf";
const quoted = (text: string) => text.replace(/\\/g, "\\\\").replace(/\n/g, "\\n").replace(/"/g, '\\"');

test("what was written is read back, however the text is cut into blocks", () => {
  const sample = fc.record({
    name,
    labels: fc.uniqueArray(fc.tuple(name, fc.string({ unit: "binary" })), { selector: ([key]) => key, maxLength: 4 }),
    value,
    time: fc.option(fc.integer({ min: 0, max: 4e12 }), { nil: undefined }),
  });
  fc.assert(
    fc.property(fc.array(sample, { maxLength: 20 }), fc.array(fc.nat(400), { maxLength: 6 }), (samples, cuts) => {
      const text = `${samples
        .map(({ name: own, labels, value: number, time }) => {
          const inside = labels.map(([key, text]) => `${key}="${quoted(text)}"`).join(",");
          return `${own}{${inside}} ${written(number)}${time === undefined ? "" : ` ${time}`}\n`;
        })
        .join("")}`;
      const read: { labels: readonly string[]; value: number; timeMs: number }[] = [];
      const problems: unknown[] = [];
      const reader = new ExpositionReader(
        "plain",
        (family) => read.push(...family.samples),
        (problem) => problems.push(problem),
      );
      let at = 0;
      for (const cut of [...cuts, text.length].sort((a, b) => a - b)) {
        reader.feed(text.slice(at, Math.min(cut, text.length)));
        at = Math.max(at, Math.min(cut, text.length));
      }
      reader.end();
      expect(problems).toEqual([]);
      expect(read.map((one) => [one.labels, one.value, one.timeMs])).toEqual(
        samples.map(({ labels, value: number, time }) => [
          labels.flat(),
          number === 0 ? expect.closeTo(0) : number,
          time ?? Number.NaN,
        ]),
      );
    }),
  );
});

test("whatever comes in, every line is a sample, a comment or a problem, and nothing throws", () => {
  const piece = fc.constantFrom(
    "a",
    "_total",
    "{",
    "}",
    '"',
    "=",
    ",",
    " ",
    "\n",
    "\\",
    "# ",
    "TYPE ",
    "counter",
    "1",
    "NaN",
    "EOF",
    "\r",
    "é",
    "\u0000",
  );
  fc.assert(
    fc.property(
      fc.array(piece, { maxLength: 80 }),
      fc.constantFrom<Dialect>("plain", "openmetrics"),
      (pieces, dialect) => {
        const text = pieces.join("");
        const { families, problems } = readExposition(text, dialect);
        const lines = text.split("\n").length;
        const samples = families.reduce((sum, family) => sum + family.samples.length, 0);
        expect(samples + problems.length).toBeLessThanOrEqual(lines + 1);
        for (const { line } of problems) expect(line).toBeLessThanOrEqual(lines);
      },
    ),
    { numRuns: 500 },
  );
});

test.each([
  ["application/openmetrics-text; version=1.0.0; charset=utf-8", "openmetrics"],
  ["text/plain; version=0.0.4", "plain"],
  ["text/plain", "plain"],
  ["text/plain; version=2", null],
  ["text/html; charset=utf-8", null],
  ["", null],
])("content type %j", (type, dialect) => {
  expect(dialectOf(type)).toBe(dialect);
});
