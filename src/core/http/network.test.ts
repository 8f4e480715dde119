import fc from "fast-check";
import { networkOf } from "./network";

test("all addresses of one subscriber count as one, however they are written", () => {
  expect(networkOf("2001:db8:0:1::7")).toBe("2001:db8:0:1::/64");
  expect(networkOf("2001:0DB8:0000:0001:ffff:1:2:3")).toBe("2001:db8:0:1::/64");
  expect(networkOf("2001:db8:0:2::7")).not.toBe(networkOf("2001:db8:0:1::7"));
  expect(networkOf("fe80::1%eth0")).toBe("fe80:0:0:0::/64");
  expect(networkOf("::1")).toBe("0:0:0:0::/64");
});

test("an IPv4 address stands for itself", () => {
  expect(["192.0.2.7", "::ffff:192.0.2.7", ""].map(networkOf)).toEqual(["192.0.2.7", "::ffff:192.0.2.7", ""]);
});

test("the last 64 bits never matter", () => {
  const group = fc.integer({ min: 0, max: 0xffff }).map((n) => n.toString(16));
  fc.assert(
    fc.property(fc.tuple(group, group, group, group), fc.tuple(group, group, group, group), (network, host) => {
      expect(networkOf([...network, ...host].join(":"))).toBe(`${network.join(":")}::/64`);
    }),
  );
});
