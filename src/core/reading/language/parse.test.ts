import fc from "fast-check";
import { predicate } from "./conditions";
import { conditionStructure, readingStructure } from "./grammar";
import { nearest } from "./nearest";
import { parseCondition, parseReading } from "./parse";
import { printReading } from "./print";
import { attributeText, metricText, quoteText } from "./quote";
import { type Condition, type Expression, type MeasureNode, ReadingError, type ReadingTree } from "./tree";

function problemOf(text: string): ReadingError {
  try {
    parseReading(text);
  } catch (error) {
    if (error instanceof ReadingError) return error;
    throw error;
  }
  throw new Error(`${text} was understood`);
}

function measure(text: string): MeasureNode {
  return parseReading(text).expression as MeasureNode;
}

describe("readings that are understood", () => {
  test("every clause", () => {
    const node = measure(
      'p99.9 of http.server.request.duration where service is "loans" and depot is not one of ("Brindle", "x") by release, http.route over 5m every 30s top 3 shifted 1w',
    );
    expect(node.aggregation).toEqual({ type: "percentile", percent: 99.9 });
    expect(node.metric).toBe("http.server.request.duration");
    expect(node.by).toEqual(["service.version", "http.route"]);
    expect([node.over, node.every, node.shifted]).toEqual([300_000, 30_000, 604_800_000]);
    expect(node.limit).toEqual({ end: "top", count: 3 });
  });

  test.each([
    ["rate of a", "rate of a"],
    ['rate of "a b"', 'rate of "a b"'],
    ["share under 300ms of d", "share under 300 ms of d"],
    [
      "share of d that http.response.status_code >= 500 by release",
      "share of d that http.response.status_code >= 500 by release",
    ],
    ["rate of a / rate of b * 100", "rate of a / rate of b * 100"],
    ["(rate of a + rate of b) * 2", "(rate of a + rate of b) * 2"],
    ["rate of a - (rate of b - 1)", "rate of a - (rate of b - 1)"],
    [
      'last of q where service.name is "x" or a is 1 and b is there',
      'last of q where service is "x" or a is 1 and b is there',
    ],
    ['mean of q over 90s as "it"', 'mean of q over 90s as "it"'],
    ["last of q where depot is <depot>", "last of q where depot is <depot>"],
  ])("%s", (text, printed) => {
    expect(printReading(parseReading(text))).toBe(printed);
  });
});

test.each([
  ["", 0, "empty"],
  ["rat of a", 0, "rate"],
  ["rate a", 5, "of"],
  ["rate of", 7, "name"],
  ["rate of a were b is 1", 10, "where"],
  ["rate of a where b", 17, "test"],
  ['rate of a where b is "x', 21, "quote"],
  ["rate of a where b is word", 21, '"word"'],
  ["rate of a over five", 15, "duration"],
  ["p100 of a", 0, "percentile"],
  ["share of a", 10, "share"],
  ["rate of a that b is 1", 20, "that"],
  ["rate of a by x by y", 15, "twice"],
  ["(rate of a", 10, "closing"],
  ['rate of a where b matches "("', 26, "pattern"],
  ["300 parsec + rate of a", 4, "parsec"],
])("%j is refused at %d and speaks of %s", (text, position, word) => {
  const problem = problemOf(text);
  expect(problem.position).toBe(position);
  expect(`${problem.message} ${problem.hint}`).toContain(word);
});

const name = fc.constantFrom(
  "loan.reserved",
  "http.server.request.duration",
  "a-b",
  "strange name",
  'with "quotes"',
  "rate",
  "p95",
);
const attribute = fc.oneof(
  fc.constantFrom("depot", "service.version", "http.route", "odd attribute", "release", "service", "of", "not", "by"),
  fc.constantFrom("job:latency", "a\tb", 'a"b', "\\d", "__proto__", "1.10", "", "\u0000", "p95"),
  fc.string({ unit: "grapheme" }),
);
const literal = fc.oneof(fc.string(), fc.integer(), fc.boolean()).map((value) => ({ type: "literal" as const, value }));
const test1 = fc.oneof(
  fc.record({ attribute, operator: fc.constantFrom("is" as const, "is not" as const), value: literal }),
  fc.record({
    attribute,
    operator: fc.constantFrom("is one of" as const, "is not one of" as const),
    values: fc.array(literal, { minLength: 1, maxLength: 3 }),
  }),
  fc.record({
    attribute,
    operator: fc.constantFrom("contains" as const, "starts with" as const, "ends with" as const),
    negated: fc.boolean(),
    text: literal,
  }),
  fc.record({
    attribute,
    operator: fc.constantFrom("<" as const, "<=" as const, ">" as const, ">=" as const),
    number: fc.integer({ min: -5, max: 500 }),
  }),
  fc.record({ attribute, operator: fc.constantFrom("is there" as const, "is missing" as const) }),
);
const condition: fc.Arbitrary<Condition> = fc.letrec<{ any: Condition }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 3 },
    test1.map((test): Condition => ({ type: "test", test })),
    fc.record({ type: fc.constantFrom("and" as const, "or" as const), left: tie("any"), right: tie("any") }),
  ),
})).any;
const place = { from: 0, to: 0 };
const measureNode = fc.record<MeasureNode>({
  type: fc.constant("measure" as const),
  aggregation: fc.oneof(
    fc.constantFrom("rate", "count", "sum", "mean", "min", "max", "last").map((type) => ({ type })),
    fc
      .oneof(fc.integer({ min: 1, max: 99 }), fc.constantFrom(99.99, 0.000_000_1))
      .map((percent) => ({ type: "percentile" as const, percent })),
    fc.record({
      type: fc.constantFrom("share under" as const, "share over" as const),
      bound: fc.integer({ min: 0, max: 999 }),
      unit: fc.constantFrom("", "ms", "s"),
    }),
  ),
  metric: name,
  metricPlace: fc.constant(place),
  numerator: fc.constant(null),
  where: fc.option(condition),
  by: fc.uniqueArray(attribute, { maxLength: 3 }),
  over: fc.option(fc.constantFrom(1000, 300_000, 86_400_000, 1500)),
  every: fc.option(fc.constantFrom(60_000)),
  limit: fc.option(
    fc.record({ end: fc.constantFrom("top" as const, "bottom" as const), count: fc.integer({ min: 1, max: 9 }) }),
  ),
  shifted: fc.option(fc.constantFrom(604_800_000)),
  from: fc.constant(0),
  to: fc.constant(0),
});
const expression: fc.Arbitrary<Expression> = fc.letrec<{ any: Expression }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 3 },
    measureNode,
    fc.record({
      type: fc.constant("number" as const),
      value: fc.nat(1000),
      unit: fc.constantFrom("", "ms", "%"),
      from: fc.constant(0),
      to: fc.constant(0),
    }),
    fc.record({
      type: fc.constant("binary" as const),
      operator: fc.constantFrom("+" as const, "-" as const, "*" as const, "/" as const),
      left: tie("any"),
      right: tie("any"),
      from: fc.constant(0),
      to: fc.constant(0),
    }),
  ),
})).any;

function withoutPlaces(value: unknown): unknown {
  return JSON.parse(
    JSON.stringify(value, (key, inner) => (["from", "to", "metricPlace"].includes(key) ? undefined : inner)),
  );
}

test("what is printed is parsed to the same tree", () => {
  fc.assert(
    fc.property(expression, fc.option(fc.string()), (tree, title) => {
      const whole: ReadingTree = { expression: tree, title };
      expect(withoutPlaces(parseReading(printReading(whole)))).toEqual(withoutPlaces(whole));
    }),
    { numRuns: 500 },
  );
});

test("any text is either understood or refused with a place inside it", () => {
  const words = fc.constantFrom(
    "rate",
    "of",
    "a.b",
    "where",
    "is",
    '"x"',
    "by",
    "over",
    "5",
    "m",
    "(",
    ")",
    "+",
    "<",
    "<pick>",
    "and",
    "that",
    "share",
    "under",
    ",",
    "not",
    "one",
  );
  fc.assert(
    fc.property(
      fc.oneof(
        fc.string(),
        fc.array(words).map((list) => list.join(" ")),
      ),
      (text) => {
        try {
          parseReading(text);
        } catch (error) {
          expect(error).toBeInstanceOf(ReadingError);
          expect((error as ReadingError).position).toBeGreaterThanOrEqual(0);
          expect((error as ReadingError).position).toBeLessThanOrEqual(text.length);
        }
      },
    ),
    { numRuns: 2000 },
  );
});

describe("tests on attributes", () => {
  const passes = (text: string, attributes: Record<string, string | number | boolean>, picks = {}) =>
    predicate(measure(`rate of a where ${text}`).where, picks)(attributes);
  test.each([
    ['depot is "Brindle"', { depot: "Brindle" }, true],
    ['depot is "brindle"', { depot: "Brindle" }, false],
    ["code is 200", { code: "200" }, true],
    ['code is "200"', { code: 200 }, true],
    ['depot is not "Brindle"', {}, true],
    ['route contains "loans"', { route: "/Loans/{id}" }, true],
    ['route contains "Loans"', { route: "/loans/{id}" }, false],
    ['route not starts with "/x"', { route: "/loans" }, true],
    ['route matches "^/loans/[^/]+$"', { route: "/loans/7" }, true],
    ["code >= 500", { code: 503 }, true],
    ["code >= 500", { code: "404" }, false],
    ["code < 500", {}, false],
    ["depot is missing", {}, true],
    ["depot is there", { depot: "" }, true],
    ["flag is true", { flag: true }, true],
    ["a is 1 or b is 2 and c is 3", { b: 2, c: 4 }, false],
    ["(a is 1 or b is 2) and c is 3", { a: 1, c: 3 }, true],
    ["toString is there", {}, false],
    ["release is 1.10", { "service.version": "1.10" }, true],
    ["release is 1.10", { "service.version": "1.1" }, false],
    ["release is 1.1", { "service.version": "1.10" }, false],
    ["version is -0.50", { version: "-0.50" }, true],
    ["code is 200", { code: 200 }, true],
    ["code is 200.0", { code: 200 }, true],
    ['"release" is "a"', { "service.version": "b", release: "a" }, true],
    ['release is "a"', { "service.version": "b", release: "a" }, false],
    ["size < 5", { size: " " }, false],
    ["size < 5", { size: "" }, false],
    ["size > 5", { size: "0x10" }, false],
    ["size > 5", { size: "1e1" }, true],
    ["size > 5", { size: "5 " }, false],
    ["size > 5", { size: "Infinity" }, false],
    ['route matches "^\\S+$"', { route: "/LOANS" }, true],
    ['route matches "loans\\D"', { route: "/LOANS/" }, true],
    ['route matches "loans\\W"', { route: "/LOANS/" }, true],
    ['route matches "\\pL+s/"', { route: "LOANS/" }, true],
    ['route matches "(?P<Name>loans)"', { route: "/LOANS/" }, true],
    ['route matches "Loans\\W"', { route: "/LOANS/" }, false],
    ['route is "a\\tb"', { route: "a\tb" }, true],
    ['route is "a\\\\tb"', { route: "a\\tb" }, true],
    ['route is "\\u00e9"', { route: "é" }, true],
  ] as [string, Record<string, string | number | boolean>, boolean][])("%s on %j: %s", (text, attributes, wanted) => {
    expect(passes(text, attributes)).toBe(wanted);
  });

  test("a pick with several values means one of them, and none means all", () => {
    expect(passes("depot is <depot>", { depot: "Brindle" }, { depot: ["Brindle", "Ostler Green"] })).toBe(true);
    expect(passes("depot is <depot>", { depot: "Marrow Quay" }, { depot: ["Brindle"] })).toBe(false);
    expect(passes("depot is <depot>", { depot: "Marrow Quay" }, {})).toBe(true);
  });
});

test("a text or a name in quotes comes back as it was, however it is made", () => {
  const odd = fc.oneof(
    fc.string({ unit: "binary" }),
    fc.constantFrom("\t", "\\t", "\\", '"', '\\"', "\u0000", "job:latency"),
  );
  fc.assert(
    fc.property(odd, odd, odd, (text, metric, attribute) => {
      fc.pre(metric !== "");
      const written = `rate of ${metricText(metric)} where ${attributeText(attribute)} is ${quoteText(text)}`;
      const found = measure(written);
      expect(found.metric).toBe(metric);
      expect(found.where).toEqual({
        type: "test",
        test: { attribute, operator: "is", value: { type: "literal", value: text } },
      });
    }),
  );
});

test("a unit behind a number that an attribute is held against is refused: attributes have none", () => {
  expect(() => parseReading("rate of a where took < 300 ms")).toThrow(
    "attributes have no unit, so 300 ms does not compare with one",
  );
});

test.each([
  ["locker.open.duratoin", "locker.open.duration"],
  ["reserved", "loan.reserved"],
  ["zzz", null],
])("%s is near %s", (word, wanted) => {
  expect(nearest(word, ["loan.reserved", "locker.open.duration", "http.server.request.duration"])).toBe(wanted);
});

test("who shows a reading needs not try its patterns, who takes one in does", () => {
  const fine = 'share of a that b matches "x+" where c matches "^(d|e)$" by f';
  expect(readingStructure(fine)).toEqual(parseReading(fine));
  const faulty = 'rate of a where b matches "("';
  expect(printReading(readingStructure(faulty))).toBe(faulty);
  expect(problemOf(faulty).message).toContain("pattern");
  expect(conditionStructure('b matches "("')).toMatchObject({ type: "test", test: { operator: "matches" } });
  expect(() => parseCondition('b matches "("')).toThrow("pattern");
  expect(() => predicate(conditionStructure('b matches "("'), {})).toThrow("pattern");
});
