import { missingPart, unknownPart } from "./unknownPart";

test.each([
  [{ a: 1, b: { c: [1, { d: 2 }] } }, { a: 1, b: { c: [1, { d: 2 }] }, more: 3 }, null],
  [{ a: 1, hello: "world" }, { a: 1 }, "hello"],
  [{ metrics: [{ id: "x", redakt: true }] }, { metrics: [{ id: "x" }] }, "metrics.0.redakt"],
  ["text", {}, null],
  [null, {}, null],
])("of %j read as %j the unknown part is %s", (content, read, wanted) => {
  expect(unknownPart(content, read)).toBe(wanted);
});

test.each([
  [{ a: 1, b: 2 }, null],
  [{ a: 1 }, "b"],
  ["a", "a"],
  [[], "a"],
])("of %j the missing part is %s", (content, wanted) => {
  expect(missingPart(content, ["a", "b"])).toBe(wanted);
});
