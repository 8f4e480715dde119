import fc from "fast-check";
import { FLAG, type PointSet } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { collects } from "./choice";
import { Converter, targetInfo } from "./convert";
import { offerOf } from "./offer";
import { readExposition } from "./read";
import { unitFromText } from "./units";
import { writeFamily } from "./write";

const NOW = 1_764_000_000_000;

function converted(text: string, batch = new Batch()) {
  const { families } = readExposition(text, "openmetrics");
  new Converter(new Dictionary()).add(families, batch, { "service.name": "lockers" }, NOW);
  let id = 1;
  for (const series of batch.series()) if (series.id === 0) series.id = id++;
  const byId = new Map([...batch.series()].map((series) => [series.id, series]));
  const rows = batch.pointSets().flatMap(({ metric, sets }) =>
    sets.flatMap((set) =>
      Array.from({ length: set.count }, (_, row) => ({
        name: metric.identity.name,
        kind: metric.identity.kind,
        unit: metric.identity.unit,
        monotonic: metric.identity.monotonic,
        attributes: byId.get(set.series[row])!.identity.attributes,
        layout: set.layout,
        time: set.timeMs[row],
        start: set.startMs[row],
        flags: set.flags[row],
        values: set.columns.map((column) => column[row]),
      })),
    ),
  );
  return { rows, batch };
}

test("counters, their start, and exemplars", () => {
  const { rows, batch } = converted(
    `# TYPE doors counter\ndoors_total{depot="Brindle"} 17 1764000001.5 # {trace_id="0af7651916cd43dd8448eb211c80319c",span_id="b7ad6b7169203331",locker="4"} 0.5 1764000001.25\ndoors_created{depot="Brindle"} 1763990000\n# EOF\n`,
  );
  expect(rows).toEqual([
    expect.objectContaining({
      name: "doors",
      kind: "sum",
      monotonic: true,
      attributes: { depot: "Brindle" },
      time: 1764000001500,
      start: 1763990000000,
      values: [17],
    }),
  ]);
  expect(batch.exemplars).toEqual([
    expect.objectContaining({
      traceId: "0af7651916cd43dd8448eb211c80319c",
      spanId: "b7ad6b7169203331",
      value: 0.5,
      ms: 1764000001250,
      attributes: { locker: "4" },
    }),
  ]);
});

test("a histogram's cumulative buckets become counts; without a count its last bucket says it", () => {
  const { rows } = converted(
    `# TYPE open_seconds histogram\nopen_seconds_bucket{le="1",d="x"} 4\nopen_seconds_bucket{le="+Inf",d="x"} 9\nopen_seconds_bucket{le="0.1",d="x"} 3\nopen_seconds_sum{d="x"} 7.5\n# EOF\n`,
  );
  expect(rows).toEqual([
    expect.objectContaining({
      kind: "histogram",
      unit: "s",
      attributes: { d: "x" },
      layout: { kind: "explicit", bounds: [0.1, 1] },
      values: [3, 1, 5, 0, 0, 7.5],
      time: NOW,
      flags: FLAG.noMin | FLAG.noMax,
    }),
  ]);
});

test("summaries, state sets, info, gauge histograms", () => {
  const { rows } = converted(
    `# TYPE wait summary\nwait{quantile="0.5"} 2\nwait{quantile="0.9"} 5\nwait_count 11\nwait_sum 30\n# TYPE door stateset\ndoor{door="open"} 1\n# TYPE build info\nbuild_info{version="3.2"} 1\n# TYPE depth gaugehistogram\ndepth_bucket{le="+Inf"} 3\ndepth_gcount 3\n# EOF\n`,
  );
  expect(rows.map(({ name, kind, values }) => [name, kind, values])).toEqual([
    ["wait", "summary", [2, 5, 11, 30]],
    ["door", "gauge", [1]],
    ["build", "gauge", [1]],
    ["depth_bucket", "gauge", [3]],
    ["depth_gcount", "gauge", [3]],
  ]);
});

test.each([
  ["# TYPE a counter\na_total -1\n# EOF\n", "a counter cannot be -1 (line 2)"],
  ['# TYPE a histogram\na_bucket{le="1"} 4\na_bucket{le="+Inf"} 3\n# EOF\n', "do not rise"],
  ["# TYPE a histogram\na_sum 4\n# EOF\n", "neither a bucket"],
  ['# TYPE a histogram\na_bucket{le="x"} 4\na_count 4\n# EOF\n', 'label le is "x"'],
  ['a{b="1",b="2"} 1\n# EOF\n', "label b stands twice"],
])("%j is refused with the reason", (text, reason) => {
  expect(converted(text).batch.message()).toContain(reason);
});

test("what describes the target goes to its resource", () => {
  const { families } = readExposition(
    '# TYPE target info\ntarget_info{service_version="3.2",empty=""} 1\n# EOF\n',
    "openmetrics",
  );
  expect(targetInfo(families)).toEqual({ service_version: "3.2" });
  expect(converted('# TYPE target info\ntarget_info{a="b"} 1\n# EOF\n').rows).toEqual([]);
});

test("units from words, from names, and unknown ones", () => {
  expect(unitFromText("seconds", "x")).toBe("s");
  expect(unitFromText("", "memory_bytes")).toBe("By");
  expect(unitFromText("s", "x")).toBe("s");
  expect(unitFromText("", "doors")).toBe("");
  expect(unitFromText("tools", "x_tools")).toBe("{tools}");
});

test("the tree of what is offered counts series, not lines", () => {
  const { families } = readExposition(
    `# TYPE open_seconds histogram\nopen_seconds_bucket{le="1",depot="Brindle"} 1\nopen_seconds_bucket{le="+Inf",depot="Brindle"} 1\nopen_seconds_count{depot="Brindle"} 1\nopen_seconds_bucket{le="+Inf",depot="Tolland"} 1\n# TYPE doors counter\ndoors_total{depot="Brindle",side="a"} 1\ndoors_total{depot="Brindle",side="b"} 1\n# EOF\n`,
    "openmetrics",
  );
  expect(offerOf(families)).toEqual([
    {
      name: "doors",
      type: "counter",
      unit: "",
      help: "",
      series: 2,
      attributes: [
        { name: "depot", distinct: 1, values: [{ value: "Brindle", series: 2 }] },
        {
          name: "side",
          distinct: 2,
          values: [
            { value: "a", series: 1 },
            { value: "b", series: 1 },
          ],
        },
      ],
    },
    {
      name: "open_seconds",
      type: "histogram",
      unit: "s",
      help: "",
      series: 2,
      attributes: [
        {
          name: "depot",
          distinct: 2,
          values: [
            { value: "Brindle", series: 1 },
            { value: "Tolland", series: 1 },
          ],
        },
      ],
    },
  ]);
});

test("choices", () => {
  expect(collects({ type: "all" })("a")).toBe(true);
  expect(["a", "ab"].map(collects({ type: "metrics", names: ["a"] }))).toEqual([true, false]);
  expect(["http_a", "my_http_a"].map(collects({ type: "pattern", pattern: "http_.*" }))).toEqual([true, false]);
});

test("what is written as text comes back as the same points", () => {
  const histogram = fc.record({
    bounds: fc
      .uniqueArray(fc.integer({ min: -50, max: 50 }), { maxLength: 6 })
      .map((list) => list.sort((a, b) => a - b)),
    seed: fc.array(fc.nat(1000), { minLength: 7, maxLength: 7 }),
    sum: fc.integer(),
    start: fc.integer({ min: 1, max: NOW }),
    depot: fc.string({ minLength: 1, unit: "grapheme" }),
  });
  fc.assert(
    fc.property(histogram, ({ bounds, seed, sum, start, depot }) => {
      const counts = seed.slice(0, bounds.length + 1);
      const one = (value: number) => Float64Array.of(value);
      const set: PointSet = {
        layout: { kind: "explicit", bounds },
        count: 1,
        series: one(1),
        timeMs: one(NOW),
        timeNs: one(0),
        startMs: one(start),
        startNs: one(0),
        flags: one(FLAG.noMin | FLAG.noMax),
        columns: [...counts, 0, 0, sum].map(one),
      };
      const identity = {
        name: "open",
        kind: "histogram",
        unit: "s",
        temporality: "cumulative",
        monotonic: true,
      } as const;
      const text = `${writeFamily(identity, "how long", [{ resource: {}, attributes: { depot }, set, row: 0 }])}# EOF\n`;
      const { rows, batch } = converted(text);
      expect(batch.message()).toBe("");
      expect(rows).toEqual([
        {
          name: "open_seconds",
          kind: "histogram",
          unit: "s",
          monotonic: true,
          attributes: { depot },
          layout: set.layout,
          time: NOW,
          start,
          flags: FLAG.noMin | FLAG.noMax,
          values: [...counts, 0, 0, sum === 0 ? 0 : sum],
        },
      ]);
    }),
  );
});
