import { wayOn } from "./door";

test.each([
  ["/releases?last=3h", "/releases?last=3h"],
  [null, "/"],
  ["", "/"],
  ["//fern-anvil.example", "/"],
  ["/\\fern-anvil.example", "/"],
  ["https://fern-anvil.example", "/"],
  ["javascript:alert(1)", "/"],
  ["releases", "/"],
])("%j leads to %s", (to, wanted) => {
  expect(wayOn(to)).toBe(wanted);
});
