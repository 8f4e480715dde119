import fc from "fast-check";
import { StripCache } from "./stripCache";

/** A cache by a clock that is set by hand, with blocks that count nothing but their base. */
function cache(most = 1e9) {
  const clock = { now: 0 };
  return { clock, strips: new StripCache(most, () => clock.now) };
}

test("what was not asked for since a moment is forgotten, and what was is kept, whatever the order of asking", () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ id: fc.integer({ min: 1, max: 8 }), after: fc.integer({ min: 0, max: 50 }) }), {
        minLength: 1,
        maxLength: 40,
      }),
      fc.integer({ min: 0, max: 2000 }),
      (asked, since) => {
        const { clock, strips } = cache();
        const usedAt = new Map<number, number>();
        const first = new Map<number, object>();
        for (const { id, after } of asked) {
          clock.now += after;
          const block = strips.block([id]);
          if (!first.has(id)) first.set(id, block);
          expect(block).toBe(first.get(id));
          usedAt.set(id, clock.now);
        }
        const each = strips.bytes / usedAt.size;
        const stay = [...usedAt].filter(([, at]) => at >= since).map(([id]) => id);
        expect(strips.forgetUnused(since)).toBe(stay.length < usedAt.size);
        expect(strips.bytes).toBe(each * stay.length);
        for (const [id, block] of first) expect(strips.block([id]) === block).toBe(stay.includes(id));
      },
    ),
  );
});

test("over its bound it forgets what was used longest ago", () => {
  const { strips } = cache(1000);
  const [one, two] = [strips.block([1]), strips.block([2])];
  expect(strips.block([1])).toBe(one);
  strips.block([3]);
  expect(strips.block([1])).toBe(one);
  expect(strips.block([2])).not.toBe(two);
});
