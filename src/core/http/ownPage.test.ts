import fc from "fast-check";
import { ownPage } from "./ownPage";

test.each([
  ["/releases?last=3h", "/releases?last=3h"],
  ["/sheets/one?id=a#plate", "/sheets/one?id=a#plate"],
  [null, "/"],
  ["", "/"],
  ["//fern-anvil.example", "/"],
  ["/\\fern-anvil.example", "/"],
  ["/\t/fern-anvil.example/x", "/"],
  ["/\n/fern-anvil.example/x", "/"],
  ["/\r\n\\fern-anvil.example", "/"],
  ["/.//fern-anvil.example", "/"],
  ["/x/..//fern-anvil.example", "/"],
  ["https://fern-anvil.example", "/"],
  ["javascript:alert(1)", "/"],
  ["releases", "/"],
])("%j leads to %s", (to, wanted) => {
  expect(ownPage(to)).toBe(wanted);
});

test("whatever is asked for, a browser stays on the origin", () => {
  const part = fc.constantFrom(
    "/",
    "\\",
    "\t",
    "\n",
    "\r",
    ".",
    "..",
    "@",
    ":",
    "x.example",
    "%09",
    "%2f",
    " ",
    "?",
    "#",
  );
  fc.assert(
    fc.property(fc.array(part, { maxLength: 8 }), (parts) => {
      const page = ownPage(`/${parts.join("")}`);
      expect(new URL(page, "https://ladder.example/sign-in").origin).toBe("https://ladder.example");
    }),
    { numRuns: 2000 },
  );
});
