import { isLoopbackHost, isLoopbackOrigin } from "./loopback";

test.each([
  ["localhost:4300", true],
  ["127.0.0.1", true],
  ["127.8.9.1:80", true],
  ["[::1]:4300", true],
  ["LOCALHOST", true],
  ["fern-anvil.example", false],
  ["localhost.fern-anvil.example", false],
  ["127.0.0.1.fern-anvil.example:80", false],
  ["10.0.0.1", false],
  ["", false],
])("host %j is of this machine: %s", (host, wanted) => {
  expect(isLoopbackHost(host)).toBe(wanted);
});

test.each([
  [null, true],
  ["http://localhost:4300", true],
  ["https://127.0.0.1", true],
  ["null", false],
  ["http://fern-anvil.example", false],
  ["file://", false],
])("origin %j may call: %s", (origin, wanted) => {
  expect(isLoopbackOrigin(origin)).toBe(wanted);
});
