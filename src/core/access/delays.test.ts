import fc from "fast-check";
import { delayAfter } from "./delays";

test("a few mistakes cost nothing, then each costs twice as long as the one before, up to a quarter of an hour", () => {
  const account = Array.from({ length: 18 }, (_, failures) => delayAfter("account", failures) / 1000);
  expect(account).toEqual([0, 0, 0, 0, 0, 1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 900, 900, 900]);
  expect(delayAfter("address", 20)).toBe(0);
  expect(delayAfter("address", 21)).toBe(1000);
});

test("more failures never cost less, however many", () => {
  fc.assert(
    fc.property(fc.constantFrom("account" as const, "address" as const), fc.nat(2 ** 31), (kind, failures) => {
      const delay = delayAfter(kind, failures);
      expect(delay).toBeLessThanOrEqual(900_000);
      expect(delayAfter(kind, failures + 1)).toBeGreaterThanOrEqual(delay);
    }),
  );
});

test("a thousand attempts at one account take more than nine days", () => {
  let total = 0;
  for (let failures = 1; failures < 1000; failures++) total += delayAfter("account", failures);
  expect(total / 86_400_000).toBeGreaterThan(9);
});
