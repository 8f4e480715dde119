import fc from "fast-check";
import type { Attributes, Kind, MetricIdentity, Temporality } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import type { PointHead } from "../otlp/batch/group";
import { histogramFlags } from "../otlp/batch/histograms";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { Numbers } from "../otlp/numbers";
import { heldSeries, readHeld } from "../reading/offline";
import { amountAt, countOf } from "./amount";
import { pipelineSchema } from "./config";
import { Lane } from "./lane";
import type { StepConfig } from "./steps";
import type { WindowedState } from "./windowed";

const T0 = 1_764_000_000_000;

function stepsOf(...steps: object[]): StepConfig[] {
  return pipelineSchema.parse({ metrics: steps.map((step, i) => ({ id: `s${i}`, ...step })) }).metrics;
}

interface Sent {
  /** Which member, and at which second. */
  member: string;
  at: number;
  start: number;
  value: number;
}

const headOf = ({ at, start }: Sent): PointHead => ({
  timeMs: T0 + at * 1000,
  timeNs: 0,
  startMs: start < 0 ? 0 : T0 + start * 1000,
  startNs: 0,
  flags: 0,
});

const IDENTITY: MetricIdentity = { name: "m", kind: "sum", unit: "s", temporality: "cumulative", monotonic: true };

class Feed {
  readonly dictionary = new Dictionary();

  series(member: string, identity: Partial<MetricIdentity> = {}, attributes: Attributes = {}): KnownSeries {
    const metric = this.dictionary.metric({ ...IDENTITY, ...identity }, "");
    return this.dictionary.series(metric, {
      resource: { "service.name": "loans" },
      scope: { name: "", version: "" },
      attributes: { member, depot: "Brindle", ...attributes },
    });
  }

  numbers(points: readonly Sent[], identity: Partial<MetricIdentity> = {}): Batch {
    const batch = new Batch();
    for (const point of points) batch.number(this.series(point.member, identity), headOf(point), point.value);
    return batch;
  }
}

/** What came out, a line per point, in one order. */
function flat(batch: Batch) {
  const all: KnownSeries[] = [];
  const lines: {
    name: string;
    attributes: Attributes;
    time: number;
    start: number;
    kind: Kind;
    count: number;
    sum: number | null;
    values: number[];
  }[] = [];
  for (const { set } of batch.numbered((series) => all.push(series) - 1))
    for (let row = 0; row < set.count; row++) {
      const { metric, identity } = all[set.series[row]];
      const amount = amountAt(set, row);
      lines.push({
        name: metric.identity.name,
        attributes: identity.attributes,
        time: (set.timeMs[row] - T0) / 1000,
        start: set.startMs[row] === 0 ? -1 : (set.startMs[row] - T0) / 1000,
        kind: metric.identity.kind,
        count: amount ? countOf(amount) : Number.NaN,
        sum: amount && amount.kind !== "number" ? amount.sum : null,
        values: set.columns.map((column) => column[row]),
      });
    }
  const order = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);
  return lines.sort((a, b) => order(JSON.stringify(a.attributes), JSON.stringify(b.attributes)) || a.time - b.time);
}

/** Runs a lane over batches, closing windows after each, and putting it away and taking it up again in between. */
function run(
  dictionary: Dictionary,
  steps: readonly StepConfig[],
  batches: readonly { batch: Batch; upTo: number }[],
  again = false,
) {
  let lane = new Lane(steps, dictionary, T0);
  const out = new Batch();
  const held = new Map<string, Batch>();
  const hold = (step: string, batch: Batch) => {
    const known = held.get(step);
    if (known) known.append(batch);
    else held.set(step, batch);
  };
  for (const { batch, upTo } of batches) {
    for (const { step, batch: some } of lane.admit(batch)) hold(step, some);
    out.append(batch);
    for (const step of lane.waitingSteps) {
      const due = held.get(step) ?? new Batch();
      held.delete(step);
      const bound = lane.boundAt(step, T0 + upTo * 1000);
      if (bound <= lane.closedUpTo(step)) {
        hold(step, due);
        continue;
      }
      const later = due.takeLater(bound);
      if (later.points > 0) hold(step, later);
      const { out: done, waiting } = lane.advance(step, due, bound);
      out.append(done);
      for (const { step: later, batch: some } of waiting) hold(later, some);
    }
    if (again) {
      const saved = JSON.parse(JSON.stringify(lane.save())) as Record<string, WindowedState>;
      lane = new Lane(steps, dictionary, T0 + 1e9, saved);
    }
  }
  return { out, lane };
}

/** Points of counters with resets, by what they add. */
const member = fc.record({
  name: fc.constantFrom("a", "b", "c", "d"),
  temporality: fc.constant("cumulative"),
  steps: fc.array(fc.record({ wait: fc.integer({ min: 1, max: 9 }), adds: fc.nat(40), anew: fc.boolean() }), {
    minLength: 1,
    maxLength: 12,
  }),
});

function pointsOf(members: { name: string; steps: { wait: number; adds: number; anew: boolean }[] }[], delta: boolean) {
  const sent: Sent[] = [];
  let total = 0;
  const names = new Set<string>();
  for (const { name, steps } of members) {
    if (names.has(name)) continue;
    names.add(name);
    let at = 0;
    let start = 0;
    let value = 0;
    for (const { wait, adds, anew } of steps) {
      if (anew && !delta) {
        start = at;
        value = 0;
      }
      const from = at;
      at += wait;
      value += adds;
      total += adds;
      sent.push({ member: name, at, start: delta ? from : start, value: delta ? adds : value });
    }
  }
  return { sent, total };
}

const REMOVE = { type: "remove", attributes: ["member"] };
const MERGE = { type: "merge", attributes: ["member"] };
const SLOW = { type: "slow", every: 30 };
const inOne = (batch: Batch) => [{ batch, upTo: 600 }];

/** What points of one temporality add up to, by the rules of the standard. */
function increase(lines: readonly { start: number; time: number; count: number }[], temporality: Temporality): number {
  if (temporality === "delta") return lines.reduce((sum, { count }) => sum + count, 0);
  let sum = 0;
  lines.forEach(({ start, count }, i) => {
    const before = lines[i - 1];
    sum += before && before.start === start ? count - before.count : count;
  });
  return sum;
}

describe.each(["cumulative", "delta"] as const)("%s counters", (temporality) => {
  const identity = { temporality };

  test.each([
    ["removing an attribute", [REMOVE]],
    ["merging", [MERGE]],
    ["merging, then slowing down", [MERGE, SLOW]],
    ["slowing down, then merging", [SLOW, MERGE]],
  ])("%s keeps what was added, in windows as a brute-force sum has it", (_, steps) => {
    fc.assert(
      fc.property(fc.array(member, { minLength: 1, maxLength: 4 }), (members) => {
        const { sent, total } = pointsOf(members, temporality === "delta");
        const feed = new Feed();
        const { out } = run(feed.dictionary, stepsOf(...steps), inOne(feed.numbers(sent, identity)));
        const lines = flat(out);
        expect(new Set(lines.map(({ attributes }) => JSON.stringify(attributes))).size).toBe(1);
        expect(lines[0].attributes).toEqual({ depot: "Brindle" });
        expect(increase(lines, temporality)).toBe(total);
        expect(lines.every(({ time }) => time % 10 === 0)).toBe(true);
      }),
    );
  });

  test("each series by itself is slowed down to its windows and keeps what it added", () => {
    fc.assert(
      fc.property(fc.array(member, { minLength: 1, maxLength: 4 }), (members) => {
        const { sent } = pointsOf(members, temporality === "delta");
        const feed = new Feed();
        const { out } = run(feed.dictionary, stepsOf(SLOW), inOne(feed.numbers(sent, identity)));
        for (const name of new Set(sent.map((one) => one.member))) {
          const own = flat(out).filter(({ attributes }) => attributes.member === name);
          const wanted = sent.filter((one) => one.member === name);
          expect(increase(own, temporality)).toBe(
            increase(
              wanted.map(({ at, start, value }) => ({ time: at, start, count: value })),
              temporality,
            ),
          );
          expect(own.map(({ time }) => time)).toEqual([...new Set(wanted.map(({ at }) => Math.ceil(at / 30) * 30))]);
        }
      }),
    );
  });

  test("neither the order of arrival in a window, nor how often it is put away and taken up, changes anything", () => {
    fc.assert(
      fc.property(
        fc.array(member, { minLength: 1, maxLength: 4 }),
        fc.infiniteStream(fc.nat(1000)),
        (members, dice) => {
          const { sent } = pointsOf(members, temporality === "delta");
          const steps = stepsOf(MERGE, SLOW);
          const feed = new Feed();
          const whole = flat(run(feed.dictionary, steps, inOne(feed.numbers(sent, identity))).out);
          const windows = new Map<number, Sent[]>();
          for (const one of sent) {
            const end = Math.ceil(one.at / 10) * 10;
            windows.set(end, [...(windows.get(end) ?? []), one]);
          }
          const ends = [...windows.keys()].sort((a, b) => a - b);
          const shuffled = (list: Sent[]) =>
            list
              .map((one) => ({ one, key: dice.next().value }))
              .sort((a, b) => a.key - b.key)
              .map(({ one }) => one);
          const pieces = ends.map((upTo) => ({ batch: feed.numbers(shuffled(windows.get(upTo)!), identity), upTo }));
          // The second step's windows are longer: what waits there is closed at the end, at one of its bounds.
          const closing = [30, 60, 90, 120].map((upTo) => ({ batch: new Batch(), upTo }));
          const parts = [...pieces, ...closing].sort((a, b) => a.upTo - b.upTo);
          expect(flat(run(feed.dictionary, stepsOf(MERGE), parts, true).out)).toEqual(
            flat(run(feed.dictionary, stepsOf(MERGE), inOne(feed.numbers(sent, identity))).out),
          );
          expect(increase(whole, temporality)).toBe(pointsOf(members, temporality === "delta").total);
        },
      ),
    );
  });
});

test("histograms: counts and sums stay, whatever the buckets of the members", () => {
  const bounds = fc.subarray([1, 2, 5, 10, 20], { minLength: 1 });
  const shot = fc.record({
    member: fc.constantFrom("a", "b", "c"),
    at: fc.integer({ min: 1, max: 50 }),
    value: fc.nat(25),
  });
  fc.assert(
    fc.property(
      fc.array(bounds, { minLength: 3, maxLength: 3 }),
      fc.array(shot, { minLength: 1, maxLength: 30 }),
      (all, shots) => {
        const feed = new Feed();
        const batch = new Batch();
        const once = new Map(shots.map((one) => [`${one.member} ${one.at}`, one]));
        for (const { member: name, at, value } of once.values()) {
          const own = all["abc".indexOf(name)];
          const counts = new Array<number>(own.length + 1).fill(0);
          counts[
            own.findIndex((bound) => value <= bound) < 0 ? own.length : own.findIndex((bound) => value <= bound)
          ]++;
          batch.explicit(
            feed.series(name, { kind: "histogram", temporality: "delta" }),
            { ...headOf({ member: name, at, start: at - 1, value }), flags: histogramFlags(0, true, true, true) },
            { count: 1, sum: value, min: value, max: value },
            Numbers.of(own),
            Numbers.of(counts),
          );
        }
        const lines = flat(run(feed.dictionary, stepsOf(MERGE), inOne(batch)).out);
        expect(lines.reduce((sum, { count }) => sum + count, 0)).toBe(once.size);
        const wanted = [...once.values()].reduce((sum, { value }) => sum + value, 0);
        expect(lines.reduce((sum, one) => sum + one.sum!, 0)).toBe(wanted);
        // Least and greatest of a window are those of its members.
        for (const { time, values } of lines) {
          const inside = [...once.values()]
            .filter(({ at }) => Math.ceil(at / 10) * 10 === time)
            .map(({ value }) => value);
          expect(values.slice(-3, -1)).toEqual([Math.min(...inside), Math.max(...inside)]);
        }
      },
    ),
  );
});

test("exponential histograms of different scales meet at the coarser, with every observation in its bucket", () => {
  const shot = fc.record({
    member: fc.constantFrom("a", "b"),
    at: fc.integer({ min: 1, max: 40 }),
    index: fc.integer({ min: -40, max: 40 }),
  });
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 6 }),
      fc.integer({ min: 0, max: 6 }),
      fc.array(shot, { minLength: 1, maxLength: 30 }),
      (first, second, shots) => {
        const feed = new Feed();
        const batch = new Batch();
        const once = new Map(shots.map((one) => [`${one.member} ${one.at}`, one]));
        const scaleOf = (name: string) => (name === "a" ? first : second);
        for (const { member: name, at, index } of once.values())
          batch.exponential(
            feed.series(name, { kind: "exponential", temporality: "delta" }),
            { ...headOf({ member: name, at, start: at - 1, value: 0 }), flags: histogramFlags(0, true, false, false) },
            { count: 1, sum: 2, min: 0, max: 0, scale: scaleOf(name), zeroCount: 0, zeroThreshold: 0 },
            { offset: index, counts: Numbers.of([1]) },
            { offset: 0, counts: Numbers.of([]) },
          );
        const { out } = run(feed.dictionary, stepsOf(MERGE), inOne(batch));
        const found = new Map<string, number>();
        for (const { set } of out.numbered(() => 0))
          for (let row = 0; row < set.count; row++) {
            const amount = amountAt(set, row)!;
            if (amount.kind !== "exponential") throw new Error(amount.kind);
            for (const [index, count] of amount.positive) {
              const key = `${(set.timeMs[row] - T0) / 1000} ${amount.scale} ${index}`;
              found.set(key, (found.get(key) ?? 0) + count);
            }
          }
        const wanted = new Map<string, number>();
        for (const { member: name, at, index } of once.values()) {
          const end = Math.ceil(at / 10) * 10;
          const here = [...once.values()].filter((one) => Math.ceil(one.at / 10) * 10 === end);
          const scale = Math.min(...here.map((one) => scaleOf(one.member)));
          const key = `${end} ${scale} ${index >> (scaleOf(name) - scale)}`;
          wanted.set(key, (wanted.get(key) ?? 0) + 1);
        }
        expect([...found].sort()).toEqual([...wanted].sort());
      },
    ),
  );
});

test.each(["sum", "mean", "min", "max"] as const)("gauges meet as the %s of what each said last", (how) => {
  const shot = fc.record({
    member: fc.constantFrom("a", "b", "c"),
    at: fc.integer({ min: 1, max: 50 }),
    value: fc.integer(),
  });
  fc.assert(
    fc.property(fc.array(shot, { minLength: 1, maxLength: 30 }), (shots) => {
      const feed = new Feed();
      const once = [...new Map(shots.map((one) => [`${one.member} ${one.at}`, { ...one, start: -1 }])).values()];
      const identity = { kind: "gauge", temporality: "none", monotonic: false } as const;
      const { out } = run(feed.dictionary, stepsOf({ ...MERGE, how }), inOne(feed.numbers(once, identity)));
      for (const { time, values } of flat(out)) {
        const last = new Map<string, Sent>();
        for (const one of once)
          if (Math.ceil(one.at / 10) * 10 === time && one.at >= (last.get(one.member)?.at ?? 0))
            last.set(one.member, one);
        const said = [...last.values()].map(({ value }) => value);
        const sum = said.reduce((all, value) => all + value, 0);
        const wanted = { sum, mean: sum / said.length, min: Math.min(...said), max: Math.max(...said) };
        expect(values[0]).toBeCloseTo(wanted[how], 6);
      }
    }),
  );
});

test("distinct members are counted by window", () => {
  const feed = new Feed();
  const sent = ["a", "b", "a", "c"].map((name, i) => ({ member: name, at: 3 + 4 * i, start: 0, value: 1 }));
  const lines = flat(
    run(feed.dictionary, stepsOf({ ...MERGE, how: "distinct", to: "members" }), inOne(feed.numbers(sent))).out,
  );
  expect(lines.map(({ name, kind, time, values }) => [name, kind, time, values[0]])).toEqual([
    ["members", "gauge", 10, 2],
    ["members", "gauge", 20, 2],
  ]);
});

test("late counts go into the window that is open; late levels are left out and counted", () => {
  const feed = new Feed();
  const steps = stepsOf(MERGE);
  const late = { member: "b", at: 5, start: 0, value: 7 };
  const first = { member: "a", at: 3, start: 0, value: 1 };
  const parts = (identity: Partial<MetricIdentity>) => [
    { batch: feed.numbers([first], identity), upTo: 10 },
    { batch: feed.numbers([late], identity), upTo: 20 },
  ];
  expect(flat(run(feed.dictionary, steps, parts({})).out).map(({ time, count }) => [time, count])).toEqual([
    [10, 1],
    [20, 8],
  ]);
  const gauge = { name: "g", kind: "gauge", temporality: "none", monotonic: false } as const;
  const { out, lane } = run(feed.dictionary, steps, parts(gauge));
  expect(flat(out)).toHaveLength(1);
  expect(lane.counts().s0).toMatchObject({ in: 2, out: 1, late: 1 });
});

test("steps in order: kept and dropped, renamed, hashed, set, folded, in another unit; each with exact counts", () => {
  const feed = new Feed();
  const batch = new Batch();
  const routes = ["/loans/81", "/loans/82", "/tools"];
  routes.forEach((route, i) => {
    const series = feed.series(
      "a",
      { name: i < 2 ? "calls" : "other" },
      { "http.route": route, who: "ottilie@example" },
    );
    batch.number(series, headOf({ member: "a", at: 4, start: 0, value: 2000 }), 2000);
  });
  batch.number(feed.series("x", { name: "noise" }), headOf({ member: "x", at: 1, start: 0, value: 1 }), 1);
  const steps = stepsOf(
    { type: "drop", where: 'metric is "noise"' },
    { type: "rename", from: "member", to: "person" },
    { type: "hash", attributes: ["who"], where: "who is there" },
    { type: "set", attribute: "team", value: "tools" },
    { type: "fold", attribute: "http.route", folds: ["numbers"], where: 'metric is "calls"' },
    { type: "metric", to: "requests", where: 'metric is "calls"' },
    { type: "unit", to: "ms" },
    { type: "rename", from: "person", to: "nobody", on: false },
  );
  const { out, lane } = run(feed.dictionary, steps, inOne(batch));
  const lines = flat(out);
  expect(lines).toHaveLength(2);
  const calls = lines.find(({ name }) => name === "requests")!;
  expect(calls).toMatchObject({
    count: 4_000_000,
    attributes: { "http.route": "/loans/{id}", person: "a", team: "tools" },
  });
  expect(calls.attributes.who).toMatch(/^[0-9a-f]{16}$/);
  expect(lines.find(({ name }) => name === "other")).toMatchObject({ count: 2_000_000 });
  const counts = lane.counts();
  expect(Object.values(counts).map((one) => [one.in, one.out])).toEqual([
    [1, 0],
    [3, 3],
    [3, 3],
    [3, 3],
    [2, 1],
    [1, 1],
    [2, 2],
  ]);
});

test("keep lets only what matches through; originals of a merge may go on beside it", () => {
  const feed = new Feed();
  const sent = ["a", "b"].map((name) => ({ member: name, at: 4, start: 0, value: 3 }));
  const steps = stepsOf({ type: "keep", where: 'member is "a"' }, { ...MERGE, to: "all", originals: true });
  const lines = flat(run(feed.dictionary, steps, inOne(feed.numbers(sent))).out);
  expect(lines.map(({ name, count, attributes }) => [name, count, attributes.member])).toEqual([
    ["all", 3, undefined],
    ["m", 3, "a"],
  ]);
});

test("past a limit, further series go to the overflow series, and nothing that they add is lost", () => {
  fc.assert(
    fc.property(fc.array(member, { minLength: 1, maxLength: 4 }), fc.integer({ min: 1, max: 3 }), (members, series) => {
      const { sent, total } = pointsOf(members, false);
      const feed = new Feed();
      const lines = flat(run(feed.dictionary, stepsOf({ type: "limit", series }), inOne(feed.numbers(sent))).out);
      const byKey = new Map<string, typeof lines>();
      for (const line of lines) {
        const key = JSON.stringify(line.attributes);
        byKey.set(key, [...(byKey.get(key) ?? []), line]);
      }
      const names = new Set(sent.map((one) => one.member)).size;
      expect(byKey.size).toBe(Math.min(names, series + 1));
      expect(byKey.has('{"otel.metric.overflow":true}')).toBe(names > series);
      expect([...byKey.values()].reduce((sum, own) => sum + increase(own, "cumulative"), 0)).toBe(total);
    }),
  );
});

test("a metric of which some series meet sends all of them the same way", () => {
  const feed = new Feed();
  const metric = feed.dictionary.metric(IDENTITY, "");
  const bare = feed.dictionary.series(metric, { resource: {}, scope: { name: "", version: "" }, attributes: {} });
  const tagged = feed.dictionary.series(metric, {
    resource: {},
    scope: { name: "", version: "" },
    attributes: { x: "1" },
  });
  const lane = new Lane(stepsOf({ type: "remove", attributes: ["x"] }), feed.dictionary, T0);
  const point = (series: KnownSeries, at: number) => {
    const batch = new Batch();
    batch.number(series, headOf({ member: "", at, start: 0, value: 1 }), 1);
    return { batch, waiting: lane.admit(batch) };
  };
  expect(point(bare, 1).batch.points).toBe(1);
  expect(point(tagged, 2).waiting).toHaveLength(1);
  expect(point(bare, 3).waiting).toHaveLength(1);
});

test("what a limit let through stays through, in another process and after a restart", () => {
  const steps = pipelineSchema.parse({ metrics: [{ id: "few", type: "limit", series: 2 }] }).metrics;
  const arrive = (lane: Lane, dictionary: Dictionary, member: string) => {
    const identity = { name: "m", kind: "sum", unit: "1", temporality: "delta", monotonic: true } as const;
    const series = dictionary.series(dictionary.metric(identity, ""), {
      resource: {},
      scope: { name: "", version: "" },
      attributes: { member },
    });
    const batch = new Batch();
    batch.number(series, { timeMs: 1_764_000_000_000, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, 1);
    return lane.admit(batch).length === 0;
  };
  const [one, other] = [new Dictionary(), new Dictionary()];
  const first = new Lane(steps, one, 0);
  expect(["a", "b", "c", "a"].map((member) => arrive(first, one, member))).toEqual([true, true, false, true]);
  const seen = JSON.parse(JSON.stringify(first.routes.takeSeen()));
  expect(seen).toHaveLength(2);
  expect(first.routes.takeSeen()).toEqual([]);
  const second = new Lane(steps, other, 0);
  second.routes.addSeen(seen);
  expect(["c", "b", "a"].map((member) => arrive(second, other, member))).toEqual([false, true, true]);
});

test("a step that takes the place of another gives no window's end that the other gave, and counts all", () => {
  const [T0, identity] = [
    1_764_000_000_000,
    { name: "m", kind: "sum", unit: "1", temporality: "cumulative", monotonic: true } as const,
  ];
  const lengths = fc.constantFrom(1, 2, 3, 7, 10);
  fc.assert(
    fc.property(lengths, lengths, fc.integer({ min: 500, max: 19_999 }), (first, second, cut) => {
      const dictionary = new Dictionary();
      const stepOf = (every: number) =>
        pipelineSchema.parse({ metrics: [{ id: "r", type: "remove", attributes: ["reel"], every }] }).metrics;
      const series = dictionary.series(dictionary.metric(identity, ""), {
        resource: {},
        scope: { name: "", version: "" },
        attributes: { reel: "1" },
      });
      const waiting = (lane: Lane, from: number, to: number) => {
        const all = new Batch();
        for (let at = 500; at <= 20_000; at += 500) {
          if (at <= from || at > to) continue;
          const batch = new Batch();
          const head = { timeMs: T0 + at, timeNs: 0, startMs: T0, startNs: 0, flags: 0 };
          batch.number(series, head, at / 500);
          for (const { batch: some } of lane.admit(batch)) all.append(some);
        }
        return all;
      };
      const before = new Lane(stepOf(first), dictionary, T0);
      const early = waiting(before, 0, cut);
      const closed = T0 + cut + 1;
      const told = before.advance("r", early, closed).out;
      const after = new Lane(stepOf(second), dictionary, T0 + cut, {}, [], before.closedUpTo("r"));
      for (const [text, base] of before.save().r.bases) {
        expect(text).toContain("reel");
        after.seed("r", series, base);
      }
      const later = waiting(after, cut, 20_000);
      const rest = after.advance("r", later, after.boundAfter("r", T0 + 40_000)).out;
      const times = (batch: Batch) => batch.inColumns().sets.flatMap(({ set }) => [...set.timeMs]);
      const last = Math.max(T0, ...times(told));
      for (const time of times(rest)) expect(time).toBeGreaterThan(last);
      const asked = { from: T0, to: T0 + 60_000, every: 60_000, zone: "UTC", picks: {} };
      const { series: found } = readHeld("count of m", heldSeries([told, rest]), asked, T0);
      expect(found[0]?.total).toBe(40);
    }),
  );
});
