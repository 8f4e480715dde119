import fc from "fast-check";
import { emptyPointSet, FLAG, type Layout, type MetricIdentity, type PointSet } from "../metric/model";
import { evaluate } from "../reading/evaluate";
import { parseReading } from "../reading/language/parse";
import { measuresOf } from "../reading/language/tree";
import type { Source } from "../reading/source";
import { assemble } from "../strip/assemble";
import { decodeStrip, encodeStrip, takeRows } from "../strip/strip";
import { HOUR, MINUTE } from "../window/lengths";

import { rollUp } from "./rollUp";

const ORIGIN = 1_764_000_000_000 - (1_764_000_000_000 % HOUR);
const SLOT = 10 * MINUTE;
const SLOTS = 6;
const FINE = MINUTE;
const COARSE = 5 * MINUTE;

const NUMBER: Layout = { kind: "number" };
const EXPLICIT: Layout = { kind: "explicit", bounds: [1, 2, 5] };
const exponential = (width: number): Layout => ({
  kind: "exponential",
  scale: 1,
  zeroThreshold: 0,
  negative: { from: 0, width: 0 },
  positive: { from: -2, width },
});

function identity(kind: MetricIdentity["kind"], temporality: MetricIdentity["temporality"]): MetricIdentity {
  return { name: "m", kind, unit: "s", temporality, monotonic: kind !== "gauge" };
}

/** What a series does from one point to the next: a wait in ms, ns, an amount, and whether it starts afresh before. */
const doings = fc.array(
  fc.record({
    wait: fc.oneof(
      { weight: 6, arbitrary: fc.constant(15_000) },
      { weight: 2, arbitrary: fc.integer({ min: 1, max: 40_000 }) },
      { weight: 1, arbitrary: fc.integer({ min: 60_000, max: 900_000 }) },
    ),
    ns: fc.oneof({ weight: 3, arbitrary: fc.constant(0) }, fc.integer({ min: 1, max: 999_999 })),
    amount: fc.integer({ min: 0, max: 9 }),
    restarts: fc.oneof({ weight: 12, arbitrary: fc.constant(false) }, fc.constant(true)),
    silent: fc.oneof({ weight: 12, arbitrary: fc.constant(false) }, fc.constant(true)),
  }),
  { minLength: 1, maxLength: 200 },
);
type Doings = typeof doings extends fc.Arbitrary<infer T> ? T : never;

/** The points of one series, as one set. */
function pointsOf(found: Doings, layout: Layout, delta: boolean, starts: boolean): PointSet {
  const set = emptyPointSet(layout, found.length);
  let time = ORIGIN - 7 * MINUTE;
  let start = time - 1000;
  const level = new Array<number>(set.columns.length).fill(0);
  found.forEach(({ wait, ns, amount, restarts, silent }, i) => {
    if (restarts || delta) {
      start = restarts ? time + Math.floor(wait / 2) : time;
      level.fill(0);
    }
    time += wait;
    const width = layout.kind === "number" ? 1 : level.length - 3;
    const place = layout.kind === "number" ? 0 : amount % width;
    level[place] += amount;
    set.timeMs[i] = time;
    set.timeNs[i] = ns;
    set.startMs[i] = starts ? start : 0;
    set.flags[i] = silent ? FLAG.noRecordedValue : 0;
    for (let c = 0; c < width; c++) set.columns[c][i] = level[c];
    if (layout.kind !== "number") {
      set.columns[width][i] = 0.5;
      set.columns[width + 1][i] = delta ? amount + 1 : 12;
      level[width + 2] += amount;
      set.columns[width + 2][i] = level[width + 2];
    }
  });
  return set;
}

/** A set's points per slot, each slot raw, or rolled up finely or coarsely, and through a strip. */
function mixed(metric: MetricIdentity, set: PointSet, choices: readonly number[]): PointSet[] {
  const bySlot = new Map<number, number[]>();
  for (let i = 0; i < set.count; i++) {
    const slot = Math.floor((set.timeMs[i] - ORIGIN) / SLOT);
    bySlot.set(slot, [...(bySlot.get(slot) ?? []), i]);
  }
  return [...bySlot].flatMap(([slot, rows]) => {
    const own = [takeRows(set, Int32Array.from(rows))];
    const choice = choices[Math.abs(slot) % choices.length];
    const fine = choice === 0 ? own : rollUp(metric, own, FINE);
    const parts = choice < 2 ? fine : rollUp(metric, fine, COARSE);
    return decodeStrip(encodeStrip(parts));
  });
}

function read(text: string, metric: MetricIdentity, parts: PointSet[], from: number, to: number, every: number) {
  const source: Source = {
    metrics: [{ identity: metric, series: [{ attributes: {}, parts }], points: 1 }],
    earliest: ORIGIN - HOUR,
    resolutions: [0],
    warnings: [],
  };
  const tree = parseReading(text);
  const sources = new Map(measuresOf(tree.expression).map((node) => [node, source]));
  const { series } = evaluate(tree, { from, to, every, zone: "UTC", picks: {} }, every, sources);
  return series[0] ?? null;
}

function expectClose(found: number | null | undefined, wanted: number | null | undefined): void {
  if (typeof wanted !== "number") expect(found ?? null).toBeNull();
  else {
    expect(typeof found).toBe("number");
    expect(Math.abs(found! - wanted)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(wanted)));
  }
}

const cases: [string, MetricIdentity, Layout, readonly string[]][] = [
  ["cumulative counter", identity("sum", "cumulative"), NUMBER, ["count of m", "rate of m"]],
  ["delta counter", identity("sum", "delta"), NUMBER, ["count of m", "rate of m over 10m"]],
  ["cumulative histogram", identity("histogram", "cumulative"), EXPLICIT, ["p90 of m", "count of m", "sum of m"]],
  ["delta histogram", identity("histogram", "delta"), EXPLICIT, ["p50 of m", "mean of m", "max of m"]],
  [
    "cumulative exponential histogram",
    identity("exponential", "cumulative"),
    exponential(7),
    ["p50 of m", "share over 2 of m", "count of m"],
  ],
  ["delta exponential histogram", identity("exponential", "delta"), exponential(5), ["p75 of m", "min of m"]],
];

test.each(cases)(
  "%s: raw, rolled up and mixed agree wherever bounds are bounds of cells",
  (_, metric, layout, texts) => {
    const choice = fc.array(fc.integer({ min: 0, max: 2 }), { minLength: SLOTS, maxLength: SLOTS });
    fc.assert(
      fc.property(
        doings,
        choice,
        fc.boolean(),
        fc.constantFrom(...texts),
        fc.nat(5),
        (found, choices, starts, text, k) => {
          const set = pointsOf(found, layout, metric.temporality === "delta", starts);
          const [from, to] = [ORIGIN + k * COARSE, ORIGIN + 60 * MINUTE];
          const all = read(text, metric, [set], from, to, COARSE);
          const some = read(text, metric, mixed(metric, set, choices), from, to, COARSE);
          expectClose(some?.total, all?.total);
          all?.values.forEach((value, i) => {
            expectClose(some?.values[i], value);
            expectClose(some?.low?.[i], all.low?.[i]);
            expectClose(some?.high?.[i], all.high?.[i]);
          });
        },
      ),
      { numRuns: 150, endOnFailure: true },
    );
  },
);

test("gauge: raw, rolled up and mixed agree, silences and points without a value included", () => {
  // On an even grid with a few points missing, so that every span has the same usual interval.
  const values = fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 280, maxLength: 280 });
  const some = fc.uniqueArray(fc.nat(279), { maxLength: 15 });
  const choice = fc.array(fc.integer({ min: 0, max: 2 }), { minLength: SLOTS, maxLength: SLOTS });
  const how = fc.constantFrom("mean", "min", "max", "last", "sum");
  const asked = fc.record({ measure: how, shift: fc.nat(14_999), sliding: fc.boolean() });
  fc.assert(
    fc.property(values, some, some, choice, asked, (found, missing, silent, choices, { measure, shift, sliding }) => {
      const metric = identity("gauge", "none");
      const here = found.map((value, i) => ({ value, i })).filter(({ i }) => !missing.includes(i));
      const set = emptyPointSet(NUMBER, here.length);
      here.forEach(({ value, i }, row) => {
        set.timeMs[row] = ORIGIN - 5 * MINUTE + i * 15_000 + shift;
        set.columns[0][row] = value / 4;
        set.flags[row] = silent.includes(i) ? FLAG.noRecordedValue : 0;
      });
      const text = `${measure} of m${sliding ? " over 10m" : ""}`;
      const [from, to] = [ORIGIN, ORIGIN + 55 * MINUTE];
      const all = read(text, metric, [set], from, to, COARSE);
      const rolled = read(text, metric, mixed(metric, set, choices), from, to, COARSE);
      expectClose(rolled?.total, all?.total);
      all?.values.forEach((value, i) => {
        expectClose(rolled?.values[i], value);
      });
    }),
    { numRuns: 200, endOnFailure: true },
  );
});

test("rolling up keeps at most two points of a cell between resets", () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 14_000 }), (shift) => {
      const calm = Array.from({ length: 160 }, () => ({
        wait: 15_000,
        ns: 0,
        amount: 3,
        restarts: false,
        silent: false,
      }));
      const set = pointsOf(calm, NUMBER, false, true);
      for (let i = 0; i < set.count; i++) set.timeMs[i] += shift;
      const [rolled] = rollUp(identity("sum", "cumulative"), [set], MINUTE);
      const cells = 160 / 4 + 1;
      expect(rolled.count).toBeLessThanOrEqual(2 * cells);
      expect(rolled.count).toBeGreaterThanOrEqual(cells - 1);
    }),
  );
});

test("points on the clock come down to one per cell", () => {
  const set = emptyPointSet(NUMBER, 240);
  for (let i = 0; i < 240; i++) {
    set.timeMs[i] = ORIGIN + i * 15_000;
    set.columns[0][i] = i * 7;
  }
  expect(rollUp(identity("sum", "cumulative"), [set], MINUTE)[0].count).toBe(61);
});

test("what was rolled up goes through merging like any points", () => {
  const set = pointsOf(
    Array.from({ length: 100 }, (_, i) => ({ wait: 20_000, ns: 5, amount: i % 4, restarts: i === 60, silent: false })),
    NUMBER,
    true,
    true,
  );
  set.series.fill(7);
  const rolled = rollUp(identity("sum", "delta"), [set], MINUTE);
  const parts = assemble(rolled.map((one, i) => ({ set: one, arrived: i }))).get(7)!;
  const sum = (sets: readonly PointSet[]) =>
    sets.reduce((total, { columns }) => total + columns[0].reduce((a, b) => a + b, 0), 0);
  expect(sum(parts)).toBe(sum([set]));
});
