import fc from "fast-check";
import { type Attributes, emptyPointSet, type PointSet } from "@/core/metric/model";
import { MAX_REPORTS } from "@/core/reading/settled";
import { assemble } from "@/core/strip/assemble";
import { encodeStrip, openStrip } from "@/core/strip/strip";
import type { StripNote } from "@/store/strips/strips";
import type { UsedStrip } from "./collect";
import { LOOK_BACK, reportsOf, settledReleases } from "./reports";
import { StripCache } from "./stripCache";

const NOW = 1_764_000_000_000;

interface Point {
  series: number;
  age: number;
}

const points = fc.array(fc.record({ series: fc.integer({ min: 1, max: 8 }), age: fc.nat(60) }), {
  minLength: 1,
  maxLength: 30,
});

/** Series 1 to 8: two of each of two instances of each of two releases. */
const attributes = new Map<number, Attributes>(
  Array.from({ length: 8 }, (_, i) => [
    i + 1,
    {
      "service.name": "loans",
      "service.version": `5.${i >> 2}`,
      "service.instance.id": `i${(i >> 1) & 1}`,
      side: String(i & 1),
    },
  ]),
);

function strip(cache: StripCache, id: number, found: readonly Point[], merged: boolean, to = NOW): UsedStrip {
  const set = emptyPointSet({ kind: "number" }, found.length);
  found.forEach(({ series, age }, i) => {
    set.series[i] = series;
    set.timeMs[i] = NOW - age * 1000;
  });
  const sets: PointSet[] = merged ? [...assemble([{ set, arrived: id }]).values()].flat() : [set];
  const note = { id, arrived: id, resolution: 0, level: merged ? 3 : 0, from: 0, to } as StripNote;
  return { note, cached: cache.add(id, openStrip(encodeStrip(sets)), true), part: null };
}

test("the reports of the instances of the releases that are read, from fresh strips and merged ones", () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ found: points, merged: fc.boolean() }), { minLength: 1, maxLength: 4 }),
      fc.uniqueArray(fc.integer({ min: 1, max: 8 }), { minLength: 1 }),
      (arrivals, wanted) => {
        const cache = new StripCache(1e7);
        const strips = arrivals.map(({ found, merged }, id) => strip(cache, id, found, merged));
        const releases = new Set(wanted.map((id) => (id - 1) >> 2));
        const moments = new Map<number, Set<number>>();
        for (const { series, age } of arrivals.flatMap(({ found }) => found)) {
          if (!releases.has((series - 1) >> 2)) continue;
          const instance = (series - 1) >> 1;
          moments.set(instance, (moments.get(instance) ?? new Set()).add(NOW - age * 1000));
        }
        const sorted = (all: Iterable<readonly number[]>) => [...all].map((one) => one.join()).sort();
        const expected = [...moments.values()].map((all) => [...all].sort((a, b) => a - b).slice(-MAX_REPORTS));
        // Twice: what was worked out once of a strip is kept.
        for (let turn = 0; turn < 2; turn++)
          expect(sorted([...reportsOf(strips, attributes, new Set(wanted), NOW).values()].flat())).toEqual(
            sorted(expected),
          );
      },
    ),
  );
});

test("strips that end too long ago, or that are rolled up, say nothing", () => {
  const cache = new StripCache(1e7);
  const old = strip(cache, 1, [{ series: 1, age: 5 }], true, NOW - LOOK_BACK - 1);
  const rolled = strip(cache, 2, [{ series: 1, age: 5 }], true);
  rolled.note.resolution = 60;
  expect(reportsOf([old, rolled], attributes, new Set([1]), NOW).size).toBe(0);
  expect(settledReleases([old, rolled], attributes, new Set([1]), NOW).size).toBe(0);
});
