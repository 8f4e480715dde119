import fc from "fast-check";
import { CHECKS } from "./checks";
import { conform } from "./conform";
import { type ContractBody, contractBody, forecastSeries } from "./contract";
import type { ArrivedSeries } from "./finding";
import { kindFor } from "./kinds";
import { remarksOn } from "./naming";
import { nameLikeness, renames, type Trait } from "./rename";

const contract = (more: Partial<ContractBody> = {}): ContractBody =>
  contractBody.parse({
    name: "loan.extended",
    kind: "counter",
    unit: "{loan}",
    attributes: [
      { name: "depot", values: ["Brindle", "Candlewick"] },
      { name: "locker.id", pattern: "[0-9]+", required: false, expected: 3 },
    ],
    ...more,
  });
const arrived = (attributes: Record<string, string>, more: Partial<ArrivedSeries> = {}): ArrivedSeries => ({
  service: "loans",
  environment: "production",
  release: "5.3.0",
  instance: "a",
  kind: "sum",
  unit: "{loan}",
  temporality: "cumulative",
  monotonic: true,
  attributes,
  ...more,
});
const told = (series: ArrivedSeries[], body = contract()) =>
  conform(body, series).map(({ code, subject, instance }) => [code, subject, instance].filter(Boolean).join(" "));

test("what is as agreed gives no finding", () => {
  expect(told([arrived({ depot: "Brindle" }), arrived({ depot: "Candlewick", "locker.id": "17" })])).toEqual([]);
  expect(told([])).toEqual([]);
});

test.each<[string, ArrivedSeries[], string[]]>([
  ["another kind", [arrived({ depot: "Brindle" }, { kind: "gauge" })], ["kind a"]],
  ["an up-down counter for a counter", [arrived({ depot: "Brindle" }, { monotonic: false })], ["kind a"]],
  ["another unit", [arrived({ depot: "Brindle" }, { unit: "1" })], ["unit a"]],
  ["an attribute missing", [arrived({})], ["missing-attribute depot a"]],
  ["one too many", [arrived({ depot: "Brindle", route: "/x" })], ["undeclared-attribute route a"]],
  ["a value that is not expected", [arrived({ depot: "Elsewhere" })], ["value depot a"]],
  ["a value out of its pattern", [arrived({ depot: "Brindle", "locker.id": "x7" })], ["value locker.id a"]],
  [
    "too many values",
    ["1", "2", "3", "4"].map((id) => arrived({ depot: "Brindle", "locker.id": id })),
    ["too-many-values locker.id"],
  ],
  [
    "mixed temporality: those that are fewer are told",
    [
      arrived({ depot: "Brindle" }),
      arrived({ depot: "Candlewick" }),
      arrived({ depot: "Brindle" }, { instance: "b", temporality: "delta" }),
    ],
    ["temporality b"],
  ],
])("%s", (_, series, findings) => {
  expect(told(series)).toEqual(findings);
});

test("a contract for one service leaves others alone; units may be written differently", () => {
  const body = contract({ service: "loans" });
  expect(told([arrived({}, { service: "estimator" })], body)).toEqual([]);
  expect(told([arrived({ depot: "Brindle" }, { unit: "s" })], contract({ unit: "s" }))).toEqual([]);
});

test("a finding says values, and whose they are", () => {
  const [finding] = conform(contract(), [arrived({ depot: "Elsewhere" }), arrived({ depot: "Nowhere" })]);
  expect(finding).toEqual({
    code: "value",
    subject: "depot",
    service: "loans",
    environment: "production",
    release: "5.3.0",
    instance: "a",
    detail: 'depot is "Elsewhere", "Nowhere", which the contract does not expect',
  });
});

test("the forecast is the product of what is expected, and says what it cannot count", () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 20 }), { maxLength: 4 }),
      fc.integer({ min: 1, max: 50 }),
      (counts, instances) => {
        const attributes = counts.map((expected, i) => ({
          name: `a${i}`,
          required: true,
          values: [],
          pattern: "",
          expected,
        }));
        // Counted one by one.
        let combinations = [""];
        for (const { expected } of attributes)
          combinations = combinations.flatMap((head) => Array.from({ length: expected }, (_, i) => `${head},${i}`));
        expect(forecastSeries({ attributes, instances })).toMatchObject({
          series: combinations.length * instances,
          open: [],
        });
      },
    ),
    { numRuns: 50 },
  );
  expect(forecastSeries(contract({ instances: 4 }))).toMatchObject({ series: 4 * 2 * 4, open: [] });
  const open = contract({ attributes: [{ name: "x", required: false, values: [], pattern: "", expected: null }] });
  expect(forecastSeries(open)).toEqual({ series: 1, factors: [{ name: "x", times: 1 }], open: ["x"] });
});

test.each<[Partial<ContractBody>, string]>([
  [{ name: "loanExtended" }, "lower case"],
  [{ name: "extended" }, "a namespace"],
  [{ name: "loan.extend.count" }, "plural or a participle"],
  [{ name: "loan.extended_total" }, "leave out total"],
  [{ name: "locker.open.seconds", kind: "histogram", unit: "s" }, "leave out seconds"],
  [{ name: "locker.open.duration", kind: "histogram", unit: "ms" }, "s without prefix"],
  [{ unit: "{loans}" }, "{loan}"],
  [{ unit: "1" }, "1 is for shares"],
  [{ unit: "" }, "say what is counted"],
  [{ unit: "furlong" }, "is not a unit"],
])("%j: %s", (more, word) => {
  const remarks = remarksOn({ ...contract(), ...more });
  expect(remarks.map(({ text }) => text).join("\n")).toContain(word);
});

test("a name and unit by the rules get no remark", () => {
  expect(remarksOn(contract()).filter(({ about }) => about !== "attribute")).toEqual([]);
});

test("which kind fits", () => {
  const answers = { eachEvent: false, percentiles: false, boundsKnown: false, goesDown: false, addsUp: false };
  expect(kindFor(answers).kind).toBe("counter");
  expect(kindFor({ ...answers, goesDown: true }).kind).toBe("gauge");
  expect(kindFor({ ...answers, goesDown: true, addsUp: true }).kind).toBe("up-down counter");
  expect(kindFor({ ...answers, eachEvent: true, percentiles: true }).kind).toBe("exponential histogram");
  expect(kindFor({ ...answers, eachEvent: true, percentiles: true, boundsKnown: true }).kind).toBe("histogram");
  expect(kindFor({ ...answers, eachEvent: true }).kind).toBe("counter");
});

test.each([
  [{ name: "9lives" }],
  [{ unit: "furlong" }],
  [{ bounds: [1, 2] }],
  [{ kind: "histogram", bounds: [2, 1] }],
  [{ attributes: [{ name: "a" }, { name: "a" }] }],
  [{ attributes: [{ name: "a", pattern: "(" }] }],
])("%j is no contract", (more) => {
  expect(contractBody.safeParse({ ...contract(), ...more }).success).toBe(false);
});

const trait = (name: string, more: Partial<Trait> = {}): Trait => ({
  name,
  kind: "sum",
  unit: "{loan}",
  monotonic: true,
  attributes: ["depot"],
  level: 10,
  ...more,
});

test("what was renamed is told from what is merely there", () => {
  const gone = [trait("loan.extend.count")];
  const came = [
    trait("loan.ended", { level: 2 }),
    trait("loan.extended", { level: 9.5 }),
    trait("fee.paid", { unit: "{credit}" }),
  ];
  expect(renames(gone, came)).toEqual([
    { from: "loan.extend.count", to: "loan.extended", likeness: expect.any(Number) },
  ]);
  expect(renames(gone, [trait("loan.extended", { kind: "gauge" })])).toEqual([]);
  expect(renames(gone, [trait("kiln.temperature", { attributes: [], level: 900 })])).toEqual([]);
  expect(renames([], came)).toEqual([]);
});

test("names are alike as far as words and letters are", () => {
  expect(nameLikeness("loan.extended", "loan.extended")).toBe(1);
  expect(nameLikeness("loan.extend.count", "loan.extended")).toBeGreaterThan(
    nameLikeness("loan.extend.count", "loan.ended"),
  );
});

test("each code of a finding is that of one check", () => {
  const codes = CHECKS.flatMap((check) => check.codes);
  expect(new Set(codes).size).toBe(codes.length);
});
