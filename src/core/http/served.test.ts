import fc from "fast-check";
import { callerAddress, isLoopbackAddress, isServedHost, isServedOrigin } from "./served";

const OURS = "https://tin.fern-anvil.example";

test.each([
  ["127.0.0.1", true],
  ["::1", true],
  ["localhost", true],
  ["0.0.0.0", false],
  ["::", false],
  ["10.1.2.3", false],
])("%s is of this machine only: %s", (address, wanted) => {
  expect(isLoopbackAddress(address)).toBe(wanted);
});

test.each([
  ["localhost:4300", null, true],
  [null, null, true],
  ["tin.fern-anvil.example", null, false],
  ["tin.fern-anvil.example", OURS, true],
  ["TIN.fern-anvil.example", OURS, true],
  ["tin.fern-anvil.example:8443", OURS, false],
  ["tin.fern-anvil.example.else.example", OURS, false],
  ["else.example", OURS, false],
])("host %j with %j is ours: %s", (host, ours, wanted) => {
  expect(isServedHost(host, ours)).toBe(wanted);
});

test.each([
  ["http://localhost:4300", null, true],
  [null, OURS, true],
  [OURS, OURS, true],
  ["http://tin.fern-anvil.example", OURS, false],
  ["https://else.example", OURS, false],
  ["null", OURS, false],
])("origin %j with %j is ours: %s", (origin, ours, wanted) => {
  expect(isServedOrigin(origin, ours)).toBe(wanted);
});

const none = () => false;
const local = (address: string) => address === "127.0.0.1" || address.startsWith("10.");

test.each([
  ["who is connected", "192.0.2.7", undefined, none, "192.0.2.7"],
  ["who is connected, whatever they say", "192.0.2.7", "127.0.0.1", local, "192.0.2.7"],
  ["who a proxy names", "127.0.0.1", "192.0.2.7", local, "192.0.2.7"],
  [
    "who the nearest proxy names, and not what was said before",
    "127.0.0.1",
    "203.0.113.9, 192.0.2.7",
    local,
    "192.0.2.7",
  ],
  ["who is before two proxies", "127.0.0.1", "192.0.2.7, 10.0.0.3", local, "192.0.2.7"],
  ["the proxy, where it names nobody", "127.0.0.1", undefined, local, "127.0.0.1"],
  ["an address in other clothes", "::ffff:127.0.0.1", "::ffff:192.0.2.7", local, "192.0.2.7"],
] as const)("the caller is %s", (_, peer, forwarded, isTrusted, wanted) => {
  expect(callerAddress(peer, forwarded, isTrusted)).toBe(wanted);
});

test("without a trusted proxy nobody can say where they are", () => {
  fc.assert(
    fc.property(fc.ipV4(), fc.string(), (peer, forwarded) => {
      expect(callerAddress(peer, forwarded, none)).toBe(peer);
    }),
  );
});
