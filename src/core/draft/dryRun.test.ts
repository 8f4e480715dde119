import fc from "fast-check";
import { contractBody } from "../contract/contract";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { addAmount } from "../pipeline/amount";
import { packBatch } from "../pipeline/block";
import { EMPTY_PIPELINE, pipelineSchema } from "../pipeline/config";
import { type StepConfig, stepSchema } from "../pipeline/steps";
import { Arrivals, type Question } from "./dryRun";
import { originalsBeside } from "./mistakes";
import { originsOf, remedyFor } from "./origins";

const dryRunOf = (blocks: Uint8Array[], live: StepConfig[], draft: StepConfig[], rest: Partial<Question> = {}) =>
  new Arrivals(blocks).dryRunOf({
    live: { ...EMPTY_PIPELINE, metrics: live },
    draft: { ...EMPTY_PIPELINE, metrics: draft },
    readings: [],
    contracts: [],
    plates: [],
    follow: { metric: "", find: "" },
    ...rest,
  });

const T0 = 1_764_000_000_000;
type Set4 = { metric: string; route: string; locker: string; at: number };

function blocksOf(points: readonly Set4[]): Uint8Array[] {
  const dictionary = new Dictionary();
  const halves = [points.slice(0, points.length / 2), points.slice(points.length / 2)].filter(
    ({ length }) => length > 0,
  );
  return halves.map((half) => {
    const batch = new Batch();
    for (const { metric, route, locker, at } of half) {
      const known = dictionary.metric(
        { name: metric, kind: "sum", unit: "1", temporality: "delta", monotonic: true },
        "",
      );
      const series = dictionary.series(known, {
        resource: { "service.name": "lockers" },
        scope: { name: "", version: "" },
        attributes: { route, locker },
      });
      batch.number(series, { timeMs: T0 + at, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, 1);
    }
    return packBatch(batch);
  });
}

const points = fc.uniqueArray(
  fc.record({
    metric: fc.constantFrom("opened", "closed"),
    route: fc.constantFrom("/a", "/b"),
    locker: fc.nat(30).map((n) => `locker ${n}`),
    at: fc.nat(60_000),
  }),
  { minLength: 2, maxLength: 60, selector: (one) => JSON.stringify(one) },
);
const steps = (...some: object[]) =>
  pipelineSchema.parse({ metrics: some.map((one, i) => ({ id: `s${i}`, ...one })) }).metrics;

/** What a point of these takes: its times, one number, its attributes. */
const sizeOf = (attributes: Record<string, string>) =>
  28 + 9 + Object.entries(attributes).reduce((sum, [key, value]) => sum + 8 + key.length + value.length, 0);
const total = <T>(all: readonly T[], of: (one: T) => number) => all.reduce((sum, one) => sum + of(one), 0);

const distinct = (all: readonly Set4[], key: (one: Set4) => string) => new Set(all.map(key)).size;

test("what a draft does is what counting by hand gives", () => {
  fc.assert(
    fc.property(points, (all) => {
      const draft = steps(
        { type: "drop", where: 'metric is "closed"' },
        { type: "remove", attributes: ["locker"], every: 60 },
      );
      const dryRun = dryRunOf(blocksOf(all), [], draft);
      const opened = all.filter(({ metric }) => metric === "opened");
      expect(dryRun.live.arrivals.points).toBe(all.length);
      expect(dryRun.live.stored).toEqual(dryRun.live.arrivals);
      expect(dryRun.draft.arrivals.series).toBe(distinct(all, (one) => `${one.metric}${one.route}${one.locker}`));
      expect(dryRun.draft.stored.series).toBe(distinct(opened, ({ route }) => route));
      const windows = new Map(opened.map(({ route, at }) => [`${route}${Math.ceil((T0 + at) / 60_000)}`, route]));
      expect(dryRun.draft.stored.points).toBe(windows.size);
      const closedOnes = all.filter(({ metric }) => metric === "closed");
      const bytes = (some: readonly Set4[]) => total(some, ({ route, locker }) => sizeOf({ route, locker }));
      const nothing = { values: [], problem: null };
      expect(dryRun.draft.steps).toEqual([
        {
          id: "s0",
          in: {
            points: closedOnes.length,
            series: distinct(closedOnes, (one) => `${one.route}${one.locker}`),
            bytes: bytes(closedOnes),
          },
          out: { points: 0, series: 0, bytes: 0 },
          ...nothing,
        },
        {
          id: "s1",
          in: {
            points: opened.length,
            series: distinct(opened, (one) => `${one.route}${one.locker}`),
            bytes: bytes(opened),
          },
          out: {
            points: windows.size,
            series: distinct(opened, ({ route }) => route),
            bytes: total([...windows.values()], (route) => sizeOf({ route })),
          },
          ...nothing,
        },
      ]);
      const closed = dryRun.draft.metrics.find(({ name }) => name === "closed");
      if (closed) expect([closed.after.points, closed.has]).toEqual([0, []]);
    }),
  );
});

test("what multiplies series is what counting by hand gives, and its remedy is a step", () => {
  fc.assert(
    fc.property(points, (all) => {
      const { origins } = dryRunOf(blocksOf(all), [], []);
      for (const origin of origins) {
        const own = all.filter(({ metric }) => metric === origin.metric);
        expect(origin.series).toBe(distinct(own, (one) => `${one.route}${one.locker}`));
        for (const multiplier of origin.multipliers) {
          const { names, without, values, folded, whenFolded } = multiplier;
          const [name] = names;
          const other = name === "locker" ? "route" : "locker";
          // Two that go with each other are one: each of their values has one of the other.
          const paired = values === origin.series && distinct(own, (one) => one[other]) === values;
          expect(names.length).toBe(paired ? 2 : 1);
          expect(without).toBe(paired ? 1 : distinct(own, (one) => one[other]));
          expect(values).toBe(distinct(own, (one) => one[name as "route" | "locker"]));
          if (name === "locker") expect([folded, whenFolded]).toEqual([1, paired ? values : without]);
          const remedy = remedyFor(origin, multiplier, "remedy");
          expect(stepSchema.safeParse(remedy).success).toBe(true);
          expect(remedy.type).toBe(name === "locker" && !paired ? "fold" : "remove");
          const after = dryRunOf(blocksOf(all), [], [remedy]).draft.metrics.find((one) => one.name === origin.metric)!;
          expect(after.after.series).toBe(without);
        }
      }
    }),
    { numRuns: 40 },
  );
});

test("bytes change at each step with the names and values of attributes", () => {
  fc.assert(
    fc.property(points, (all) => {
      const draft = steps(
        { type: "rename", from: "route", to: "way.taken" },
        { type: "set", attribute: "kind", value: "tin" },
        { type: "coarsen", scale: 1 },
      );
      const [rename, set, coarsen] = dryRunOf(blocksOf(all), [], draft).draft.steps;
      const bytes = (change: (one: Set4) => Record<string, string>) => total(all, (one) => sizeOf(change(one)));
      const renamed = bytes(({ route, locker }) => ({ "way.taken": route, locker }));
      expect(rename.in.bytes).toBe(bytes(({ route, locker }) => ({ route, locker })));
      expect([rename.out.bytes, set.in.bytes]).toEqual([renamed, renamed]);
      expect(set.out.bytes).toBe(bytes(({ route, locker }) => ({ "way.taken": route, locker, kind: "tin" })));
      expect([coarsen.in.bytes, coarsen.out.bytes]).toEqual([set.out.bytes, set.out.bytes]);
    }),
  );
});

test("the series that a figure is worked out into are counted behind its step", () => {
  const all = ["/a", "/b"].map((route) => ({ metric: "opened", route, locker: "locker 1", at: 1000 }));
  const draft = steps(
    { type: "compute", reading: "count of opened by route", to: "opened.much", every: 10 },
    { type: "rename", where: 'metric is "opened.much"', from: "route", to: "way" },
  );
  const [compute, rename] = dryRunOf(blocksOf(all), [], draft).draft.steps;
  expect(compute.out).toMatchObject({ points: 2, series: 2 });
  expect(rename).toMatchObject({ in: { points: 2, series: 2 }, out: { points: 2, series: 2 } });
});

describe("following series", () => {
  const all = [
    { metric: "opened", route: "/a", locker: "locker 1", at: 1000 },
    { metric: "opened", route: "/a", locker: "locker 2", at: 2000 },
    { metric: "opened", route: "/b", locker: "locker 2", at: 3000 },
    { metric: "closed", route: "/a", locker: "locker 2", at: 1000 },
  ];
  const draft = steps(
    { type: "drop", where: 'metric is "closed"' },
    { type: "fold", attribute: "locker", folds: ["numbers"] },
    { type: "rename", from: "route", to: "way" },
  );
  const follow = (metric: string, find = "") =>
    dryRunOf(blocksOf(all), [], draft, { follow: { metric, find } }).followed;

  test("each with its points before, and those of what it becomes", () => {
    const { metric, metrics, matching, series } = follow("opened", "/A 1");
    expect([metric, metrics, matching]).toEqual(["opened", ["closed", "opened"], 1]);
    const point = { start: 0, value: 1, count: null, sum: null };
    const window = Math.ceil((T0 + 1000) / 10_000) * 10_000;
    expect(series).toEqual([
      {
        metric: "opened",
        unit: "1",
        attributes: { route: "/a", locker: "locker 1" },
        points: [{ ...point, time: T0 + 1000 }],
        ends: [
          {
            metric: "opened",
            unit: "1",
            attributes: { way: "/a", locker: "locker {id}" },
            met: true,
            points: [{ ...point, time: window, start: window - 10_000, value: 2 }],
          },
        ],
      },
    ]);
  });

  test("what is dropped has no end; where no metric is asked for, one that changes is followed", () => {
    expect(follow("closed").series.map(({ ends }) => ends)).toEqual([[]]);
    expect(follow("nothing of that name").metric).toBe("opened");
  });

  test("a histogram's points say how many and how much", () => {
    const dictionary = new Dictionary();
    const identity = { name: "took", kind: "histogram", unit: "s", temporality: "delta", monotonic: false } as const;
    const series = dictionary.series(dictionary.metric(identity, ""), {
      resource: {},
      scope: { name: "", version: "" },
      attributes: {},
    });
    const batch = new Batch();
    addAmount(batch, series, {
      start: T0,
      time: T0 + 1,
      amount: { kind: "explicit", bounds: [1], counts: [3, 4], sum: 9.5, min: null, max: null },
    });
    const [one] = dryRunOf([packBatch(batch)], [], []).followed.series;
    expect(one.points).toEqual([{ time: T0 + 1, start: T0, value: null, count: 7, sum: 9.5 }]);
    expect(one.ends[0].points).toEqual(one.points);
  });
});

describe("counted twice", () => {
  const merge = { type: "merge", attributes: ["locker"] };

  test("steps that send originals on under the same name are pointed out", () => {
    const beside = (...some: object[]) => originalsBeside(steps(...some));
    const originals = { ...merge, originals: true };
    expect(beside(merge, originals, { ...originals, to: "all" }, { ...originals, on: false })).toEqual(["s1"]);
    expect(beside({ type: "compute", reading: "count of opened", to: "opened" })).toEqual(["s0"]);
    expect(beside({ type: "compute", reading: "count of opened", to: "opened.much" })).toEqual([]);
  });

  test("on what came in, every series that comes out twice under one name is counted, however it got there", () => {
    fc.assert(
      fc.property(points, fc.constantFrom("", "opened", "all"), fc.boolean(), (all, to, renamed) => {
        const draft = steps(
          { ...merge, where: 'metric is "opened"', originals: true, to },
          ...(renamed ? [{ type: "metric", where: 'metric is "all"', to: "opened" }] : []),
        );
        const opened = all.filter(({ metric }) => metric === "opened");
        const series = distinct(opened, (one) => `${one.route}${one.locker}`);
        const twice = (to !== "all" || renamed) && series > 0;
        expect(dryRunOf(blocksOf(all), [], draft).draft.twice).toEqual(twice ? [{ metric: "opened", series }] : []);
      }),
      { numRuns: 40 },
    );
  });
});

test("values are tried at the step that changes them, as they come to it", () => {
  fc.assert(
    fc.property(points, (all) => {
      const draft = steps(
        { type: "redact", attributes: ["locker"], pattern: "locker " },
        { type: "fold", where: 'metric is "opened"', attribute: "locker", folds: ["numbers"] },
        { type: "fold", attribute: "route", folds: ["numbers"] },
      );
      const [redact, fold, idle] = dryRunOf(blocksOf(all), [], draft).draft.steps;
      expect(redact.values).toMatchObject([{ values: distinct(all, ({ locker }) => locker), attribute: "locker" }]);
      const opened = all.filter(({ metric }) => metric === "opened");
      const lockers = distinct(opened, ({ locker }) => locker);
      expect(fold.values.map(({ values, left }) => [values, left])).toEqual(lockers > 0 ? [[lockers, 1]] : []);
      for (const { before, after } of fold.values.flatMap(({ examples }) => examples)) {
        expect(before).toMatch(/^\*\*\*\d+$/);
        expect(after).toBe("***{id}");
      }
      const routes = distinct(all, ({ route }) => route);
      expect(idle.values.map(({ values, left }) => [values, left])).toEqual([[routes, routes]]);
    }),
    { numRuns: 40 },
  );
});

test("a step that changes units tells which metrics it cannot say in its unit", () => {
  const dictionary = new Dictionary();
  const batch = new Batch();
  const add = (name: string, unit: string, kind: "gauge" | "exponential") => {
    const temporality = kind === "gauge" ? "none" : "delta";
    const metric = dictionary.metric({ name, kind, unit, temporality, monotonic: false }, "");
    const series = dictionary.series(metric, { resource: {}, scope: { name: "", version: "" }, attributes: {} });
    const measured = { sum: 3, min: null, max: null };
    const buckets = { scale: 1, zeroThreshold: 0, zero: 0, negative: [], positive: [[2, 3]] as [number, number][] };
    const number = { kind: "number", value: 3, integer: true } as const;
    if (kind === "gauge") addAmount(batch, series, { start: 0, time: T0 - 10_000, amount: number });
    addAmount(batch, series, {
      start: kind === "gauge" ? 0 : T0,
      time: T0 + 1,
      amount: kind === "gauge" ? number : { kind: "exponential", ...buckets, ...measured },
    });
  };
  add("kept.warm", "s", "gauge");
  add("kept.long", "s", "exponential");
  add("kept.much", "By", "gauge");
  const [step] = dryRunOf([packBatch(batch)], [], steps({ type: "unit", to: "ms" })).draft.steps;
  expect(step.problem).toBe(
    "goes through as it is: kept.long is an exponential histogram, whose buckets cannot be moved; kept.much is in By, which is nothing that ms measures",
  );
  const readings = ["max of kept.warm", "max of kept.much"].map((text) => ({ text, at: "" }));
  const warm = { where: 'metric is "kept.warm"' };
  const only = dryRunOf([packBatch(batch)], [], steps({ type: "unit", to: "ms", ...warm }), { readings });
  expect(only.draft.steps[0].problem).toBeNull();
  // Readings are held against each other in one unit.
  const [{ live, draft, pairs }] = only.readings;
  expect([live?.unit, draft?.unit, draft?.series[0].total]).toEqual(["s", "s", 3]);
  expect(pairs.map(({ furthest }) => furthest)).toEqual([null]);
  const swapped = steps({ type: "drop", ...warm }, { type: "metric", where: 'metric is "kept.much"', to: "kept.warm" });
  expect(dryRunOf([packBatch(batch)], [], swapped, { readings }).readings[0].problem).toBe(
    "as drafted it is in By, which cannot be held against s",
  );
});

test("what a value becomes is shown by one that changes, the most frequent, though some need no change", () => {
  const values = ["7", "7", "5", "{id}", "{id}", "{id}"];
  const all = values.map((locker, i) => ({ metric: "opened", route: `/${i}`, locker, at: 1000 }));
  const [fold] = dryRunOf(blocksOf(all), [], steps({ type: "fold", attribute: "locker", folds: ["numbers"] })).draft
    .steps;
  expect(fold.values).toEqual([
    { attribute: "locker", values: 3, left: 1, examples: [{ before: "7", after: "{id}" }] },
  ]);
});

describe("what people look at", () => {
  const all = Array.from({ length: 40 }, (_, i) => ({
    metric: "opened",
    route: i % 2 ? "/a" : "/b",
    locker: `locker ${i % 4}`,
    at: i * 1000,
  }));
  const looked = (text: string, ...some: object[]) =>
    dryRunOf(blocksOf(all), [], steps(...some), { readings: [{ text, at: "contract" }] }).readings[0];

  test("a reading by an attribute that is gone says so, and one where it has a value is empty", () => {
    const remove = { type: "remove", attributes: ["locker"] };
    expect(looked("count of opened by locker", remove)).toMatchObject({ gone: ["locker"], at: "contract" });
    const empty = looked('count of opened where locker is "locker 1"', remove);
    expect([empty.gone, empty.live?.series.length, empty.draft?.series.length]).toEqual([["locker"], 1, 0]);
    expect(looked("count of opened by route", remove)).toMatchObject({ gone: [] });
    expect(looked("count of opened by locker", { type: "drop", where: 'metric is "opened"' })).toMatchObject({
      gone: [],
      draft: { series: [] },
    });
  });

  test("a reading that is not understood says why", () => {
    expect(looked("count off opened").problem).toEqual(expect.any(String));
  });

  test("contracts say what a draft breaks and what it mends", () => {
    const body = contractBody.parse({
      name: "opened",
      kind: "counter",
      unit: "1",
      attributes: [{ name: "route", values: ["/a", "/b"] }, { name: "locker" }],
    });
    const about = (live: StepConfig[], draft: StepConfig[]) =>
      dryRunOf(blocksOf(all), live, draft, { contracts: [body] }).contracts;
    const codes = (live: StepConfig[], draft: StepConfig[]) =>
      about(live, draft).map(({ name, breaks, mends }) => [
        name,
        breaks.map(({ code }) => code),
        mends.map(({ code }) => code),
      ]);
    expect(codes([], steps({ type: "hash", attributes: ["locker"] }))).toEqual([]);
    expect(codes([], steps({ type: "remove", attributes: ["locker"] }))).toEqual([
      ["opened", ["missing-attribute"], []],
    ]);
    expect(codes(steps({ type: "set", attribute: "route", value: "/c" }), [])).toEqual([["opened", [], ["value"]]]);
    expect(codes([], steps({ type: "unit", to: "{door}" }))).toEqual([]);
    const gone = about([], steps({ type: "metric", to: "other" }));
    expect(gone.map(({ breaks }) => breaks.map(({ detail }) => detail))).toEqual([
      ["nothing called opened is stored any more"],
    ]);
  });

  test("plates of sheets that break are told, with the reason, and no others", () => {
    const plate = (text: string, picks: Record<string, string[]> = {}, id = JSON.stringify([text, picks])) => ({
      sheet: "doors",
      name: "Doors",
      id,
      plate: text,
      text,
      picks,
    });
    const plates = [
      plate("count of opened by locker"),
      plate("rate of opened by route"),
      plate("count of opened where route is <route>", { route: ["/a"] }),
      plate("count of opened where route is <route>", { route: [] }),
      plate("count of opened where route is <route>", { route: ["/never"] }),
      plate("count of closed by locker"),
      plate("count off opened"),
    ];
    const broken = (...draft: StepConfig[]) =>
      dryRunOf(blocksOf(all), [], draft, { plates }).plates.map(({ plate: words, why }) => [words, ...why]);
    expect(broken()).toEqual([]);
    expect(broken(...steps({ type: "remove", attributes: ["locker"] }))).toEqual([
      ["count of opened by locker", "opened has no locker any more"],
    ]);
    expect(broken(...steps({ type: "set", attribute: "route", value: "/c" }))).toEqual([
      ["count of opened where route is <route>", "no series of opened passes its tests any more"],
    ]);
    const gone = "nothing called opened is stored any more";
    expect(broken(...steps({ type: "metric", to: "other" }))).toEqual([
      ["count of opened by locker", gone],
      ["rate of opened by route", gone],
      ["count of opened where route is <route>", gone],
      ["count of opened where route is <route>", gone],
      ["count of opened where route is <route>", gone],
    ]);
    // Of a plate with several readings, each says what it loses, and the same but once.
    const several = ["count of opened by locker", "rate of opened by locker", "count of opened by route"];
    const both = several.map((text) => plate(text, {}, "both"));
    const removed = steps({ type: "remove", attributes: ["locker", "route"] });
    expect(dryRunOf(blocksOf(all), [], removed, { plates: both }).plates.map(({ why }) => why)).toEqual([
      ["opened has no locker any more", "opened has no route any more"],
    ]);
  });
});

test("the releases and values that brought most series are told, with how many", () => {
  const dictionary = new Dictionary();
  const identity = { name: "opened", kind: "sum", unit: "1", temporality: "delta", monotonic: true } as const;
  const seriesOf = (release: string, attributes: Record<string, string>) =>
    dictionary.series(dictionary.metric(identity, ""), {
      resource: { "service.name": "lockers", "service.version": release },
      scope: { name: "", version: "" },
      attributes,
    });
  const old = ["Brindle", "Candlewick"].map((depot) => seriesOf("3.1", { depot }));
  const exploded = Array.from({ length: 40 }, (_, i) =>
    seriesOf("3.2", { depot: i < 30 ? "Brindle" : "Candlewick", locker_id: String(i) }),
  );
  const [origin] = originsOf([...old, ...exploded]);
  expect(origin.releases).toEqual([
    { release: "3.2", series: 40 },
    { release: "3.1", series: 2 },
  ]);
  expect(origin.multipliers[0]).toMatchObject({
    names: ["locker_id"],
    values: 40,
    folded: 1,
    without: 4,
    whenFolded: 4,
  });
  const depot = origin.multipliers.find(({ names }) => names.includes("depot"));
  expect(depot?.examples).toEqual(["Brindle", "Candlewick"]);
  // Two ids that go with each other: one of them alone takes nothing away.
  const [paired] = originsOf(
    Array.from({ length: 200 }, (_, i) => seriesOf("3.2", { call: `c${i}`, depot: `d${i % 2}`, visit: `v${i * 7}` })),
  );
  expect(paired.multipliers[0]).toMatchObject({ names: ["call", "visit"], values: 200, without: 2, whenFolded: 200 });
  expect(remedyFor(paired, paired.multipliers[0], "both")).toMatchObject({
    type: "remove",
    attributes: ["call", "visit"],
  });
});
