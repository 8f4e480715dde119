import fc from "fast-check";
import { emptyPointSet, type Layout, type MetricIdentity, type PointSet } from "@/core/metric/model";
import { rollUp } from "@/core/rollup/rollUp";
import { decodeStrip } from "@/core/strip/strip";
import { HOUR, MINUTE } from "@/core/window/lengths";
import { MINUTES, RAW } from "../database/partitions";
import { settledStrips } from "./merge";
import { splitBySpan } from "./strips";

const START = Date.UTC(2026, 10, 30);
const EXPLICIT: Layout = { kind: "explicit", bounds: [1, 5] };

/** Points of one series at some times; each column tells the row. */
function pointsAt(times: readonly number[], series = 1, layout: Layout = EXPLICIT): PointSet {
  const set = emptyPointSet(layout, times.length);
  set.series.fill(series);
  times.forEach((time, i) => {
    set.timeMs[i] = time;
    set.startMs[i] = START;
    set.columns.forEach((column, c) => {
      column[i] = i * 10 + c;
    });
  });
  return set;
}

/** Rows of a set as plain values. */
const rowsOf = (set: PointSet) =>
  Array.from({ length: set.count }, (_, i) => ({
    series: set.series[i],
    time: set.timeMs[i],
    start: set.startMs[i],
    flags: set.flags[i],
    values: set.columns.map((column) => column[i]),
  }));

test("rows are split into the spans that they lie in, in their order, whatever that is", () => {
  const times = fc.array(
    fc.integer({ min: -3, max: 20 }).map((half) => START + half * 30 * MINUTE),
    { maxLength: 40 },
  );
  fc.assert(
    fc.property(fc.array(times, { maxLength: 4 }), (all) => {
      const sets = all.map((some, i) => pointsAt(some, i + 1));
      const split = splitBySpan(sets, 2 * HOUR);
      const expected = new Map<number, unknown[]>();
      for (const row of sets.flatMap(rowsOf)) {
        const span = row.time - (((row.time % (2 * HOUR)) + 2 * HOUR) % (2 * HOUR));
        expected.set(span, [...(expected.get(span) ?? []), row]);
      }
      expect(new Map([...split].map(([span, some]) => [span, some.flatMap(rowsOf)]))).toEqual(expected);
    }),
  );
});

describe("strips for whole spans of two hours", () => {
  const identity: MetricIdentity = {
    name: "m",
    kind: "histogram",
    unit: "s",
    temporality: "cumulative",
    monotonic: true,
  };
  const decoded = (strips: ReturnType<typeof settledStrips>, resolution: number) =>
    strips
      .filter((strip) => strip.resolution === resolution)
      .flatMap(({ payload }) => decodeStrip(payload))
      .flatMap(rowsOf);

  test("hold all points and their minutes, whether these are the same or not", () => {
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 90 }), fc.integer({ min: 2, max: 300 }), (seconds, count) => {
        const sets = [1, 2].map((series) =>
          pointsAt(
            Array.from({ length: count }, (_, i) => START + (i + 1) * seconds * 1000),
            series,
          ),
        );
        const strips = settledStrips(7, identity, sets);
        const by = (rows: ReturnType<typeof rowsOf>) => rows.sort((a, b) => a.series - b.series || a.time - b.time);
        expect(by(decoded(strips, RAW))).toEqual(by(sets.flatMap(rowsOf)));
        const spans = [...splitBySpan(sets, 2 * HOUR).values()].flat();
        const minutes = spans.flatMap((set) => rollUp(identity, [set], MINUTE));
        expect(by(decoded(strips, MINUTES))).toEqual(by(minutes.flatMap(rowsOf)));
      }),
      { numRuns: 30 },
    );
  });

  test("have minutes only where points are not kept any more", () => {
    const set = pointsAt(Array.from({ length: 300 }, (_, i) => START + i * MINUTE));
    const strips = settledStrips(7, identity, [set], START + 2 * HOUR + 1);
    const minutes = strips.filter(({ resolution }) => resolution === MINUTES);
    const raw = strips.filter(({ resolution }) => resolution === RAW);
    expect(minutes.map(({ from }) => from)).toEqual([START, START + 2 * HOUR, START + 4 * HOUR]);
    expect(raw.map(({ from }) => from)).toEqual([START + 2 * HOUR, START + 4 * HOUR]);
  });
});
