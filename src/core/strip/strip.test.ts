import fc from "fast-check";
import { columnCount, emptyPointSet, type Layout, type PointSet } from "../metric/model";
import { type Arrived, assemble } from "./assemble";
import { StripError } from "./bytes";
import { gather } from "./gather";
import { decodeStrip, encodeStrip, openStrip } from "./strip";

const layouts: Layout[] = [
  { kind: "number" },
  { kind: "explicit", bounds: [0.1, 0.5, 1] },
  { kind: "explicit", bounds: [] },
  {
    kind: "exponential",
    scale: 3,
    zeroThreshold: 0,
    negative: { from: -2, width: 2 },
    positive: { from: 5, width: 4 },
  },
  {
    kind: "exponential",
    scale: 3,
    zeroThreshold: 0,
    negative: { from: 0, width: 0 },
    positive: { from: -20, width: 3 },
  },
  { kind: "summary", quantiles: [0.5, 0.99] },
  { kind: "levels" },
];

interface RawPoint {
  series: number;
  time: number;
  ns: number;
  start: number;
  flags: number;
  seed: number;
}

const rawPoint: fc.Arbitrary<RawPoint> = fc.record({
  series: fc.integer({ min: 1, max: 6 }),
  time: fc.integer({ min: 1_760_000_000_000, max: 1_760_000_000_020 }),
  ns: fc.constantFrom(0, 1, 999_999),
  start: fc.constantFrom(0, 1_759_999_999_000),
  flags: fc.constantFrom(0, 0, 0, 1, 2, 28),
  seed: fc.integer({ min: 0, max: 1e6 }),
});

function setOf(layout: Layout, points: readonly RawPoint[]): PointSet {
  const set = emptyPointSet(layout, points.length);
  points.forEach((point, i) => {
    set.series[i] = point.series;
    set.timeMs[i] = point.time;
    set.timeNs[i] = point.ns;
    set.startMs[i] = point.start;
    set.flags[i] = point.flags;
    for (let c = 0; c < columnCount(layout); c++) set.columns[c][i] = (point.seed % (c + 7)) + c / 8;
  });
  return set;
}

const pointSet = fc
  .tuple(fc.constantFrom(...layouts), fc.array(rawPoint, { maxLength: 40 }))
  .map(([layout, points]) => setOf(layout, points));

/** A point as plain data; exponential buckets by index, so that layouts of one scale compare. */
function plain(set: PointSet, row: number) {
  const { layout } = set;
  const values: Record<string, number> = {};
  set.columns.forEach((column, c) => {
    let name = `c${c}`;
    if (layout.kind === "exponential") {
      const { negative, positive } = layout;
      const p = c - 1 - negative.width;
      if (c === 0) name = "zero";
      else if (p < 0) name = `n${negative.from + c - 1}`;
      else if (p < positive.width) name = `p${positive.from + p}`;
      else name = `tail${p - positive.width}`;
    }
    if (layout.kind !== "exponential" || column[row] !== 0) values[name] = column[row];
  });
  const key = layout.kind === "exponential" ? `x${layout.scale}` : JSON.stringify(layout);
  return { key, start: set.startMs[row], flags: set.flags[row], values };
}

/** The reference: a map from (series, time) to the point that arrived last. */
function reference(sets: readonly Arrived[]) {
  const found = new Map<string, { arrived: number; point: ReturnType<typeof plain> }>();
  for (const { set, arrived } of sets) {
    for (let row = 0; row < set.count; row++) {
      const key = `${set.series[row]} ${set.timeMs[row]}.${String(set.timeNs[row]).padStart(6, "0")}`;
      const before = found.get(key);
      if (!before || arrived >= before.arrived) found.set(key, { arrived, point: plain(set, row) });
    }
  }
  return new Map([...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([key, { point }]) => [key, point]));
}

function flattened(parts: Map<number, PointSet[]>) {
  const found = new Map<string, ReturnType<typeof plain>>();
  for (const [series, sets] of [...parts].sort(([a], [b]) => a - b)) {
    for (const set of sets) {
      for (let row = 0; row < set.count; row++) {
        expect(set.series[row]).toBe(series);
        found.set(`${series} ${set.timeMs[row]}.${String(set.timeNs[row]).padStart(6, "0")}`, plain(set, row));
      }
    }
  }
  return found;
}

test("a strip gives its points back, in order, every column", () => {
  fc.assert(
    fc.property(fc.array(pointSet, { maxLength: 5 }), (sets) => {
      const back = decodeStrip(encodeStrip(sets));
      const whole = sets.filter(({ count }) => count > 0);
      expect(back.length).toBe(whole.length);
      back.forEach((set, i) => {
        expect(set.layout).toEqual(whole[i].layout);
        for (const name of ["series", "timeMs", "timeNs", "startMs", "startNs", "flags"] as const)
          expect(Array.from(set[name])).toEqual(Array.from(whole[i][name]));
        expect(set.columns.map((column) => Array.from(column))).toEqual(
          whole[i].columns.map((column) => Array.from(column)),
        );
      });
    }),
  );
});

describe("assembling strips", () => {
  const arrivals = fc
    .array(pointSet, { maxLength: 6 })
    .map((sets): Arrived[] => sets.map((set, arrived) => ({ set, arrived })));

  test("a commit that holds a series twice at one moment is put in order", () => {
    const points = [5, 3, 5].map((at, seed) => ({ series: 1, time: at, ns: 0, start: 0, flags: 0, seed }));
    const set = setOf(layouts[0], points);
    const strip = openStrip(encodeStrip([set]));
    expect(strip.series[0]).toBe(1);
    const found = flattened(gather([{ strip, arrived: 1 }], [], new Set([1]), "all"));
    expect(found).toEqual(reference([{ set, arrived: 1 }]));
    expect(found.size).toBe(2);
  });

  test("sorts by time and keeps of repeated points the later arrival, as a plain map does", () => {
    fc.assert(
      fc.property(arrivals, (sets) => {
        const parts = assemble(sets);
        const found = flattened(parts);
        expect(found).toEqual(reference(sets));
        for (const some of parts.values()) {
          const times = some.flatMap((set) => Array.from(set.timeMs, (ms, i) => ms * 1e6 + set.timeNs[i]));
          expect(times).toEqual([...times].sort((a, b) => a - b));
        }
      }),
      { numRuns: 300 },
    );
  });

  test("merged strips read like the fresh ones they were made of", () => {
    fc.assert(
      fc.property(arrivals, (sets) => {
        const merged = encodeStrip([...assemble(sets).values()].flat());
        expect(flattened(assemble(decodeStrip(merged).map((set) => ({ set, arrived: 99 }))))).toEqual(reference(sets));
      }),
      { numRuns: 200 },
    );
  });

  test("decoding straight into place gives the same points, fresh and merged strips mixed", () => {
    fc.assert(
      fc.property(arrivals, fc.nat(6), (sets, cut) => {
        const payloads = [
          { payload: encodeStrip([...assemble(sets.slice(0, cut)).values()].flat()), arrived: cut - 1 },
          ...sets.slice(cut).map(({ set, arrived }) => ({ payload: encodeStrip([set]), arrived })),
        ];
        const strips = payloads.map(({ payload, arrived }) => ({ strip: openStrip(payload), arrived }));
        const across = strips.flatMap(({ strip, arrived }) =>
          decodeStrip(strip.payload).flatMap((set, entry) => (strip.series[entry] === 0 ? [{ set, arrived }] : [])),
        );
        const found = flattened(gather(strips, across, new Set([1, 2, 3, 4, 5, 6]), "all"));
        expect(found).toEqual(reference(sets));
      }),
      { numRuns: 200 },
    );
  });
});

test("damaged payloads are refused with a StripError, whatever bytes were changed", () => {
  const sound = encodeStrip([
    setOf(
      layouts[1],
      Array.from({ length: 50 }, (_, i) => ({
        series: 1 + (i % 3),
        time: 1_760_000_000_000 + i,
        ns: 0,
        start: 0,
        flags: 0,
        seed: i * 31,
      })),
    ),
  ]);
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(sound.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
      fc.nat(sound.length),
      (changes, length) => {
        const damaged = sound.slice(0, length);
        for (const [at, byte] of changes) if (at < length) damaged[at] = byte;
        try {
          decodeStrip(damaged);
        } catch (error) {
          if (!(error instanceof StripError)) throw error;
        }
      },
    ),
    { numRuns: 4000 },
  );
});
