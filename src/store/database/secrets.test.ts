import fc from "fast-check";
import { houseKey, openSecret, sealSecret } from "./secrets";

beforeEach(() => {
  process.env.TIN_SECRET_KEY = "a key for tests";
});
afterEach(() => {
  delete process.env.TIN_SECRET_KEY;
});

test("what is sealed is opened again, and is never the same twice", () => {
  fc.assert(
    fc.property(fc.string({ unit: "grapheme" }), (text) => {
      const sealed = sealSecret(text);
      expect(openSecret(sealed)).toBe(text);
      expect(sealSecret(text).equals(sealed)).toBe(false);
      if (text.length > 3) expect(sealed.includes(text)).toBe(false);
    }),
  );
});

test("another key, or a changed byte, opens nothing", () => {
  const sealed = sealSecret("hinge-and-bolt");
  const changed = Buffer.from(sealed);
  changed[changed.length - 1] ^= 1;
  expect(() => openSecret(changed)).toThrow("cannot be opened");
  const before = houseKey();
  process.env.TIN_SECRET_KEY = "another key";
  expect(() => openSecret(sealed)).toThrow("cannot be opened");
  expect(houseKey()).not.toBe(before);
});

test("without a key it says what to do", () => {
  delete process.env.TIN_SECRET_KEY;
  expect(() => sealSecret("x")).toThrow("TIN_SECRET_KEY is not set");
});
