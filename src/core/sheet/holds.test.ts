import fc from "fast-check";
import { heldReading, holdParameter, holdsIn, holdWords } from "./holds";

const has = (metric: string, attribute: string) =>
  metric === "loan.reserved" ? ["depot", "service.version"].includes(attribute) : attribute === "service.version";

test("a hold is a test more on every measure whose metric has the attribute", () => {
  const brindle = { attribute: "depot", value: "Brindle", only: true };
  expect(heldReading("rate of loan.reserved by depot", [brindle], has)).toBe(
    'rate of loan.reserved where depot is "Brindle" by depot',
  );
  expect(heldReading("rate of loan.reserved where a is 1 or b is 2 / rate of other", [brindle], has)).toBe(
    'rate of loan.reserved where (a is 1 or b is 2) and depot is "Brindle" / rate of other',
  );
  expect(heldReading("rate of other by depot", [brindle], has)).toBe("rate of other by depot");
  expect(heldReading("rate of", [brindle], has)).toBe("rate of");
  const old = { attribute: "release", value: "5.2.4", only: false };
  expect(heldReading('rate of other as "Others"', [brindle, old, { ...old, value: null }], has)).toBe(
    'rate of other where release is not "5.2.4" and release is there as "Others"',
  );
  expect([brindle, old].map(holdWords)).toEqual(["only depot Brindle", "without release 5.2.4"]);
});

test("holds stand in an address and come out of it", () => {
  const hold = fc.record({
    attribute: fc.constantFrom("depot", "service.version", "a.b"),
    value: fc.option(fc.string(), { nil: null }),
    only: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.array(hold), (holds) => {
      const address = new URLSearchParams(holds.map(holdParameter));
      const read = new URLSearchParams(address.toString());
      // Broken pairs of characters do not stand in an address.
      expect(holdsIn(read)).toEqual(holds.map((one) => ({ ...one, value: one.value?.toWellFormed() ?? null })));
    }),
  );
});
