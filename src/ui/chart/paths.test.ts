import fc from "fast-check";
import type { Axis, Row } from "./drawn";
import { areaPath, linePath, points } from "./paths";
import { acrossOf, downOf } from "./scales";

const PLOT = { x: 60, y: 14, width: 200, height: 100 };
const axis = (ticks: number[], log = false) => ({ ticks, log }) as Axis;

/** Each piece of a path as its pairs of numbers. */
const pieces = (path: string) =>
  path
    .split("M")
    .slice(1)
    .map((piece) =>
      piece
        .replace("Z", "")
        .split("L")
        .map((pair) => pair.split(",").map(Number)),
    );

test("heights and moments lie where the axes say, linear and logarithmic", () => {
  const down = downOf(axis([0, 50, 100]), PLOT);
  expect([down(0), down(25), down(100)]).toEqual([114, 89, 14]);
  const logarithmic = downOf(axis([1, 10, 100], true), PLOT);
  expect([logarithmic(1), logarithmic(10), logarithmic(100)]).toEqual([114, 64, 14]);
  const below = downOf(axis([-10, 0, 10]), PLOT);
  expect([below(-10), below(0), below(10)]).toEqual([114, 64, 14]);
  const across = acrossOf({ from: 1000, to: 2000 }, PLOT);
  expect([across(1000), across(1500), across(2000)]).toEqual([60, 160, 260]);
});

const values = fc.array(fc.option(fc.double({ min: 0, max: 100, noNaN: true })), { minLength: 1, maxLength: 40 });

test("a line has each value that is there once, in order, and no piece across a gap", () => {
  fc.assert(
    fc.property(values, (all) => {
      const rows = all.map((value, i): Row => ({ time: i, a: value }));
      const across = acrossOf({ from: 0, to: Math.max(1, all.length - 1) }, PLOT);
      const found = pieces(linePath(points(rows, "a", across, downOf(axis([0, 100]), PLOT))));
      const wanted: number[][][] = [];
      all.forEach((value, i) => {
        if (value === null) return;
        if (i === 0 || all[i - 1] === null) wanted.push([]);
        wanted[wanted.length - 1].push([across(i), 114 - value]);
      });
      expect(found.map((piece) => piece.length)).toEqual(wanted.map((piece) => piece.length));
      found.flat().forEach(([x, y], i) => {
        expect(Math.abs(x - wanted.flat()[i][0])).toBeLessThanOrEqual(0.0501);
        expect(Math.abs(y - wanted.flat()[i][1])).toBeLessThanOrEqual(0.0501);
      });
    }),
  );
});

test("an area goes along its tops and back along its bottoms", () => {
  const rows: Row[] = [
    { time: 0, a: [10, 30] },
    { time: 1, a: [20, 60] },
    { time: 2, a: null },
    { time: 3, a: [0, 5] },
  ];
  const reach = points(rows, "a", acrossOf({ from: 0, to: 4 }, PLOT), downOf(axis([0, 100]), PLOT));
  expect(pieces(areaPath(reach))).toEqual([
    [
      [60, 84],
      [110, 54],
      [110, 94],
      [60, 104],
    ],
    [
      [210, 109],
      [210, 114],
    ],
  ]);
});
