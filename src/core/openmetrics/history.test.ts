import fc from "fast-check";
import { emptyPointSet, type PointSet } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { outgoing } from "../otlp/outgoing";
import { OneSeriesSet } from "../strip/strip";
import { accumulated } from "./accumulate";
import { Converter } from "./convert";
import type { Family } from "./model";
import { ExpositionReader } from "./read";
import { writeFamily } from "./write";

/** Texts that hold many points of each series, such as exports. */

const NOW = 1_764_000_000_000;

/** Rows of what a text holds, read in parts of `most` samples and in blocks of `size` characters. */
function rows(text: string, most: number, size: number): string[] {
  const parts: Family[] = [];
  const problems: unknown[] = [];
  const reader = new ExpositionReader(
    "openmetrics",
    (family) => parts.push(family),
    (problem) => problems.push(problem),
    most,
  );
  for (let at = 0; at < text.length; at += size) reader.feed(text.slice(at, at + size));
  reader.end();
  expect(problems).toEqual([]);
  const found: string[] = [];
  const converter = new Converter(new Dictionary());
  for (const part of parts) {
    const batch = new Batch();
    converter.add([part], batch, { "service.name": "x" }, NOW);
    expect(batch.message()).toBe("");
    const { metrics, naming } = outgoing(batch);
    for (const { identity, sets } of metrics)
      for (const set of sets)
        for (let row = 0; row < set.count; row++)
          found.push(
            JSON.stringify([
              identity.name,
              identity.kind,
              naming(set.series[row]).attributes,
              set.timeMs[row],
              set.startMs[row],
              set.layout,
              set.columns.map((column) => column[row]),
            ]),
          );
  }
  return found.sort();
}

const history = fc.array(
  fc.record({
    depot: fc.constantFrom("east", "west"),
    counts: fc.array(fc.tuple(fc.nat(50), fc.nat(50), fc.nat(50)), { minLength: 1, maxLength: 8 }),
  }),
  { minLength: 1, maxLength: 3 },
);

function textOf(series: { depot: string; counts: [number, number, number][] }[]): string {
  const points: { set: PointSet; row: number; attributes: Record<string, string>; resource: object }[] = [];
  const doors: typeof points = [];
  const column = (values: number[]) => Float64Array.from(values);
  series.forEach(({ depot, counts }, i) => {
    const zero = column(counts.map(() => 0));
    const time = column(counts.map((_, t) => NOW + 1000 * t));
    const start = column(counts.map(() => NOW - 5000));
    const common = { count: counts.length, series: zero, timeMs: time, timeNs: zero, startMs: start, startNs: zero };
    const sums = [0, 0, 0];
    const cumulative = counts.map((found) => found.map((value, c) => (sums[c] += value)));
    const buckets = [0, 1, 2].map((c) => column(cumulative.map((found) => found[c])));
    const total = column(cumulative.map((found) => found[0] + found[1] + found[2]));
    const set: PointSet = {
      ...common,
      flags: column(counts.map(() => 12)),
      layout: { kind: "explicit", bounds: [0.1, 1] },
      columns: [...buckets, zero, zero, total],
    };
    const attributes = { depot: `${depot}${i}` };
    for (let row = 0; row < set.count; row++) points.push({ set, row, attributes, resource: {} });
    const counter: PointSet = { ...common, flags: zero, layout: { kind: "number" }, columns: [total] };
    for (let row = 0; row < set.count; row++) doors.push({ set: counter, row, attributes, resource: {} });
  });
  const identity = { unit: "", temporality: "cumulative" as const, monotonic: true };
  const histogram = writeFamily({ ...identity, name: "open", kind: "histogram" }, "", points as never);
  const counter = writeFamily({ ...identity, name: "doors", kind: "sum" }, "", doors as never);
  return `${histogram}${counter}# EOF\n`;
}

test("a history reads the same in one piece, in parts and in blocks", () => {
  fc.assert(
    fc.property(history, fc.integer({ min: 1, max: 9 }), fc.integer({ min: 20, max: 400 }), (series, most, size) => {
      const text = textOf(series);
      const whole = rows(text, Number.POSITIVE_INFINITY, text.length);
      expect(whole).toHaveLength(2 * series.reduce((sum, { counts }) => sum + counts.length, 0));
      expect(rows(text, most, size)).toEqual(whole);
    }),
    { numRuns: 60 },
  );
});

test("deltas become totals that begin with the first", () => {
  const column = (...values: number[]) => Float64Array.from(values);
  const zero = column(0, 0, 0);
  const set: PointSet = {
    layout: { kind: "explicit", bounds: [1] },
    count: 3,
    series: column(7, 7, 7),
    timeMs: column(2000, 3000, 4000),
    timeNs: zero,
    startMs: column(1000, 2000, 3000),
    startNs: zero,
    flags: zero,
    columns: [column(1, 0, 2), column(3, 1, 0), zero, column(9, 2, 5), column(10, 2.5, 1)],
  };
  const identity = { name: "m", kind: "histogram" as const, unit: "s", temporality: "delta" as const, monotonic: true };
  const { identity: now, sets } = accumulated({ identity, description: "", sets: [set], exemplars: [] });
  expect(now.temporality).toBe("cumulative");
  expect(sets[0].columns.map((values) => [...values])).toEqual([
    [1, 1, 3],
    [3, 4, 4],
    [0, 0, 0],
    [9, 2, 5],
    [10, 12.5, 13.5],
  ]);
  expect([...sets[0].startMs]).toEqual([1000, 1000, 1000]);
  expect([...set.columns[0]]).toEqual([1, 0, 2]);
});

test("deltas become one total where their buckets change, whichever way they are stored", () => {
  const counter = { name: "m", kind: "sum" as const, unit: "", temporality: "delta" as const, monotonic: true };
  const layout = { kind: "number" } as const;
  const part = (times: number[], amounts: number[]): PointSet => {
    const set = emptyPointSet(layout, times.length);
    set.series.fill(4);
    times.forEach((time, row) => {
      set.timeMs[row] = time;
      set.startMs[row] = time - 1000;
      set.columns[0][row] = amounts[row];
    });
    return set;
  };
  const batch = [part([5000, 7000], [1, 2]), part([4000, 6000], [10, 20])];
  // As they come out of a strip that is sorted by series.
  const stored = batch.map((set) => {
    const [time, start] = [
      { ms: set.timeMs, ns: set.timeNs },
      { ms: set.startMs, ns: set.startNs },
    ].map((one) => ({ ...one, count: set.count, plain: true }));
    return new OneSeriesSet(4, time, start, layout, set.count, set.flags, set.columns);
  });
  for (const sets of [batch, stored]) {
    const [one, ...others] = accumulated({ identity: counter, description: "", sets, exemplars: [] }).sets;
    expect(others).toEqual([]);
    expect([...one.series]).toEqual([4, 4, 4, 4]);
    expect([...one.timeMs]).toEqual([4000, 5000, 6000, 7000]);
    expect([...one.columns[0]]).toEqual([10, 11, 31, 33]);
    expect([...one.startMs]).toEqual([3000, 3000, 3000, 3000]);
  }
  const calls = { ...counter, kind: "histogram" as const };
  const held = (time: number, bounds: number[], counts: number[]): PointSet => {
    const set = emptyPointSet({ kind: "explicit", bounds }, 1);
    set.series.fill(4);
    set.timeMs[0] = time;
    counts.forEach((count, i) => {
      set.columns[i][0] = count;
    });
    set.columns[counts.length + 2][0] = time;
    return set;
  };
  const sets = [held(1000, [1, 5, 9], [1, 2, 3, 4]), held(2000, [1, 9], [10, 20, 30])];
  const [one] = accumulated({ identity: calls, description: "", sets, exemplars: [] }).sets;
  expect(one.layout).toEqual({ kind: "explicit", bounds: [1, 9] });
  expect(one.columns.map((column) => [...column]).filter((_, i) => i !== 3 && i !== 4)).toEqual([
    [1, 11],
    [5, 25],
    [4, 34],
    [1000, 3000],
  ]);
});
