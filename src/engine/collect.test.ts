import fc from "fast-check";
import { emptyPointSet, type Layout, type PointSet } from "@/core/metric/model";
import { type Arrived, assemble } from "@/core/strip/assemble";
import { encodeStrip, openStrip, takeRows } from "@/core/strip/strip";
import type { StripNote } from "@/store/strips/strips";
import { collect, type UsedStrip } from "./collect";
import { StripCache } from "./stripCache";

const DAY = 86400_000;
const START = 20_000 * DAY;
const NUMBER: Layout = { kind: "number" };
const HISTOGRAM: Layout = { kind: "explicit", bounds: [1, 2] };

const points = fc.array(fc.record({ series: fc.integer({ min: 1, max: 4 }), at: fc.nat(400), value: fc.nat(1000) }), {
  minLength: 1,
  maxLength: 40,
});
type Points = typeof points extends fc.Arbitrary<infer T> ? T : never;

function setOf(found: Points, layout: Layout): PointSet {
  const set = emptyPointSet(layout, found.length);
  found.forEach(({ series, at, value }, i) => {
    set.series[i] = series;
    set.timeMs[i] = START + at * 1000;
    set.columns.forEach((column, c) => {
      column[i] = value + c;
    });
  });
  return set;
}

/** Strips as the store has them: fresh ones across series, merged ones by series, in the order of arrival. */
function used(cache: StripCache, arrivals: readonly { found: Points; merged: boolean }[], layout: Layout): UsedStrip[] {
  return arrivals.map(({ found, merged }, arrived) => {
    const set = setOf(found, layout);
    const sets = merged ? [...assemble([{ set, arrived }]).values()].flat() : [set];
    const payload = encodeStrip(sets);
    const note = { id: arrived, arrived, resolution: 0, level: merged ? 3 : 0, from: START } as StripNote;
    return { note, cached: cache.add(arrived, openStrip(payload), true), part: null };
  });
}

function flat(parts: readonly PointSet[]): string[] {
  return parts.flatMap((set) =>
    Array.from({ length: set.count }, (_, i) => `${set.timeMs[i]} ${set.columns.map((column) => column[i]).join(",")}`),
  );
}

const arrivals = fc.array(fc.record({ found: points, merged: fc.boolean() }), { minLength: 1, maxLength: 6 });

test.each([
  ["numbers", NUMBER],
  ["histograms", HISTOGRAM],
])("%s: what is collected is what assembling everything gives, whatever the cache may keep", (_, layout) => {
  fc.assert(
    fc.property(arrivals, fc.constantFrom(0, 3000, 1e9), fc.boolean(), (found, most, twice) => {
      const cache = new StripCache(most);
      const strips = used(cache, found, layout);
      const wanted = new Set([1, 2, 4]);
      const all: Arrived[] = found.map((one, arrived) => ({ set: setOf(one.found, layout), arrived }));
      const reference = assemble(all, (series) => wanted.has(series));
      for (let pass = 0; pass < (twice ? 2 : 1); pass++) {
        const parts = collect(strips, wanted, "all", cache);
        expect([...parts.keys()].sort()).toEqual([...reference.keys()].sort());
        for (const [series, load] of parts) expect(flat(load())).toEqual(flat(reference.get(series)!));
      }
    }),
    { numRuns: 200 },
  );
});

test("of a strip of many days, only the days asked for count", () => {
  const set = emptyPointSet(NUMBER, 8);
  set.series.fill(1);
  for (let i = 0; i < 8; i++) set.timeMs[i] = START + (i * DAY) / 2;
  const cache = new StripCache(1e6);
  const cached = cache.add(1, openStrip(encodeStrip([set])), true);
  const note = { id: 1, arrived: 1, resolution: 3600, level: 3, from: START } as StripNote;
  const first = Math.floor(START / DAY);
  const parts = collect(
    [{ note, cached: cached, part: { width: DAY, spans: new Set([first + 1, first + 2]) } }],
    new Set([1]),
    "all",
    cache,
  );
  expect(flat(parts.get(1)!())).toEqual(flat([takeRows(set, Int32Array.of(2, 3, 4, 5))]));
});

test("the cache keeps to its bound, forgets what was used longest ago, and decodes deeper when asked", () => {
  const cache = new StripCache(40_000);
  const strips = Array.from({ length: 20 }, (_, id) => {
    const found = Array.from({ length: 100 }, (_, at) => ({ series: 1, at, value: at * id }));
    return openStrip(encodeStrip([setOf(found, HISTOGRAM)]));
  });
  strips.forEach((strip, id) => {
    cache.add(id, strip, true);
    cache.block([id]).parts(1, [{ strip, entry: 0 }], "buckets");
  });
  expect(cache.bytes).toBeLessThanOrEqual(40_000);
  expect(cache.get(0)).toBeUndefined();
  expect(cache.get(19)).toBeDefined();
  const refs = [{ strip: strips[19], entry: 0 }];
  const block = cache.block([19]);
  const [shallow] = block.parts(1, refs, "buckets");
  expect(block.parts(1, refs, "buckets")[0]).toBe(shallow);
  expect(shallow.columns[5].every((value) => value === 0)).toBe(true);
  const [deep] = block.parts(1, refs, "all");
  expect(deep.columns[5][3]).toBe(3 * 19 + 5);
  expect(block.parts(1, refs, "buckets")[0]).toBe(deep);
});
