import fc from "fast-check";
import { Batch } from "../otlp/batch";
import { Dictionary } from "../otlp/dictionary";
import { packBatch } from "./block";
import { EMPTY_PIPELINE, pipelineSchema } from "./config";
import { Arrivals } from "./effect";
import { type StepConfig, stepSchema } from "./metricSteps";
import { countedTwice, originsOf, remedyFor } from "./origins";

const effectOf = (blocks: Uint8Array[], live: StepConfig[], draft: StepConfig[], readings: string[] = []) =>
  new Arrivals(blocks).effectOf({ ...EMPTY_PIPELINE, metrics: live }, { ...EMPTY_PIPELINE, metrics: draft }, readings);

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

const distinct = (all: readonly Set4[], key: (one: Set4) => string) => new Set(all.map(key)).size;

test("what a draft does is what counting by hand gives", () => {
  fc.assert(
    fc.property(points, (all) => {
      const draft = steps(
        { type: "drop", where: 'metric is "closed"' },
        { type: "remove", attributes: ["locker"], every: 60 },
      );
      const effect = effectOf(blocksOf(all), [], draft);
      const opened = all.filter(({ metric }) => metric === "opened");
      expect(effect.live.arrivals.points).toBe(all.length);
      expect(effect.live.stored).toEqual(effect.live.arrivals);
      expect(effect.draft.arrivals.series).toBe(distinct(all, (one) => `${one.metric}${one.route}${one.locker}`));
      expect(effect.draft.stored.series).toBe(distinct(opened, ({ route }) => route));
      const windows = distinct(opened, ({ route, at }) => `${route}${Math.ceil((T0 + at) / 60_000)}`);
      expect(effect.draft.stored.points).toBe(windows);
      expect(effect.draft.steps).toEqual([
        {
          id: "s0",
          in: {
            points: all.length - opened.length,
            series: distinct(
              all.filter(({ metric }) => metric === "closed"),
              (one) => `${one.route}${one.locker}`,
            ),
          },
          out: { points: 0, series: 0 },
          problem: null,
        },
        {
          id: "s1",
          in: { points: opened.length, series: distinct(opened, (one) => `${one.route}${one.locker}`) },
          out: { points: windows, series: distinct(opened, ({ route }) => route) },
          problem: null,
        },
      ]);
      const closed = effect.draft.metrics.find(({ name }) => name === "closed");
      if (closed) expect([closed.after.points, closed.has]).toEqual([0, []]);
    }),
  );
});

test("what multiplies series is what counting by hand gives, and its remedy is a step", () => {
  fc.assert(
    fc.property(points, (all) => {
      const { origins } = effectOf(blocksOf(all), [], []);
      for (const origin of origins) {
        const own = all.filter(({ metric }) => metric === origin.metric);
        expect(origin.series).toBe(distinct(own, (one) => `${one.route}${one.locker}`));
        for (const multiplier of origin.multipliers) {
          const { name, without, values, folded, whenFolded } = multiplier;
          const other = name === "locker" ? "route" : "locker";
          expect(without).toBe(distinct(own, (one) => one[other]));
          expect(values).toBe(distinct(own, (one) => one[name as "route" | "locker"]));
          if (name === "locker") expect([folded, whenFolded]).toEqual([1, without]);
          const remedy = remedyFor(origin, multiplier, "remedy");
          expect(stepSchema.safeParse(remedy).success).toBe(true);
          expect(remedy.type).toBe(name === "locker" ? "fold" : "remove");
          const after = effectOf(blocksOf(all), [], [remedy]).draft.metrics.find((one) => one.name === origin.metric)!;
          expect(after.after.series).toBe(without);
        }
      }
    }),
    { numRuns: 40 },
  );
});

test("a series is followed to its end", () => {
  const all = [
    { metric: "opened", route: "/a", locker: "locker 1", at: 1000 },
    { metric: "closed", route: "/a", locker: "locker 2", at: 1000 },
  ];
  const draft = steps(
    { type: "drop", where: 'metric is "closed"' },
    { type: "fold", attribute: "locker", folds: ["numbers"] },
    { type: "rename", from: "route", to: "way" },
  );
  const { traces } = effectOf(blocksOf(all), [], draft).draft;
  expect(traces.find(({ metric }) => metric === "closed")!.ends).toEqual([]);
  expect(traces.find(({ metric }) => metric === "opened")).toEqual({
    metric: "opened",
    attributes: { route: "/a", locker: "locker 1" },
    ends: [{ metric: "opened", attributes: { way: "/a", locker: "locker {id}" }, unit: "1", met: true }],
  });
});

test("a merge whose originals go on under the same name is pointed out", () => {
  const merge = { type: "merge", attributes: ["locker"] };
  expect(countedTwice(steps(merge, { ...merge, originals: true }, { ...merge, originals: true, to: "all" }))).toEqual([
    "s1",
  ]);
  expect(countedTwice(steps({ ...merge, originals: true, on: false }))).toEqual([]);
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
  expect(origin.multipliers[0]).toMatchObject({ name: "locker_id", values: 40, folded: 1, without: 4, whenFolded: 4 });
  const depot = origin.multipliers.find(({ name }) => name === "depot");
  expect(depot?.examples).toEqual(["Brindle", "Candlewick"]);
});
