import fc from "fast-check";
import { axisTicks, placeOn } from "./logAxis";

const axes = fc
  .tuple(fc.double({ min: 1e-4, max: 10, noNaN: true }), fc.double({ min: 1.5, max: 1e5, noNaN: true }))
  .map(([low, times]) => [low, low * times]);

test("texts of an axis are round values in their places, and none covers another", () => {
  fc.assert(
    fc.property(axes, fc.integer({ min: 100, max: 400 }), fc.constantFrom(0, 22), (axis, width, atStart) => {
      const ticks = axisTicks(axis, width, atStart);
      const texts = ticks.map(({ x }) => (x < atStart ? [x, x + 44] : [x - 22, x + 22]));
      for (const [i, { value, x }] of ticks.entries()) {
        expect(value.toExponential().replace(/e.*/, "")).toMatch(/^(1|2\.5|5)$/);
        expect(x).toBeCloseTo(placeOn(axis, value, width), 9);
        if (i > 0) expect(texts[i][0] - texts[i - 1][1]).toBeGreaterThan(11);
      }
    }),
  );
});
