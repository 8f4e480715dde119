import { emptyPointSet, type Kind, type Layout, type MetricIdentity, type Temporality } from "../metric/model";
import { askedOf } from "./aggregations";
import { evaluate } from "./evaluate";
import { chooseMetrics } from "./kinds";
import { parseReading } from "./language/parse";
import { type MeasureNode, measuresOf, ReadingError } from "./language/tree";
import type { MetricSource } from "./source";

/** Several kinds, units and temporalities under one name. */

const FROM = 1_764_000_000_000;

function metric(
  kind: Kind,
  { unit = "s", temporality = "delta" as Temporality, monotonic = true, service = "kiln", rows = 2, value = 3 } = {},
): MetricSource {
  const layout: Layout = kind === "histogram" ? { kind: "explicit", bounds: [5, 10] } : { kind: "number" };
  const set = emptyPointSet(layout, rows);
  for (let i = 0; i < rows; i++) {
    set.timeMs[i] = FROM + (i + 1) * 10_000;
    set.startMs[i] = FROM + i * 10_000;
    set.columns.forEach((column, c) => {
      column[i] = kind === "histogram" && c > 0 && c < 3 ? 0 : value;
    });
  }
  const identity: MetricIdentity = { name: "m", kind, unit, temporality, monotonic };
  return { identity, series: [{ attributes: { "service.name": service }, parts: [set] }], points: rows };
}

const gauge = (more = {}) => metric("gauge", { temporality: "none", monotonic: false, ...more });
const counter = (more = {}) => metric("sum", more);
const histogram = (more = {}) => metric("histogram", more);

function read(text: string, metrics: readonly MetricSource[]) {
  const tree = parseReading(text);
  const [node] = measuresOf(tree.expression);
  const { metrics: chosen, warnings } = chooseMetrics(node.aggregation, metrics);
  const source = { metrics: chosen, warnings, earliest: FROM - 3600_000, resolutions: [0] };
  const asked = { from: FROM, to: FROM + 60_000, every: 60_000, zone: "UTC", picks: {} };
  return evaluate(tree, asked, 60_000, new Map<MeasureNode, typeof source>([[node, source]]));
}

test.each([
  ["count of m", [gauge({ rows: 9, service: "shed" }), counter()], 6],
  ["last of m", [gauge({ service: "shed" }), counter({ rows: 9 })], 3],
  ["p50 of m", [counter({ rows: 9 }), gauge({ rows: 9 }), histogram({ rows: 3 })], 3],
  ["count of m", [counter({ rows: 4 }), histogram({ rows: 3 })], 12],
  ["count of m", [counter({ rows: 3 }), histogram({ rows: 4 })], 12],
  ["sum of m", [gauge({ rows: 2 }), counter({ rows: 5 })], 15],
  ["count of m", [counter({ rows: 2 }), counter({ rows: 3, temporality: "delta", monotonic: true })], 15],
] as [string, MetricSource[], number][])("%s reads one kind, and the right one (%#)", (text, metrics, total) => {
  expect(read(text, metrics).series[0].total).toBe(total);
});

test("what is left out is said, with who sends it", () => {
  const { warnings } = read("rate of m", [gauge({ service: "shed" }), counter({ rows: 1 })]);
  expect(warnings).toEqual([
    {
      code: "mixed-kinds",
      message: "m also arrives as a gauge from shed (1 series), which is left out: this reads the counter",
    },
  ]);
});

test("where no kind answers, the error names the one that is sent most", () => {
  expect(() => read("p95 of m", [gauge({ rows: 9 }), counter({ rows: 2 })])).toThrow(ReadingError);
  expect(() => read("p95 of m", [gauge({ rows: 9 }), counter({ rows: 2 })])).toThrow("m is a gauge and has no p95");
});

test("another unit is converted, the buckets of a histogram too, and refused where it measures something else", () => {
  const seconds = histogram({ rows: 3, unit: "s", value: 4 });
  const millis = histogram({ rows: 2, unit: "ms", value: 4000, service: "shed" });
  millis.series[0].parts[0].layout = { kind: "explicit", bounds: [5000, 10_000] };
  const both = read("sum of m", [millis, seconds]);
  expect(both.unit).toBe("s");
  expect(both.series[0].total).toBe(3 * 4 + 2 * 4);
  expect(read("max of m", [millis, seconds]).series[0].total).toBe(4);
  expect(read("share under 5 of m", [millis, seconds]).series[0].total).toBe(1);
  const bytes = histogram({ unit: "By", service: "shed" });
  const odd = read("count of m", [bytes, histogram({ rows: 3 })]);
  expect(odd.series[0].total).toBe(9);
  expect(odd.warnings.map(({ code }) => code)).toEqual(["mixed-units"]);
});

test("a metric of which nothing passes keeps its kind and unit", () => {
  const empty = { ...counter({ unit: "{loan}" }), series: [], points: 0 };
  const { series, unit } = read("rate of m", [empty]);
  expect(series).toEqual([]);
  expect(unit).toBe("{loan}/s");
});

test("an infinite value is told and left out, and spoils no total", () => {
  const odd = gauge({ rows: 3 });
  odd.series[0].parts[0].columns[0].set([3, Number.POSITIVE_INFINITY, 5]);
  const answer = read("mean of m", [odd]);
  expect(answer.series[0].total).toBeGreaterThan(3);
  expect(answer.warnings.map(({ code }) => code)).toEqual(["not-finite"]);
  const sums = histogram({ rows: 2, value: 4 });
  sums.series[0].parts[0].columns.at(-1)!.set([Number.NaN, 4]);
  const summed = read("sum of m", [sums]);
  expect(summed.series[0].total).toBe(4);
  expect(summed.warnings.map(({ code }) => code)).toEqual(["not-finite"]);
});

const TEXTS: Record<string, string> = {
  "share … that": 'share of m that k is "a"',
  "share under": "share under 5 of m",
  "share over": "share over 5 of m",
  "a percentile": "p50 of m",
};

test("what a hint names is not refused, for any kind", () => {
  for (const kind of ["gauge", "sum", "histogram"] as const)
    for (const temporality of ["delta", "cumulative"] as const)
      for (const monotonic of [true, false]) {
        const one = metric(kind, { temporality: kind === "gauge" ? "none" : temporality, monotonic });
        const named = askedOf(one.identity).split(/, | or /);
        expect(named.length).toBeGreaterThan(1);
        for (const words of named) expect(() => read(TEXTS[words] ?? `${words} of m`, [one])).not.toThrow();
      }
});
