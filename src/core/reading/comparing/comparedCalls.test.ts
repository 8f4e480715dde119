import fc from "fast-check";
import { prepareDistributions } from "../../compare/distributions";
import { asItIs, compareQuantile } from "../../compare/latency";
import { draws } from "../../compare/resample";
import { sum } from "../../compare/side";
import { totalCount } from "../../histogram/quantile";
import { emptyPointSet, type Layout } from "../../metric/model";
import type { SourceSeries } from "../source";
import {
  type BothSources,
  compareCalls,
  type SideSource,
  shapeOf,
  sidesByValue,
  tellingAttributes,
} from "./comparedCalls";

const BOUNDS = [0.1, 0.2, 0.4, 0.8];
const LAYOUT: Layout = { kind: "explicit", bounds: BOUNDS };
const ORIGIN = 1_764_000_000_000;
const MINUTE = 60_000;
const MINUTES = 6;

interface Made {
  depot: string | null;
  route: string;
  host: string;
  code: number;
  counts: number[];
  layout?: Layout;
}

/** A series that gets `counts` in every minute. */
function series({ depot, route, host, code, counts, layout = LAYOUT }: Made): SourceSeries {
  const set = emptyPointSet(layout, MINUTES + 1);
  set.series.fill(1);
  set.flags.fill(8 | 16);
  for (let i = 0; i <= MINUTES; i++) {
    set.timeMs[i] = ORIGIN + i * MINUTE;
    set.startMs[i] = ORIGIN;
    counts.forEach((count, c) => {
      set.columns[c][i] = count * i;
    });
  }
  const attributes = { "service.version": "1", "host.name": host, route, code, ...(depot === null ? {} : { depot }) };
  return { attributes, parts: [set] };
}

function sideOf(all: Made[]): SideSource {
  const identity = {
    name: "m",
    kind: "histogram" as const,
    unit: "s",
    temporality: "cumulative" as const,
    monotonic: true,
  };
  return {
    source: {
      metrics: [{ identity, series: all.map(series), points: 1 }],
      earliest: ORIGIN - 60 * MINUTE,
      resolutions: [0],
      warnings: [],
    },
    bounds: Float64Array.from({ length: MINUTES + 1 }, (_, i) => ORIGIN + i * MINUTE),
  };
}

const edgesOf = ({ candidate, baseline }: BothSources) => ({
  candidate: shapeOf(candidate).edges,
  baseline: shapeOf(baseline).edges,
});

const fails = ({ code }: Record<string, unknown>) => Number(code) >= 500;

const CANDIDATE: Made[] = [
  { depot: "Brindle", route: "/a", host: "c1", code: 200, counts: [0, 1, 0, 9, 0] },
  { depot: "Brindle", route: "/b", host: "c1", code: 200, counts: [5, 5, 0, 0, 0] },
  { depot: null, route: "/b", host: "c2", code: 500, counts: [0, 2, 0, 0, 1] },
];
const BASELINE: Made[] = [
  { depot: "Brindle", route: "/a", host: "b1", code: 200, counts: [0, 10, 0, 0, 0] },
  { depot: "Candlewick", route: "/b", host: "b1", code: 200, counts: [20, 0, 0, 0, 0] },
];

test("attributes tell what both sides share values of: not what only tells the sides apart", () => {
  const names = tellingAttributes(sideOf(CANDIDATE), sideOf(BASELINE));
  expect(names).toEqual(["code", "depot", "route"]);
  expect(tellingAttributes(sideOf(BASELINE), sideOf(BASELINE))).toEqual(["depot", "route"]);
});

test("each call is counted once, slow and failed ones by their attributes", () => {
  const sides = { candidate: sideOf(CANDIDATE), baseline: sideOf(BASELINE) };
  const edges = edgesOf(sides);
  expect(Array.from(edges.candidate.bounds)).toEqual([0, 0.1, 0.2, 0.4, 0.8, Number.POSITIVE_INFINITY]);
  const found = compareCalls(sides, edges, ["route", "depot"], 0.4, fails);
  expect(sum(found.candidate.calls)).toBeCloseTo(23 * MINUTES, 9);
  expect(sum(found.candidate.failed)).toBeCloseTo(3 * MINUTES, 9);
  expect(sum(found.baseline.calls)).toBeCloseTo(30 * MINUTES, 9);
  const tuple = (route: string, depot: string | null) =>
    found.slow.find(({ values }) => values[0] === route && values[1] === depot)!;
  expect(tuple("/a", "Brindle").candidate.hits[2]).toBeCloseTo(9, 9);
  expect(tuple("/a", "Brindle").baseline.hits[2]).toBeCloseTo(0, 9);
  expect(tuple("/b", null).candidate.hits[0]).toBeCloseTo(1, 9);
  const failed = found.failed.find(({ values }) => values[0] === "/b" && values[1] === null)!;
  expect(failed.candidate.hits[0]).toBeCloseTo(3, 9);
});

test("the sides of an attribute's values add up to the whole, and so do tuples: whatever there is", () => {
  const one = fc.record({
    depot: fc.option(fc.constantFrom("Brindle", "Candlewick", "Nether Pike")),
    route: fc.constantFrom("/a", "/b"),
    host: fc.constantFrom("x", "y"),
    code: fc.constantFrom(200, 500),
    counts: fc.array(fc.integer({ min: 0, max: 9 }), { minLength: 5, maxLength: 5 }),
  });
  fc.assert(
    fc.property(
      fc.array(one, { minLength: 1, maxLength: 8 }),
      fc.array(one, { minLength: 1, maxLength: 8 }),
      (a, b) => {
        const sides = { candidate: sideOf(a), baseline: sideOf(b) };
        const edges = edgesOf(sides);
        const attributes = tellingAttributes(sides.candidate, sides.baseline);
        const found = compareCalls(sides, edges, attributes, 0.4, fails);
        const values = sidesByValue(sides, edges, "depot", fails);
        for (const which of ["candidate", "baseline"] as const) {
          const made = which === "candidate" ? a : b;
          const wanted = made.reduce((total, { counts }) => total + counts.reduce((x, y) => x + y, 0), 0) * MINUTES;
          const slow = made.reduce((total, { counts }) => total + counts[3] + counts[4], 0) * MINUTES;
          expect(sum(found[which].calls)).toBeCloseTo(wanted, 6);
          expect(values.reduce((total, one) => total + sum(one[which].calls), 0)).toBeCloseTo(wanted, 6);
          expect(values.reduce((total, one) => total + sum(one[which].failed), 0)).toBeCloseTo(
            sum(found[which].failed),
            6,
          );
          expect(found.slow.reduce((total, one) => total + sum(one[which].hits), 0)).toBeCloseTo(slow, 6);
          expect(totalCount(shapeOf(sides[which]).calls)).toBeCloseTo(wanted, 6);
        }
      },
    ),
    { numRuns: 60 },
  );
});

/** Calls spread evenly by their logarithm between 20 and 400 ms, in buckets with these bounds. */
function spread(bounds: number[]): Made {
  const below = (bound: number) => 4000 * Math.min(1, Math.max(0, Math.log(bound / 0.02) / Math.log(20)));
  const counts = [...bounds, Number.POSITIVE_INFINITY].map(
    (bound, i) => below(bound) - (i > 0 ? below(bounds[i - 1]) : 0),
  );
  return { depot: "Brindle", route: "/a", host: "x", code: 200, counts, layout: { kind: "explicit", bounds } };
}

test("a release that corrects its buckets is not slower by that, nor faster: what buckets leave open is told", async () => {
  await prepareDistributions();
  const fine = Array.from({ length: 60 }, (_, i) => 0.01 * 1.08 ** i);
  const coarse = [0.05, 0.1, 0.25, 0.5, 1];
  // On one side, or on both as instances with either layout serve beside each other.
  const cases: [Made[], Made[]][] = [
    [[spread(fine)], [spread(coarse)]],
    [[spread(coarse)], [spread(fine)]],
    [[spread(fine), { ...spread(coarse), host: "y" }], [spread(coarse)]],
  ];
  for (const [a, b] of cases) {
    const sides = { candidate: sideOf(a), baseline: sideOf(b) };
    const { candidate, baseline } = compareCalls(sides, edgesOf(sides), [], 0.25, fails);
    const found = compareQuantile(asItIs(candidate), asItIs(baseline), 0.95, draws(MINUTES, 50, 1))!;
    // The true p95 is 344 ms, in the coarse bucket from 250 to 500 ms; even in it, it would be 420 ms.
    for (const { low, high } of [found.candidate, found.baseline]) {
      expect(low).toBeLessThan(0.35);
      expect(high).toBeGreaterThan(0.34);
    }
    expect(found.change.low).toBeLessThan(0);
    expect(found.change.high).toBeGreaterThan(0);
  }
});
