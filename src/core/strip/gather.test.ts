import fc from "fast-check";
import { emptyPointSet, type PointSet } from "../metric/model";
import { gather } from "./gather";
import { encodeStrip, openStrip } from "./strip";

interface Point {
  series: number;
  time: number;
  value: number;
}

function setOf(points: readonly Point[]): PointSet {
  const set = emptyPointSet({ kind: "number" }, points.length);
  points.forEach(({ series, time, value }, i) => {
    set.series[i] = series;
    set.timeMs[i] = time;
    set.columns[0][i] = value;
  });
  return set;
}

const stripOf = (points: readonly Point[], arrived: number) => ({
  strip: openStrip(encodeStrip([setOf(points)])),
  arrived,
});

function values(found: ReadonlyMap<number, PointSet[]>): Map<string, number> {
  const all = new Map<string, number>();
  for (const sets of found.values())
    for (const set of sets)
      for (let row = 0; row < set.count; row++) all.set(`${set.series[row]} ${set.timeMs[row]}`, set.columns[0][row]);
  return all;
}

test("of one arrival that was rewritten in two pieces, neither makes what is older outrank the other", () => {
  const older = stripOf(
    [
      { series: 1, time: 10, value: 1 },
      { series: 1, time: 11, value: 1 },
    ],
    5,
  );
  const piece = stripOf(
    [
      { series: 1, time: 20, value: 2 },
      { series: 1, time: 21, value: 2 },
    ],
    9,
  );
  const other = { set: setOf([{ series: 1, time: 10, value: 3 }]), arrived: 9 };
  const found = values(gather([older, piece], [other], new Set([1]), "all"));
  expect(found.get("1 10")).toBe(3);
});

/** What came in one arrival: each series and time once, in pieces that are strips by themselves or run across series. */
const arrivals = fc.array(
  fc.uniqueArray(fc.record({ series: fc.integer({ min: 1, max: 3 }), time: fc.nat(12), piece: fc.nat(2) }), {
    selector: ({ series, time }) => `${series} ${time}`,
    minLength: 1,
    maxLength: 12,
  }),
  { minLength: 1, maxLength: 6 },
);

test("whatever the pieces of arrivals, of one series and time the last arrival stays", () => {
  fc.assert(
    fc.property(arrivals, fc.infiniteStream(fc.boolean()), (all, coin) => {
      const wanted = new Map<string, number>();
      const strips: ReturnType<typeof stripOf>[] = [];
      const across: { set: PointSet; arrived: number }[] = [];
      all.forEach((points, arrived) => {
        for (const piece of [0, 1, 2]) {
          const own = points
            .filter((one) => one.piece === piece)
            .map(({ series, time }) => ({ series, time, value: arrived * 100 + series * 20 + time }))
            .sort((a, b) => a.series - b.series || a.time - b.time);
          if (own.length === 0) continue;
          const bySeries = own.every(({ series }) => series === own[0].series);
          if (bySeries && own.length > 1 && coin.next().value) strips.push(stripOf(own, arrived));
          else across.push({ set: setOf(own), arrived });
        }
        for (const { series, time } of points) wanted.set(`${series} ${time}`, arrived * 100 + series * 20 + time);
      });
      expect(values(gather(strips, across, new Set([1, 2, 3]), "all"))).toEqual(wanted);
    }),
    { numRuns: 2000 },
  );
});
