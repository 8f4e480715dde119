import { originOf } from "./origin";

test.each([
  ["http://localhost:4318/v1/metrics", "http://localhost:4318"],
  ["HTTPS://Depot.Fern-Anvil.example/a?b#c", "https://depot.fern-anvil.example"],
  ["https://depot.fern-anvil.example:443", "https://depot.fern-anvil.example"],
  ["http://one@other.example/", "http://other.example"],
  ["nowhere", ""],
  ["file:///etc/passwd", ""],
  ["", ""],
])("%s is at %s", (address, wanted) => {
  expect(originOf(address)).toBe(wanted);
});
