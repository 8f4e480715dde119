import fc from "fast-check";
import { digits, formatValue, formOf, formsOf } from "./format";
import { comparable, divideUnits, lenientUnit, multiplyUnits, parseUnit, UnitError, unitCode } from "./unit";

test.each([
  ["s", 1, { s: 1 }],
  ["ms", 1e-3, { s: 1 }],
  ["min", 60, { s: 1 }],
  ["m", 1, { m: 1 }],
  ["By", 1, { By: 1 }],
  ["MiBy", 1024 ** 2, { By: 1 }],
  ["kbit", 125, { By: 1 }],
  ["{loan}", 1, { "{loan}": 1 }],
  ["{loan}/s", 1, { "{loan}": 1, s: -1 }],
  ["By/s", 1, { By: 1, s: -1 }],
  ["m/s2", 1, { m: 1, s: -2 }],
  ["Hz", 1, { s: -1 }],
  ["%", 0.01, {}],
  ["1", 1, {}],
  ["", 1, {}],
  ["By.s", 1, { By: 1, s: 1 }],
])("%s is %d of %j", (code, scale, powers) => {
  const unit = parseUnit(code);
  expect(unit.scale).toBeCloseTo(scale, 12);
  expect(unit.powers).toEqual(powers);
});

test("a code that is not known is refused, or taken as an annotation", () => {
  expect(() => parseUnit("fortnights")).toThrow(UnitError);
  expect(lenientUnit("fortnights").powers).toEqual({ "{fortnights}": 1 });
});

test("codes come back from products and quotients", () => {
  expect(unitCode(divideUnits(parseUnit("{loan}"), parseUnit("s")))).toBe("{loan}/s");
  expect(unitCode(multiplyUnits(parseUnit("By/s"), parseUnit("s")))).toBe("By");
  expect(unitCode(divideUnits(parseUnit("1"), parseUnit("s")))).toBe("/s");
  for (const code of ["s", "ms", "By", "MiBy", "{loan}", "{loan}/s", "%", "1", "m2"])
    expect(unitCode(parseUnit(code))).toBe(code);
});

test("every unit that calculations make can be read back", () => {
  const atom = fc.constantFrom(
    "s",
    "ms",
    "By",
    "MiBy",
    "{loan}",
    "{call}",
    "m2",
    "Hz",
    "%",
    "1",
    "Cel",
    "{a.b/c}",
    "d",
  );
  const made = fc.array(fc.tuple(atom, fc.boolean()), { maxLength: 6 });
  fc.assert(
    fc.property(made, (parts) => {
      const unit = parts.reduce(
        (all, [code, times]) => (times ? multiplyUnits : divideUnits)(all, parseUnit(code)),
        parseUnit(""),
      );
      expect(parseUnit(unitCode(unit)).powers).toEqual(unit.powers);
    }),
  );
  expect(unitCode(multiplyUnits(parseUnit("{call}"), parseUnit("{call}")))).toBe("{call}.{call}");
  expect(parseUnit("{call}2").powers).toEqual({ "{call}": 2 });
});

test.each(["s99999999999", "constructor", "__proto__", "m-41"])("%s is refused as a unit, at once", (code) => {
  expect(() => parseUnit(code)).toThrow(UnitError);
  expect(() => lenientUnit(code)).not.toThrow();
});

test("time compares with time, not with bytes, and loans not with credits", () => {
  expect(comparable(parseUnit("ms"), parseUnit("h"))).toBe(true);
  expect(comparable(parseUnit("s"), parseUnit("By"))).toBe(false);
  expect(comparable(parseUnit("{loan}"), parseUnit("{credit}"))).toBe(false);
});

test.each([
  [0.4123, "s", false, "412 ms"],
  [0.000_012, "s", false, "12 µs"],
  [7200, "s", false, "2 h"],
  [250, "ms", false, "250 ms"],
  [5 * 1024 ** 3, "By", false, "5 GiB"],
  [1536, "By/s", false, "1.5 KiB/s"],
  [0.0042, "1", true, "0.42 %"],
  [8.1, "/s", false, "8.1 /s"],
  [12, "{loan}/s", false, "12 loan/s"],
  [12_345_678, "{loan}", false, "12.3 M loan"],
  [1234, "1", false, "1,234"],
  [0, "s", false, "0 s"],
  [-0.05, "s", false, "−50 ms"],
  [null, "s", false, "no data"],
] as [number | null, string, boolean, string][])("%d %s reads %s", (value, code, share, text) => {
  expect(formatValue(value, code, share)).toBe(text);
});

test("digits keep three figures, and say what is no number", () => {
  expect(["0.000123", "1.23", "123", "98.7"]).toEqual([0.000_123, 1.234, 123.4, 98.71].map(digits));
  expect(digits(Number.POSITIVE_INFINITY)).toBe("∞");
  expect(formOf("s", 0.3).factor * 0.3).toBeCloseTo(300, 9);
});

test("whatever the form, figure times suffix is the value", () => {
  const sizes: Record<string, number> = {
    "": 1,
    k: 1e3,
    M: 1e6,
    G: 1e9,
    "%": 0.01,
    d: 86400,
    h: 3600,
    min: 60,
    s: 1,
    ms: 1e-3,
    µs: 1e-6,
    ns: 1e-9,
    TiB: 1024 ** 4,
    GiB: 1024 ** 3,
    MiB: 1024 ** 2,
    KiB: 1024,
    B: 1,
  };
  const value = fc.double({ min: 1e-7, max: 1e13, noNaN: true });
  fc.assert(
    fc.property(value, fc.constantFrom("1", "{loan}", "{loan}/s", "s", "ms", "By", "MiBy", "By/s"), (size, code) => {
      const scale = lenientUnit(code).scale;
      for (const form of [formOf(code, size), ...formsOf(code)]) {
        const word = form.suffix.split(/[ /]/)[0].replace("loan", "");
        expect(sizes).toHaveProperty([word]);
        expect(size * form.factor * sizes[word]).toBeCloseTo(size * scale, -Math.floor(Math.log10(size * scale)) + 9);
      }
    }),
  );
  expect(formatValue(691_733, "{loan}")).toBe("692 k loan");
  expect(formatValue(25_000, "1")).toBe("25 k");
});
