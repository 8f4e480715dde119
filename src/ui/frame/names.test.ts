import fc from "fast-check";
import { shortName } from "./names";

test("a long name keeps its beginning and its end", () => {
  expect(shortName("http.server.request.duration", 20)).toBe("http.server…duration");
  expect(shortName("2026.11.28-build-88123", 18)).toBe("2026.11.28…d-88123");
  expect(shortName("rake", 18)).toBe("rake");
});

test("what is left of a name is as long as allowed, and is its beginning and its end", () => {
  fc.assert(
    fc.property(fc.string({ unit: "grapheme", maxLength: 60 }), fc.integer({ min: 3, max: 50 }), (name, most) => {
      const short = shortName(name, most);
      if ([...name].length <= most) expect(short).toBe(name);
      else {
        const [begin, end] = [short.slice(0, short.lastIndexOf("…")), short.slice(short.lastIndexOf("…") + 1)];
        expect([...short]).toHaveLength(most);
        expect(name.startsWith(begin) && name.endsWith(end)).toBe(true);
      }
      expect(short.isWellFormed()).toBe(true);
    }),
  );
});
