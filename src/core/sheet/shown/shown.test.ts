import fc from "fast-check";
import type { ReadingResult, ReadingSeries } from "../../reading/result";
import { addsUp } from "./adds";
import { changeFigures, changeFrom, shareAsShown } from "./change";
import { stepsCsv, windowCsv } from "./csv";
import { nameOf } from "./names";
import { joined, rowLink, sortedRows } from "./rows";
import { chosenSeries, inOrder, sumOf } from "./series";
import { amountIn, writerFor } from "./writer";

const one = (
  labels: ReadingSeries["labels"],
  total: number | null,
  values: (number | null)[] = [total],
): ReadingSeries => ({
  labels,
  values,
  total,
});
const answer = (...series: ReadingSeries[]): ReadingResult => ({
  reading: "",
  unit: "1",
  share: false,
  from: 0,
  to: 60_000,
  every: 60_000,
  times: [60_000],
  settledTo: null,
  series,
  warnings: [],
  services: [],
  resolution: "raw",
  resolutions: ["raw"],
});

test("values are written in the form that was chosen, or the one that fits", () => {
  const seconds = { unit: "s", share: false };
  const auto = { unit: "", decimals: null };
  expect(writerFor(seconds, auto, 0.412).text(0.412)).toBe("412 ms");
  expect(writerFor(seconds, { unit: "s", decimals: 2 }, 0.412).text(0.412)).toBe("0.41 s");
  expect(writerFor(seconds, { unit: "s", decimals: 2 }, 0.412).text(-1234.5)).toBe("−1,234.50 s");
  expect(writerFor({ unit: "1", share: true }, { unit: "%", decimals: 1 }, 1).text(0.98712)).toBe("98.7 %");
  expect(writerFor({ unit: "By", share: false }, { unit: "MiB", decimals: 0 }, 1).text(5 * 1024 ** 3)).toBe(
    "5,120 MiB",
  );
  expect(writerFor({ unit: "{loan}/s", share: false }, { unit: "ms", decimals: null }, 8).text(8)).toBe("8 loan/s");
  expect(writerFor({ unit: "{loan}", share: false }, { unit: "", decimals: 0 }, 24_973).text(24_973)).toBe(
    "24,973 loan",
  );
  expect(writerFor(seconds, auto, 1).text(null)).toBe("—");
});

test.each([
  ["300 ms", "s", 0.3],
  ["0.3", "s", 0.3],
  ["2 GiB", "By", 2 * 1024 ** 3],
  ["5 %", "1", 0.05],
  ["250 µs", "ms", 0.25],
  ["-4", "{loan}", -4],
  ["300 ms", "By", null],
  ["soon", "s", null],
  ["3 furlongs", "s", null],
])("%s in %s is %s", (text, unit, wanted) => {
  const got = amountIn(text, unit);
  if (wanted === null) expect(got).toBeNull();
  else expect(got).toBeCloseTo(wanted, 12);
});

test("series are called by a pattern, or by all their labels", () => {
  const series = { labels: { depot: "Brindle", "tool.kind": null, "service.version": "5.3.0" } };
  expect(nameOf(series, "{depot}, {tool.kind}")).toBe("Brindle, none");
  expect(nameOf(series, "release {release}")).toBe("release 5.3.0");
  expect(nameOf(series, "")).toBe("Brindle · none · 5.3.0");
  expect(nameOf({ labels: {} }, "", "loans")).toBe("loans");
});

test.each([
  ["rate of loan.reserved by depot", true],
  ["60 * count of loan.reserved by depot", true],
  ["sum of a by x + sum of b by x", true],
  ["rate of a by x / 2", true],
  ["rate of a by x / rate of b", false],
  ["p95 of d by depot", false],
  ["mean of d by depot", false],
  ["last of q by queue", false],
  ["share under 300 ms of d by depot", false],
  ["rate of", false],
])("%s adds up: %s", (text, wanted) => expect(addsUp(text)).toBe(wanted));

test("the largest are shown and the rest is what the others come to: together they are the whole", () => {
  const values = fc.option(fc.integer({ min: -5, max: 50 }), { nil: null });
  const series = fc.array(fc.array(values, { minLength: 3, maxLength: 3 }), { maxLength: 12 }).map((all) =>
    all.map((steps, i) =>
      one(
        { k: String(i) },
        steps.reduce<number | null>((sum, v) => (v === null ? sum : (sum ?? 0) + v), null),
        steps,
      ),
    ),
  );
  fc.assert(
    fc.property(series, fc.integer({ min: 1, max: 6 }), (all, top) => {
      const { shown, rest, others } = chosenSeries(
        { series: all },
        { order: "largest first", top, rest: true, names: "" },
        60,
      );
      expect(shown.length + others).toBe(all.length);
      const least = Math.min(...shown.map(({ total }) => total ?? Number.NEGATIVE_INFINITY));
      for (const other of all)
        if (!shown.includes(other)) expect(other.total ?? Number.NEGATIVE_INFINITY).toBeLessThanOrEqual(least);
      const parts = rest ? [...shown, rest] : shown;
      if (all.length > 0) expect(sumOf(parts)).toEqual(sumOf(all));
    }),
  );
  const many = answer(one({ k: "a" }, 1), one({ k: "b" }, 2));
  const asked = { order: "as read", top: 1, rest: true, names: "" } as const;
  expect(chosenSeries(many, { ...asked, rest: addsUp("p95 of m by k") }, 60)).toEqual({
    shown: [many.series[1]],
    rest: null,
    others: 1,
  });
});

test("orders: by size with those without a value last, and by name as people count", () => {
  const all = [one({ k: "host 10" }, 3), one({ k: "host 9" }, null), one({ k: "host 1" }, 7)];
  const names = (order: Parameters<typeof inOrder>[1]) => inOrder(all, order).map(({ labels }) => labels.k);
  expect(names("as read")).toEqual(["host 10", "host 9", "host 1"]);
  expect(names("largest first")).toEqual(["host 1", "host 10", "host 9"]);
  expect(names("smallest first")).toEqual(["host 10", "host 1", "host 9"]);
  expect(names("by name")).toEqual(["host 1", "host 9", "host 10"]);
});

test("readings stand side by side, joined by their labels", () => {
  const rate = answer(one({ depot: "Brindle" }, 3), one({ depot: "Candlewick" }, 5));
  const p95 = answer(one({ depot: "Brindle" }, 0.4), one({ depot: "Marrow Quay" }, 0.2));
  const all = answer(one({}, 8));
  const texts = ["count of a by depot", "p95 of b by depot", "count of a"];
  expect(joined([rate, p95, all], texts)).toEqual({
    labels: ["depot"],
    rows: [
      { labels: { depot: "Brindle" }, values: [3, 0.4, 8] },
      { labels: { depot: "Candlewick" }, values: [5, null, 8] },
      { labels: { depot: "Marrow Quay" }, values: [null, 0.2, 8] },
    ],
    sums: [8, null, 8],
  });
  expect(joined([null, all], texts.slice(1))).toMatchObject({ labels: [], rows: [{ labels: {}, values: [null, 8] }] });
  // A reading by one label of two stands beside all of its parts.
  const parts = answer(one({ depot: "Brindle", kind: "hand" }, 1), one({ depot: "Brindle", kind: "powered" }, 2));
  expect(
    joined([parts, rate], ["count of a by depot, kind", "count of a by depot"]).rows.map(({ values }) => values),
  ).toEqual([
    [1, 3],
    [2, 3],
  ]);
});

test("rows are sorted by a column; those without a value come last whichever way", () => {
  const rows = [
    { labels: { k: "b10" }, values: [1] },
    { labels: { k: "b9" }, values: [null] },
    { labels: { k: null }, values: [3] },
  ];
  const values = (by: number | string, falling: boolean) => sortedRows(rows, by, falling).map((row) => row.values[0]);
  expect(values(0, true)).toEqual([3, 1, null]);
  expect(values(0, false)).toEqual([1, 3, null]);
  expect(values("k", false)).toEqual([null, 1, 3]);
  expect(values("k", true)).toEqual([1, null, 3]);
});

test("a row leads where its values say, as an address needs them", () => {
  expect(rowLink("/services/one?service={service.name}&x={no}", { "service.name": "a b&c" })).toBe(
    "/services/one?service=a%20b%26c&x=",
  );
});

test("a change is told with its part, of shares in points, and whether it is good", () => {
  expect(changeFrom(200, 250, false, "down")).toEqual({ mark: "▲", by: 50, part: 0.25, good: false });
  expect(changeFrom(0.99, 0.98, true, "up")).toEqual({ mark: "▼", by: expect.closeTo(-0.01), part: null, good: false });
  expect(changeFrom(0, 5, false, "neither")).toEqual({ mark: "▲", by: 5, part: null, good: null });
  expect(changeFrom(-4, -2, false, "up")).toMatchObject({ part: 0.5, good: true });
  expect(changeFrom(3, 3, false, "up")).toEqual({ mark: "▬", by: 0, part: 0, good: null });
  expect(changeFrom(null, 3, false, "up")).toBeNull();
});

test("a change in figures: a part in percent, a share in points, and what is no part of anything in its unit", () => {
  const write = (by: number) => `${by} loans`;
  const figures = (a: number, b: number, share = false, decimals: number | null = null) =>
    changeFigures(changeFrom(a, b, share, "neither")!, share, write, decimals);
  expect(figures(80, 40)).toBe("▼ 50 %");
  expect(figures(1000, 1005.65)).toBe("▲ 0.565 %");
  expect(figures(0, 5)).toBe("▲ 5 loans");
  expect(figures(0.004, 0.0085, true)).toBe("▲ 0.45 points");
  expect(figures(0.004, 0.0085, true, 1)).toBe("▲ 0.5 points");
  expect(figures(3, 3)).toBe("▬");
});

test("two shares differ by what their figures show: 0.398 % and 0.404 % by 0.006 points, 42.1 % and 42.14 % not at all", () => {
  const differ = (before: number, now: number, decimals: number | null = null) =>
    100 * (shareAsShown(now, now, decimals) - shareAsShown(before, now, decimals));
  expect(differ(0.0040356, 0.00398)).toBeCloseTo(-0.006, 12);
  expect(differ(0.4214, 0.42101)).toBe(0);
  expect(differ(0.0026, 0.0024, 1)).toBeCloseTo(-0.1, 12);
  fc.assert(
    fc.property(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }), (a, b) => {
      // Each is moved by half of the last figure at most, and both by the same grid.
      const last = b === 0 ? 1 : 10 ** Math.min(0, Math.max(-8, Math.floor(Math.log10(b * 100)) - 2));
      expect(Math.abs(100 * (shareAsShown(a, b, null) - a))).toBeLessThanOrEqual(last / 2 + 1e-9);
    }),
  );
});

test("figures go into a file whole, steps as rows or labels as rows", () => {
  const counted = {
    ...answer(one({ depot: 'Brindle, "old"' }, 3, [1, 2]), one({ depot: "Candlewick" }, null, [null, null])),
    unit: "{loan}",
    times: [60_000, 120_000],
  };
  const whole = { ...answer(one({}, 0.5, [0.5])), times: [120_000] };
  const readings = [
    { text: "count of a by depot", names: "", result: counted },
    { text: "share of b", names: "", result: whole },
  ];
  expect(stepsCsv(readings)).toBe(
    'until,"Brindle, ""old"" [{loan}]",Candlewick [{loan}],share of b\r\n1970-01-01T00:01:00.000Z,1,,\r\n1970-01-01T00:02:00.000Z,2,,0.5\r\n',
  );
  expect(windowCsv(readings)).toBe(
    'depot,count of a by depot [{loan}],share of b\r\n"Brindle, ""old""",3,0.5\r\nCandlewick,,0.5\r\n',
  );
});

test("the bands of a spread are rows of their own", () => {
  const spread = answer(
    { ...one({ depot: "Brindle" }, 3), band: { low: null, high: 1 } },
    { ...one({ depot: "Brindle" }, 5), band: { low: 1, high: null } },
  );
  expect(windowCsv([{ text: "spread of a by depot", names: "", result: spread }])).toBe(
    'depot,"lie from, to",spread of a by depot\r\nBrindle,up to 1,3\r\nBrindle,above 1,5\r\n',
  );
});
